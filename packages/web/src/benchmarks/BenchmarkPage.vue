<script setup lang="ts">
import type { RuleSource } from '@jurybox/core'
import { conditionInWords } from '@jurybox/core/rules'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import type { BenchmarkView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'
import BenchmarkValues from './BenchmarkValues.vue'

/** One benchmark: its rules with their branches, its values, and what it covers of published standards. */
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const view = ref<BenchmarkView | null>(null)
const problem = ref('')
const tab = computed({ get: () => String(route.query['tab'] ?? 'rules'), set: (tab) => void router.replace({ query: { ...route.query, tab } }) })
const openRule = computed(() => String(route.query['rule'] ?? ''))
const words = ref('')
const rules = computed(() => (view.value?.rules ?? []).filter((rule) => `${rule.id} ${rule.title} ${rule.topic}`.toLowerCase().includes(words.value.toLowerCase())))
const framework = ref('')
const covered = computed(() => (view.value?.coverage ?? []).filter((line) => line.framework === framework.value))
const share = (id: string): string => {
  const lines = (view.value?.coverage ?? []).filter((line) => line.framework === id)
  return `${lines.filter((line) => line.coverage !== 'none').length} of ${lines.length}`
}

async function load(): Promise<void> {
  try {
    view.value = await api.get<BenchmarkView>(`${engagement.base}/benchmarks/${String(route.params['benchmark'])}`)
    framework.value ||= view.value.frameworks.find((one) => one.id.startsWith('pci'))?.id ?? view.value.frameworks[0]?.id ?? ''
    problem.value = ''
    await nextTick()
    document.getElementById(`rule-${openRule.value}`)?.scrollIntoView({ block: 'center' })
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
watch(() => route.params['benchmark'], load, { immediate: true })
const toggle = (id: string): void => void router.replace({ query: { ...route.query, rule: openRule.value === id ? undefined : id } })

function subjectOf(each: NonNullable<RuleSource['each']>): string {
  if ('block' in each) return [each.block].flat().join(' | ')
  return 'lines' in each ? [each.lines].flat().join(' | ') : each.model
}
</script>

<template>
  <div class="page">
    <ProblemNote :text="problem" />
    <template v-if="view">
      <div class="page-head">
        <div class="grow">
          <p class="quiet"><router-link to="../benchmarks">Benchmarks</router-link> ▸</p>
          <h1>{{ view.title }} <span class="quiet version">{{ view.version }}</span></h1>
          <p class="quiet">{{ view.statement }}</p>
          <p class="quiet">Profile {{ view.profile }}<template v-if="view.fittedBy">, fitted by {{ view.fittedBy }} <AgeText :at="view.fittedAt" /></template></p>
        </div>
      </div>
      <v-tabs v-model="tab" density="compact"><v-tab value="rules">Rules ({{ view.rules.length }})</v-tab><v-tab value="values">Profile and values</v-tab><v-tab value="coverage">Coverage</v-tab></v-tabs>

      <div v-if="tab === 'rules'" class="panel">
        <div class="find"><v-text-field v-model="words" label="Find a rule" /></div>
        <table class="rows">
          <thead><tr><th scope="col">Rule</th><th scope="col">Topic</th><th scope="col">Severity</th><th scope="col">Profile</th></tr></thead>
          <tbody>
            <template v-for="rule in rules" :key="rule.id">
              <tr :id="`rule-${rule.id}`" :class="{ left: !rule.selected }">
                <td><button type="button" class="as-link" :aria-expanded="openRule === rule.id" @click="toggle(rule.id)">{{ rule.title }}</button><div class="quiet"><code>{{ rule.id }}</code></div></td>
                <td>{{ rule.topic }}</td><td><SeverityNotches :severity="rule.severity" /></td><td>{{ rule.profile }}<span v-if="!rule.selected" class="quiet"> not selected</span></td>
              </tr>
              <tr v-if="openRule === rule.id">
                <td colspan="4" class="open">
                  <p>{{ rule.statement }}</p>
                  <section v-for="(body, i) in [rule, ...rule.also]" :key="i">
                    <p class="quiet">{{ i === 0 ? 'Asked of' : 'The same question put to' }} {{ body.dialects.join(', ') }}<template v-if="body.each">, for each <code>{{ subjectOf(body.each) }}</code>; where there is none: {{ body.nothing?.outcome }}</template></p>
                    <ol class="branches">
                      <li v-for="branch in body.decide" :key="branch.id"><VerdictMark :outcome="branch.outcome" /><div><span>{{ branch.when === undefined ? 'in every other case' : conditionInWords(branch.when) }}</span><div class="quiet">{{ branch.id }}: {{ branch.note }}</div></div></li>
                    </ol>
                  </section>
                  <p class="quiet">{{ rule.references.join(' · ') }}</p>
                </td>
              </tr>
            </template>
          </tbody>
        </table>
      </div>

      <BenchmarkValues v-else-if="tab === 'values'" :key="view.fittedAt ?? ''" :view="view" @saved="load" />

      <div v-else class="panel">
        <div class="frameworks">
          <button v-for="one in view.frameworks" :key="one.id" type="button" :aria-pressed="framework === one.id" class="framework" @click="framework = one.id">{{ one.title }} <span class="quiet">{{ share(one.id) }}</span></button>
        </div>
        <p class="quiet remark">{{ view.frameworks.find((one) => one.id === framework)?.remark }}</p>
        <table class="rows">
          <thead><tr><th scope="col">Requirement</th><th scope="col">Title</th><th scope="col">Decided</th><th scope="col">Rules</th></tr></thead>
          <tbody>
            <tr v-for="line in covered" :key="line.requirement">
              <td>{{ line.requirement }}</td><td>{{ line.title }}</td><td>{{ line.coverage === 'partly' ? 'partly, by machine' : 'not covered here' }}</td>
              <td><template v-for="(rule, i) in line.rules" :key="rule">{{ i > 0 ? ', ' : '' }}<router-link :to="{ query: { tab: 'rules', rule } }">{{ rule }}</router-link></template></td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </div>
</template>

<style scoped>
.version { font-size: 15px; font-weight: 400; font-family: var(--sans); }
.find { padding: 10px; max-width: 320px; }
.left td { opacity: 0.75; }
.open { background: rgb(var(--v-theme-background)); }
.branches { padding: 0; margin: 8px 0; list-style: none; display: grid; gap: 6px; }
.branches li { display: grid; grid-template-columns: 120px 1fr; gap: 10px; }
.branches span { overflow-wrap: anywhere; }
.frameworks { display: flex; flex-wrap: wrap; gap: 6px; padding: 10px; }
.framework { border: var(--hair); border-radius: 3px; padding: 3px 10px; font: inherit; color: inherit; cursor: pointer; min-height: 28px; }
.framework[aria-pressed='true'] { border-color: rgb(var(--v-theme-primary)); box-shadow: inset 0 -2px rgb(var(--v-theme-primary)); }
.remark { padding: 0 10px 8px; font-size: 12.5px; }
</style>

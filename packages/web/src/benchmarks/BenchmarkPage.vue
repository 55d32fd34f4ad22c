<script setup lang="ts">
import type { RuleSource } from '@jurybox/core/rules'
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
import CoverageTable from './CoverageTable.vue'
import QuestionList from './QuestionList.vue'

/** One benchmark: its rules with their branches, its values, and what it covers of published standards. */
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const view = ref<BenchmarkView | null>(null)
const problem = ref('')
const tab = computed({
  get: () => String(route.query['tab'] ?? (view.value?.rules.length === 0 ? 'questions' : 'rules')),
  set: (tab) => void router.replace({ query: { ...route.query, tab } }),
})
const openRule = computed(() => String(route.query['rule'] ?? ''))
const words = ref('')
const rules = computed(() =>
  (view.value?.rules ?? []).filter((rule) =>
    `${rule.id} ${rule.title} ${rule.topic}`.toLowerCase().includes(words.value.toLowerCase()),
  ),
)

async function load(): Promise<void> {
  try {
    view.value = await api.get<BenchmarkView>(`${engagement.base}/benchmarks/${String(route.params['benchmark'])}`)
    problem.value = ''
    await nextTick()
    document.getElementById(`rule-${openRule.value}`)?.scrollIntoView({ block: 'center' })
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
watch(() => route.params['benchmark'], load, { immediate: true })
const toggle = (id: string): void =>
  void router.replace({ query: { ...route.query, rule: openRule.value === id ? undefined : id } })

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
          <h1>
            {{ view.title }} <span class="quiet version">{{ view.version }}</span>
          </h1>
          <p class="quiet">{{ view.statement }}</p>
          <p class="quiet">
            Profile {{ view.profile
            }}<template v-if="view.fittedBy">, fitted by {{ view.fittedBy }} <AgeText :at="view.fittedAt" /></template>
          </p>
        </div>
        <v-btn
          size="small"
          variant="outlined"
          :href="`/api${engagement.base}/benchmarks/${view.id}/fitting.yaml`"
          download
          >Download fitting</v-btn
        >
      </div>
      <v-tabs v-model="tab" density="compact"
        ><v-tab v-if="view.rules.length > 0" value="rules">Rules ({{ view.rules.length }})</v-tab
        ><v-tab v-if="view.attestations > 0" value="questions">Questions ({{ view.attestations }})</v-tab
        ><v-tab value="values">Profile and values</v-tab><v-tab value="coverage">Coverage</v-tab></v-tabs
      >

      <div v-if="tab === 'rules'" class="panel">
        <div class="find"><v-text-field v-model="words" label="Find a rule" /></div>
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Rule</th>
              <th scope="col">Topic</th>
              <th scope="col">Severity</th>
              <th scope="col">Profile</th>
            </tr>
          </thead>
          <tbody>
            <template v-for="rule in rules" :key="rule.id">
              <tr :id="`rule-${rule.id}`" :class="{ left: !rule.selected }">
                <td>
                  <button type="button" class="as-link" :aria-expanded="openRule === rule.id" @click="toggle(rule.id)">
                    {{ rule.title }}
                  </button>
                  <div class="quiet">
                    <code>{{ rule.id }}</code>
                  </div>
                </td>
                <td>{{ rule.topic }}</td>
                <td><SeverityNotches :severity="rule.severity" /></td>
                <td>{{ rule.profile }}<span v-if="!rule.selected" class="quiet"> not selected</span></td>
              </tr>
              <tr v-if="openRule === rule.id">
                <td colspan="4" class="open">
                  <p>{{ rule.statement }}</p>
                  <section v-for="(body, i) in [rule, ...rule.also]" :key="i">
                    <p class="quiet">
                      {{ i === 0 ? 'Asked of' : 'The same question put to' }} {{ body.dialects.join(', ')
                      }}<template v-if="body.each"
                        >, for each <code>{{ subjectOf(body.each) }}</code>; where there is none:
                        {{ body.nothing?.outcome }}</template
                      >
                    </p>
                    <ol class="branches">
                      <li v-for="branch in body.decide" :key="branch.id">
                        <VerdictMark :outcome="branch.outcome" />
                        <div>
                          <span>{{
                            branch.when === undefined ? 'in every other case' : conditionInWords(branch.when)
                          }}</span>
                          <div class="quiet">{{ branch.id }}: {{ branch.note }}</div>
                        </div>
                      </li>
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

      <QuestionList v-else-if="tab === 'questions'" :benchmark="view.id" />

      <CoverageTable v-else :view="view" />
    </template>
  </div>
</template>

<style scoped>
.version {
  font-size: 15px;
  font-weight: 400;
  font-family: var(--sans);
}
.find {
  padding: 10px;
  max-width: 320px;
}
.left td {
  opacity: 0.75;
}
.open {
  background: rgb(var(--v-theme-background));
}
.branches {
  padding: 0;
  margin: 8px 0;
  list-style: none;
  display: grid;
  gap: 6px;
}
.branches li {
  display: grid;
  grid-template-columns: 120px 1fr;
  gap: 10px;
}
.branches span {
  overflow-wrap: anywhere;
}
</style>

<script setup lang="ts">
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { type BenchmarkView, getBenchmark, exportFitting } from '@jurybox/api/benchmarks'
import type { RuleSource } from '@jurybox/core/rules'
import { conditionInWords } from '@jurybox/core/rules'
import { computed, nextTick, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { addressOf } from '../api/client.ts'
import BenchmarkExchange from './BenchmarkExchange.vue'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'
import BenchmarkValues from './BenchmarkValues.vue'
import CoverageTable from './CoverageTable.vue'
import QuestionList from './QuestionList.vue'
import { useFrameworks } from '../stores/frameworks.ts'

/** One benchmark: its rules with their branches, its values, and what it covers of published standards. */
const engagement = useEngagement()
const frameworks = useFrameworks()
void frameworks.load()
const route = useRoute()
const router = useRouter()
const {
  data: view,
  problem,
  load,
} = useQuery(
  getBenchmark,
  () => {
    const { benchmark } = route.params
    return typeof benchmark === 'string' ? { params: { benchmark } } : null
  },
  { afresh: true },
)
const tab = computed({
  get: () => String(route.query['tab'] ?? (view.value?.rules.length === 0 ? 'questions' : 'rules')),
  set: (tab) => void router.push({ query: { ...route.query, tab } }),
})
const profileTitle = (id: string): string => view.value?.profiles.find((one) => one.id === id)?.title ?? id
const openRule = computed(() => String(route.query['rule'] ?? ''))
watch(view, async () => {
  await nextTick()
  document.getElementById(`rule-${openRule.value}`)?.scrollIntoView({ block: 'center' })
})
const toggle = (id: string): void =>
  void router.push({ query: { ...route.query, rule: openRule.value === id ? undefined : id } })

function subjectOf(each: NonNullable<RuleSource['each']>): string {
  if ('block' in each) return [each.block].flat().join(' | ')
  return 'lines' in each ? [each.lines].flat().join(' | ') : each.model
}
const columns: Column<BenchmarkView['rules'][number]>[] = [
  { key: 'rule', title: t('common.rule'), value: ({ title, id }) => `${title} (${id})` },
  { key: 'topic', title: t('common.topic'), value: ({ topic }) => topic },
  { key: 'severity', title: t('common.severity'), value: ({ severity }) => severity },
  { key: 'profile', title: t('benchmarks.profileLabel'), value: ({ profile }) => profileTitle(profile) },
]
</script>

<template>
  <div class="page">
    <EmptyPage v-if="problem && !view" whole :title="$t('benchmarks.cannotBeShown')" :text="problem">
      <v-btn variant="flat" :to="`/e/${engagement.id}/benchmarks`">{{ $t('benchmarks.goToBenchmarks') }}</v-btn>
    </EmptyPage>
    <ProblemNote v-else :text="problem" />
    <template v-if="view">
      <div class="page-head">
        <div class="grow">
          <p class="quiet">
            <router-link to="../benchmarks">{{ $t('common.benchmarks') }}</router-link> ▸
          </p>
          <h1>
            {{ view.title }} <span class="quiet version">{{ view.version }}</span>
          </h1>
          <p class="quiet">{{ view.statement }}</p>
          <p class="quiet">
            {{ $t('benchmarks.profile', { profile: profileTitle(view.profile) })
            }}<template v-if="view.fittedBy"
              >{{ $t('benchmarks.fittedBy', { fittedBy: view.fittedBy }) }} <AgeText :at="view.fittedAt"
            /></template>
          </p>
        </div>
        <div class="ends">
          <v-btn
            size="small"
            variant="outlined"
            :href="addressOf(exportFitting, { params: { benchmark: view.id } })"
            download
            >{{ $t('benchmarks.downloadFitting') }}</v-btn
          >
          <BenchmarkExchange :benchmark="view.id" @fitted="load" />
        </div>
      </div>
      <v-tabs v-model="tab" density="compact"
        ><v-tab v-if="view.rules.length > 0" value="rules">{{
          $t('benchmarks.rules', { rules: view.rules.length })
        }}</v-tab
        ><v-tab v-if="view.attestations > 0" value="questions">{{
          $t('benchmarks.questions', { attestations: view.attestations })
        }}</v-tab
        ><v-tab value="values">{{ $t('benchmarks.profileAndValues') }}</v-tab
        ><v-tab value="coverage">{{ $t('benchmarks.coverage') }}</v-tab></v-tabs
      >

      <div v-if="tab === 'rules'" class="panel">
        <DataTable
          name="rules"
          :label="$t('common.rule')"
          :rows="view.rules"
          :columns="columns"
          :row-id="({ id }) => `rule-${id}`"
          :row-class="({ selected }) => ({ left: !selected })"
          :expanded="({ id }) => openRule === id"
        >
          <template #rule="{ row: rule }">
            <button type="button" class="as-link" :aria-expanded="openRule === rule.id" @click="toggle(rule.id)">
              {{ rule.title }}
            </button>
            <div class="quiet">
              <code>{{ rule.id }}</code>
            </div>
          </template>
          <template #severity="{ row: rule }"><SeverityNotches :severity="rule.severity" /></template>
          <template #profile="{ row: rule }">
            {{ profileTitle(rule.profile)
            }}<span v-if="!rule.selected" class="quiet">{{ ' ' }}{{ $t('common.notSelected') }}</span>
          </template>
          <template #detail="{ row: rule }">
            <div class="open">
              <p>{{ rule.statement }}</p>
              <section v-for="(body, i) in [rule, ...rule.also]" :key="i">
                <p class="quiet">
                  {{ i === 0 ? $t('common.appliesTo') : $t('benchmarks.variantFor') }} {{ body.dialects.join(', ')
                  }}<template v-if="body.each"
                    >{{ $t('benchmarks.forEach') }} <code>{{ subjectOf(body.each) }}</code>{{ ' '
                    }}{{ $t('benchmarks.ifThereIsNone', { body: body.nothing?.outcome }) }}</template
                  >
                </p>
                <ol class="branches">
                  <li v-for="branch in body.decide" :key="branch.id">
                    <VerdictMark :outcome="branch.outcome" />
                    <div>
                      <span>{{
                        branch.when === undefined ? $t('benchmarks.otherwise') : conditionInWords(branch.when)
                      }}</span>
                      <div class="quiet">{{ branch.id }}: {{ branch.note }}</div>
                    </div>
                  </li>
                </ol>
              </section>
              <p class="quiet">{{ rule.references.map(frameworks.nameOf).join(' · ') }}</p>
              <v-btn
                v-if="engagement.may.writeRules"
                size="small"
                :to="`/e/${engagement.id}/rule-bench?copy=${encodeURIComponent(`${view.id}:${rule.id}`)}`"
                >{{ $t('benchmarks.copyToOwnRules') }}</v-btn
              >
            </div>
          </template>
        </DataTable>
      </div>

      <BenchmarkValues v-else-if="tab === 'values'" :key="view.fittedAt ?? ''" :view="view" @saved="load" />

      <QuestionList v-else-if="tab === 'questions'" :benchmark="view.id" />

      <CoverageTable v-else :view="view" />
    </template>
  </div>
</template>

<style scoped>
.ends {
  display: flex;
  gap: 8px;
}
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

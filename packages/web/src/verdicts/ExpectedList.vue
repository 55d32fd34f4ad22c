<script setup lang="ts">
import type { GridView } from '@jurybox/api/audits'
import type { ResponseOf } from '@jurybox/api/endpoint'
import { listExpectations } from '@jurybox/api/traffic'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'
import type { Column } from '../shared/columns.ts'
import { useQuery } from '../shared/query.ts'

/** The verdicts of expectations of traffic; of one framework where the grid is by its requirements. */
const props = defineProps<{ frameworks: GridView['frameworks'] }>()
type ListedExpectation = ResponseOf<typeof listExpectations>['expectations'][number]
const engagement = useEngagement()
const route = useRoute()
const {
  data: found,
  problem,
  reading,
  stop,
} = useQuery(listExpectations, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
const all = computed(() => found.value?.expectations ?? [])
const OUTCOMES = { violated: 'fail', undecided: 'unknown', met: 'pass' } as const
const ORDER = ['violated', 'undecided', 'met']
const framework = computed(() => (typeof route.query['group'] === 'string' ? `${route.query['group']}:` : null))
const isOfIt = (reference: string): boolean => framework.value === null || reference.startsWith(framework.value)
/** Where nothing of what is expected names the framework, the grid is by something else. */
const named = computed(() => all.value.filter(({ references }) => references.some(isOfIt)))
const shown = computed(() =>
  [...(framework.value !== null && named.value.length > 0 ? named.value : all.value)].sort(
    (a, b) => ORDER.indexOf(a.outcome) - ORDER.indexOf(b.outcome),
  ),
)
/** `pci-dss-4.0.1:1.3.1` with the title of its framework. */
function requirement(reference: string): string {
  const framework = props.frameworks.find(({ id }) => reference.startsWith(`${id}:`))
  return framework ? `${framework.title} ${reference.slice(framework.id.length + 1)}` : reference
}
const columns = computed((): Column<ListedExpectation>[] => [
  { key: 'outcome', title: t('verdicts.verdict'), value: ({ outcome }) => OUTCOMES[outcome] },
  { key: 'severity', title: t('common.severity'), value: ({ severity }) => severity },
  { key: 'title', title: t('verdicts.expectation'), value: ({ title }) => title },
  { key: 'words', title: t('common.result'), value: ({ words }) => words },
  {
    key: 'requirements',
    title: t('common.requirements'),
    value: ({ references }) => references.map(requirement).join(', '),
  },
])
</script>

<template>
  <ProblemNote :text="problem" />
  <ReadingNote :reading="reading" @stop="stop" />
  <section v-if="shown.length > 0" class="panel expected" :aria-label="$t('verdicts.expectationsOfTraffic')">
    <h2>{{ $t('verdicts.expectationsOfTraffic') }}</h2>
    <DataTable name="expectations" :label="$t('verdicts.expectationsOfTraffic')" :rows="shown" :columns="columns">
      <template #outcome="{ row }">
        <VerdictMark :outcome="OUTCOMES[row.outcome]" :waived="row.waived !== null" />
      </template>
      <template #severity="{ row }"><SeverityNotches :severity="row.severity" /></template>
      <template #title="{ row }">
        <router-link :to="`/e/${engagement.id}/traffic?expectation=${row.id}`">{{ row.title }}</router-link>
      </template>
    </DataTable>
  </section>
</template>

<style scoped>
.expected {
  margin-top: 14px;
}
h2 {
  font-size: 15px;
  padding: 10px 14px 4px;
}
</style>

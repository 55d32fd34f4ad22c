<script setup lang="ts">
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { listFilterFindings } from '@jurybox/api/traffic'
import { computed, ref } from 'vue'
import { FINDING_WORDS, type FilterFindingKind } from '@jurybox/core/forwarding'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import ClassList from './ClassList.vue'
import ListCompare from './ListCompare.vue'
import KindChoice from './KindChoice.vue'
import LineLinks from './LineLinks.vue'
import TrafficHead from './TrafficHead.vue'
import { useEngagement } from '../stores/engagement.ts'
import { useQuery } from '../shared/query.ts'

/** What is odd about the lines of access lists, by exact sets of headers. */
const engagement = useEngagement()
const {
  data: findings,
  problem,
  reading,
  stop,
} = useQuery(listFilterFindings, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
const kind = ref('')
const title = (one: string): string => FINDING_WORDS[one as FilterFindingKind] ?? one
const kinds = computed(() =>
  [...new Set((findings.value ?? []).map((one) => one.kind))].map((one) => ({
    id: one,
    title: title(one),
    count: (findings.value ?? []).filter((other) => other.kind === one).length,
  })),
)
/** What matters most first: contradictions are often exceptions that were meant. */
const ORDER = ['missing', 'open', 'never-matches', 'nowhere', 'changes-nothing', 'unjudged', 'contradicts']
const shown = computed(() =>
  (findings.value ?? [])
    .filter((one) => kind.value === '' || one.kind === kind.value)
    .sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind)),
)
const columns: Column<(typeof shown.value)[number]>[] = [
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'list', title: t('traffic.accessList'), value: ({ list }) => list, mono: true },
  { key: 'kind', title: t('common.type'), value: ({ kind }) => title(kind), raw: ({ kind }) => kind },
  { key: 'words', title: t('traffic.finding'), value: ({ words }) => words },
  { key: 'lines', title: t('common.lines'), value: () => '', acts: true },
]
</script>

<template>
  <div class="page">
    <TrafficHead :note="$t('traffic.accessListEntriesThatAre')" />
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <ListCompare />
    <template v-if="findings">
      <KindChoice v-model="kind" :label="$t('traffic.types')" :all="`all ${findings.length}`" :kinds="kinds" />
      <section v-if="shown.length > 0" class="panel">
        <DataTable name="filters" :label="$t('common.filters')" :rows="shown" :columns="columns">
          <template #words="{ row: one }">
            {{ one.words
            }}<ClassList
              v-if="one.packets && one.kind !== 'open'"
              :classes="one.packets.classes"
              :whole="one.packets.whole"
            />
          </template>
          <template #lines="{ row: one }"><LineLinks :exhibits="one.exhibits" /></template>
        </DataTable>
      </section>
      <p v-else class="quiet">{{ $t('traffic.noFindingsInAccessLists') }}</p>
    </template>
  </div>
</template>

<style scoped>
.mono {
  font-family: var(--mono);
  font-size: 12.5px;
  white-space: nowrap;
}
.words {
  overflow-wrap: anywhere;
}
.kind {
  white-space: nowrap;
}
td {
  vertical-align: top;
}
</style>

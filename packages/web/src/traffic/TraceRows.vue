<script setup lang="ts">
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import type { TraceView } from '@jurybox/api/traffic'
import LineLinks from './LineLinks.vue'
import PathStrip from './PathStrip.vue'

/** One packet on its paths: a row a hop, under it a row a decision, each with its lines. */
defineProps<{ trace: TraceView }>()
type Path = TraceView['paths'][number]
interface Row {
  readonly id: string
  readonly device: string
  readonly stage: string
  readonly result: string
  readonly exhibits: Path['hops'][number]['decisions'][number]['exhibits']
}
const rowsOf = (path: Path): Row[] => [
  ...path.hops.flatMap((hop, h) =>
    hop.decisions.map(({ stage, result, exhibits }, d) => ({
      id: `${h} ${d}`,
      device: d === 0 ? hop.device : '',
      stage,
      result,
      exhibits,
    })),
  ),
  {
    id: 'end',
    device: path.device,
    stage: t('traffic.end'),
    result: `${path.fate}: ${path.reason.words}`,
    exhibits: [],
  },
]
const columns: Column<Row>[] = [
  { key: 'hop', title: t('traffic.hop'), value: ({ device }) => device },
  { key: 'stage', title: t('traffic.decision'), value: ({ stage }) => stage },
  { key: 'result', title: t('common.result'), value: ({ result }) => result },
  { key: 'lines', title: t('common.lines'), value: () => '', acts: true },
]
</script>

<template>
  <section v-for="(path, i) in trace.paths" :key="i" class="path" :aria-label="$t('traffic.pathNumber', { i: i + 1 })">
    <p v-if="trace.paths.length > 1" class="quiet">
      {{ $t('traffic.pathOf', { i: i + 1, paths: trace.paths.length })
      }}<template v-if="!trace.whole">{{ ' ' }}{{ $t('traffic.orMore') }}</template>
    </p>
    <PathStrip :path="path" />
    <DataTable
      :label="$t('traffic.pathNumber', { i: i + 1 })"
      :rows="rowsOf(path)"
      :columns="columns"
      :row-key="({ id }) => id"
    >
      <template #hop="{ row }">
        <b>{{ row.device }}</b>
      </template>
      <template #lines="{ row }"><LineLinks :exhibits="row.exhibits" /></template>
    </DataTable>
  </section>
</template>

<style scoped>
.path + .path {
  margin-top: 18px;
  padding-top: 12px;
  border-top: var(--hair);
}
.result {
  overflow-wrap: anywhere;
}
td {
  vertical-align: top;
}
</style>

<script setup lang="ts">
import type { GridView } from '@jurybox/api/audits'
import { computed, nextTick, ref } from 'vue'
import { useRoute } from 'vue-router'
import { t } from '../messages/index.ts'
import VerdictMark from '../shared/VerdictMark.vue'
import { grouped } from '../shared/device-groups.ts'
import { OUTCOME_TITLES } from '../shared/outcomes.ts'
import { matrixOf, servedNumbers, type MatrixCell } from './requirement-matrix.ts'
import { useVisibleColumns } from './visible-columns.ts'

/** Devices by the requirements of a framework; a cell opens the verdicts behind it. Arrows move the focus. */
const props = defineProps<{ grid: GridView; framework: GridView['frameworks'][number]; groupBy: string }>()
const route = useRoute()

const numbers = computed(() => servedNumbers(props.grid.rules, props.framework.id))
const matrix = computed(() => matrixOf(props.grid, props.framework.id))
const groups = computed(() =>
  props.groupBy === 'none' ? [{ title: '', devices: props.grid.devices }] : grouped(props.grid.devices, props.groupBy),
)
const rows = computed(() => groups.value.flatMap(({ devices }) => devices))
const columns = useVisibleColumns(() => numbers.value.length)
const shown = computed(() => numbers.value.slice(columns.first.value, columns.end.value))

const cellsOf = (device: number) =>
  shown.value.map((number) => ({ number, cell: matrix.value.get(device)?.get(number) }))

const at = ref({ row: 0, column: 0 })
const table = ref<HTMLElement | null>(null)
async function onKey(event: KeyboardEvent): Promise<void> {
  const steps: Readonly<Record<string, readonly [number, number]>> = {
    ArrowDown: [1, 0],
    ArrowUp: [-1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
    Home: [0, -1e6],
    End: [0, 1e6],
  }
  const step = steps[event.key]
  if (!step || event.altKey) return
  event.preventDefault()
  const clamp = (value: number, count: number): number => Math.min(Math.max(value, 0), count - 1)
  at.value = {
    row: clamp(at.value.row + step[0], rows.value.length),
    column: clamp(at.value.column + step[1], numbers.value.length),
  }
  columns.bring(at.value.column)
  await nextTick()
  table.value?.querySelector<HTMLElement>(`[data-cell="${at.value.row}-${at.value.column}"]`)?.focus()
}

const rowOf = computed(() => new Map(rows.value.map(({ id }, i) => [id, i])))
const isCurrent = (device: number, column: number): boolean =>
  rowOf.value.get(device) === at.value.row && columns.first.value + column === at.value.column
function choose(device: number, column: number): void {
  at.value = { row: rowOf.value.get(device) ?? 0, column: columns.first.value + column }
}
const linkTo = (device: string, number: string) => ({
  query: {
    b: route.query['b'],
    view: 'list',
    requirement: `${props.framework.id}:${number}`,
    'verdicts.f.device': device,
  },
})
const wordsOf = (device: string, number: string, cell: MatrixCell): string =>
  t('verdicts.requirementCell', {
    device,
    number,
    outcome: `${OUTCOME_TITLES[cell.outcome] ?? cell.outcome}${cell.waived ? t('verdicts.waived') : ''}`,
    findings: cell.findings,
    verdicts: cell.verdicts,
  })
</script>

<template>
  <div :ref="columns.box" class="scroll panel">
    <table
      ref="table"
      class="grid"
      role="grid"
      :aria-label="$t('verdicts.devicesByRequirements', { framework: framework.title })"
      @keydown="onKey"
    >
      <thead>
        <tr>
          <th scope="col" class="corner">{{ $t('common.device') }}</th>
          <td v-if="columns.before.value > 0" :style="{ minWidth: `${columns.before.value}px` }" />
          <th
            v-for="number in shown"
            :key="number"
            scope="col"
            class="number"
            :title="`${framework.title} ${number} ${framework.requirements[number] ?? ''}`"
          >
            <span>{{ number }}</span>
          </th>
          <td v-if="columns.after.value > 0" :style="{ minWidth: `${columns.after.value}px` }" />
        </tr>
      </thead>
      <tbody v-for="group in groups" :key="group.title">
        <tr v-if="group.title" class="group">
          <th :colspan="shown.length + 3" scope="rowgroup">{{ group.title }}</th>
        </tr>
        <tr v-for="device in group.devices" :key="device.id">
          <th scope="row" class="device">
            <router-link :to="`estate/${device.id}`" tabindex="-1">{{ device.name }}</router-link>
          </th>
          <td v-if="columns.before.value > 0" />
          <td v-for="({ number, cell }, i) in cellsOf(device.id)" :key="number" role="gridcell">
            <router-link
              v-if="cell"
              :to="linkTo(device.name, number)"
              class="cell"
              :data-cell="`${rowOf.get(device.id)}-${columns.first.value + i}`"
              :tabindex="isCurrent(device.id, i) ? 0 : -1"
              :title="wordsOf(device.name, number, cell)"
              @focus="choose(device.id, i)"
            >
              <VerdictMark :outcome="cell.outcome" :waived="cell.waived" :word="false" />
              <span class="sr">{{ wordsOf(device.name, number, cell) }}</span>
              <span v-if="cell.findings > 1" class="many" aria-hidden="true">{{ cell.findings }}</span>
            </router-link>
            <span v-else class="sr">{{ $t('verdicts.noVerdict') }}</span>
          </td>
          <td v-if="columns.after.value > 0" />
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  position: relative;
  overflow: auto;
  max-height: max(300px, 100vh - 262px);
}
.grid {
  border-collapse: separate;
  border-spacing: 0;
}
.corner,
.device {
  position: sticky;
  left: 0;
  background: rgb(var(--v-theme-surface));
  text-align: left;
  padding: 0 12px;
  z-index: 1;
}
.corner {
  top: 0;
  z-index: 3;
  vertical-align: bottom;
  padding: 6px 12px;
  font-size: 12.5px;
  color: rgb(var(--v-theme-quiet));
  border-bottom: var(--hair);
}
.device {
  font-weight: 400;
  min-width: 190px;
  height: 26px;
  white-space: nowrap;
  border-right: var(--hair);
}
.device a {
  color: rgb(var(--v-theme-on-surface));
  text-decoration: none;
}
.device a:hover {
  text-decoration: underline;
}
.number {
  position: sticky;
  top: 0;
  z-index: 2;
  background: rgb(var(--v-theme-surface));
  height: 110px;
  width: 34px;
  min-width: 34px;
  vertical-align: bottom;
  padding: 0 0 8px;
  border-bottom: var(--hair);
  font-weight: 500;
  font-size: 13px;
}
.number span {
  display: inline-block;
  writing-mode: vertical-rl;
  transform: rotate(180deg);
  white-space: nowrap;
}
.group th {
  text-align: left;
  font-family: var(--serif);
  font-size: 14px;
  padding: 8px 12px 3px;
  position: sticky;
  left: 0;
}
td {
  padding: 0;
  text-align: center;
  border-bottom: 1px solid rgb(var(--v-theme-background));
}
.cell {
  position: relative;
  display: flex;
  align-items: center;
  justify-content: center;
  height: 26px;
  min-width: 34px;
  text-decoration: none;
}
.cell:hover {
  background: rgb(var(--v-theme-brass-fill));
}
.many {
  margin-left: 3px;
  font-size: 11px;
  color: rgb(var(--v-theme-on-surface));
}
</style>

<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { GridView } from '@jurybox/api/audits'
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import VerdictMark from '../shared/VerdictMark.vue'
import { grouped, waysToGroup } from '../shared/device-groups.ts'
import { OUTCOME_TITLES, isFinding } from '../shared/outcomes.ts'
import RequirementGrid from './RequirementGrid.vue'
import { useVisibleColumns } from './visible-columns.ts'

/** Rules by devices, or devices by requirements. One cell holds the focus; arrows move it, Enter opens the verdict. */
const props = defineProps<{ grid: GridView; auditId: number }>()
const route = useRoute()
const router = useRouter()

/* Columns: devices, or the requirements of a framework */
const columnsAre = computed(() => [
  { value: 'devices', title: t('common.devices') },
  ...props.grid.frameworks.map(({ id, title }) => ({ value: id, title: t('verdicts.requirementsOf', { title }) })),
])
const framework = computed(() => props.grid.frameworks.find(({ id }) => id === route.query['matrix']) ?? null)
const matrixOf = computed({
  get: () => framework.value?.id ?? 'devices',
  set: (id) => void router.push({ query: { ...route.query, matrix: id === 'devices' ? undefined : id } }),
})

const rowsBy = computed(() => [
  { value: 'topic', title: t('common.topic') },
  { value: 'severity', title: t('common.severity') },
  ...props.grid.frameworks.map(({ id, title }) => ({ value: id, title: t('verdicts.requirementOf', { title }) })),
])
const groupBy = computed({
  get: () => rowsBy.value.find(({ value }) => value === route.query['group'])?.value ?? 'topic',
  set: (group) => void router.push({ query: { ...route.query, group: group === 'topic' ? undefined : group } }),
})
const columnsBy = computed(() => [{ value: 'none', title: t('common.name') }, ...waysToGroup(props.grid.devices)])
const columnBy = computed({
  get: () => columnsBy.value.find(({ value }) => value === route.query['columns'])?.value ?? 'none',
  set: (way) => void router.push({ query: { ...route.query, columns: way === 'none' ? undefined : way } }),
})
const inOrder = computed(() =>
  columnBy.value === 'none'
    ? props.grid.devices
    : grouped(props.grid.devices, columnBy.value).flatMap((group) => group.devices),
)
/** Columns that are in sight, and some on either side: a large estate has too many cells for a page. */
const columns = useVisibleColumns(() => inOrder.value.length)
/** Groups over the columns that are shown. */
const bands = computed(() => (columnBy.value === 'none' ? [] : grouped(devices.value, columnBy.value)))
const OF_OUTCOME = ['fail', 'unknown', 'error', 'pass'] as const
const ONLY = ['objections', 'new', 'open', 'resolved', ...OF_OUTCOME]
const only = computed({
  get: () => ONLY.find((one) => one === route.query['only']) ?? 'all',
  set: (chosen) => void router.push({ query: { ...route.query, only: chosen === 'all' ? undefined : chosen } }),
})
const choices = computed(() => {
  const count = (since: string): number => props.grid.cells.filter((cell) => cell.since === since).length
  const all = [
    { value: 'all', title: t('verdicts.allRules') },
    { value: 'objections', title: t('verdicts.rulesWithFindings') },
    ...OF_OUTCOME.map((outcome) => ({
      value: outcome,
      title: t('verdicts.rulesWithOutcome', { outcome: OUTCOME_TITLES[outcome] }),
    })),
  ]
  return props.grid.before
    ? [
        ...all,
        { value: 'new', title: t('verdicts.newSince', { count: count('new'), snapshot: props.grid.before.snapshot }) },
        { value: 'open', title: t('verdicts.stillOpen', { count: count('open') }) },
        { value: 'resolved', title: `${count('resolved')} resolved` },
      ]
    : all
})
const held = computed(
  () =>
    new Set(
      props.grid.cells
        .filter((cell) => cell.since === only.value || cell.outcome === only.value)
        .map((cell) => `${cell.benchmark} ${cell.rule}`),
    ),
)
const find = ref('')
watch(
  () => String(route.query['find'] ?? ''),
  (text) => (find.value = text),
  { immediate: true },
)
let finding: ReturnType<typeof setTimeout> | undefined
/** The field clears itself with null. The address follows when nobody types for a moment. */
function filterBy(text: string | null): void {
  find.value = text ?? ''
  clearTimeout(finding)
  finding = setTimeout(() => void router.replace({ query: { ...route.query, find: find.value || undefined } }), 250)
}
/** Every word of the text is in the rule's title, id, topic or requirements. */
function isFound(rule: GridView['rules'][number]): boolean {
  const text = [rule.title, rule.id, rule.topic, ...rule.references].join(' ').toLowerCase()
  return find.value
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}
const shows = (rule: GridView['rules'][number]): boolean =>
  isFound(rule) &&
  (only.value === 'all' ||
    (only.value === 'objections' ? countOf(rule) > 0 : held.value.has(`${rule.benchmark} ${rule.id}`)))
/** Requirements that the rule serves: their numbers where rows are grouped by a framework, else with its title. */
function requirementsOf({ references }: GridView['rules'][number]): string {
  const chosen = groupBy.value
  return props.grid.frameworks
    .filter(({ id }) => id === chosen || props.grid.frameworks.every((one) => one.id !== chosen))
    .map(({ id, title }) => {
      const numbers = references.filter((one) => one.startsWith(`${id}:`)).map((one) => one.slice(id.length + 1))
      return numbers.length === 0 ? '' : `${id === chosen ? '' : `${title} `}${numbers.join(', ')}`
    })
    .filter(Boolean)
    .join('; ')
}
/** Once for each rule: scrolling draws the rows again. */
const requirements = computed(() => new Map(props.grid.rules.map((rule) => [rule, requirementsOf(rule)])))
const SINCE: Readonly<Record<string, string>> = {
  new: t('verdicts.new'),
  open: t('verdicts.stillOpenSuffix'),
  resolved: t('verdicts.resolved'),
}
const outcomeWords = ({ outcome, waived, since }: GridView['cells'][number]): string =>
  OUTCOME_TITLES[outcome] + (waived ? t('verdicts.waived') : '') + (SINCE[since ?? ''] ?? '')
const cells = computed(
  () => new Map(props.grid.cells.map((cell) => [`${cell.deviceId} ${cell.benchmark} ${cell.rule}`, cell])),
)
const devices = computed(() => inOrder.value.slice(columns.first.value, columns.end.value))
const cellsOf = (rule: GridView['rules'][number]) =>
  devices.value.map((device, i) => ({
    device,
    column: columns.first.value + i,
    cell: cells.value.get(`${device.id} ${rule.benchmark} ${rule.id}`),
  }))
const failing = computed(() => {
  const counts = new Map<string, number>()
  for (const cell of props.grid.cells)
    if (isFinding(cell.outcome) && !cell.waived)
      counts.set(`${cell.benchmark} ${cell.rule}`, (counts.get(`${cell.benchmark} ${cell.rule}`) ?? 0) + 1)
  return counts
})
const countOf = (rule: GridView['rules'][number]): number => failing.value.get(`${rule.benchmark} ${rule.id}`) ?? 0
const SEVERITIES = ['high', 'medium', 'low', 'info']
const groups = computed(() => {
  const out = new Map<string, GridView['rules'][number][]>()
  const rules = props.grid.rules.filter(shows)
  const framework = props.grid.frameworks.find(({ id }) => id === groupBy.value)
  if (framework) {
    // A rule that serves several requirements stands under each of them.
    const none = rules.filter(
      ({ references }) => !references.some((reference) => reference.startsWith(`${framework.id}:`)),
    )
    const numbers = Object.keys(framework.requirements).sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
    return [
      ...numbers
        .map((number) => ({
          title: `${number} ${framework.requirements[number] ?? ''}`,
          rules: rules.filter(({ references }) => references.includes(`${framework.id}:${number}`)),
        }))
        .filter((group) => group.rules.length > 0),
      ...(none.length > 0
        ? [{ title: t('verdicts.noRequirementOf', { framework: framework.title }), rules: none }]
        : []),
    ]
  }
  const ordered =
    groupBy.value === 'severity'
      ? rules.toSorted((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity))
      : rules
  for (const rule of ordered) {
    const key = groupBy.value === 'severity' ? t('verdicts.severity', { severity: rule.severity }) : rule.topic
    out.set(key, [...(out.get(key) ?? []), rule])
  }
  return [...out].map(([title, members]) => ({ title, rules: members }))
})
/** Rows as they stand: one rule may have several. */
const order = computed(() =>
  groups.value.flatMap((group) => group.rules.map((rule) => `${group.title} ${rule.benchmark} ${rule.id}`)),
)
const places = computed(() => new Map(order.value.map((row, i) => [row, i])))
const rowOf = (group: string, rule: GridView['rules'][number]): number =>
  places.value.get(`${group} ${rule.benchmark} ${rule.id}`) ?? 0

const at = ref({ row: 0, column: 0 })
const table = ref<HTMLElement | null>(null)
let writing: ReturnType<typeof setTimeout> | undefined
/** The chosen cell is in the address, so that it is chosen again when somebody comes back. */
const withCell = (key: string) => router.replace({ query: { ...route.query, cell: key } })
/** Keys may pass over many cells, and browsers limit how often an address changes. */
function choose(row: number, column: number, key: string): void {
  at.value = { row, column }
  clearTimeout(writing)
  writing = setTimeout(() => void withCell(key), 250)
}
/** Before a verdict opens in this page, its cell goes into the address that Back leads to. */
async function onOpen(event: MouseEvent): Promise<void> {
  const cell = event.target instanceof Element ? event.target.closest<HTMLAnchorElement>('a.cell') : null
  if (!cell || event.button !== 0 || event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return
  event.preventDefault()
  clearTimeout(writing)
  await withCell(cell.dataset['key'] ?? '')
  await router.push(cell.pathname + cell.search)
}
onMounted(() => columns.bring(at.value.column))
onUnmounted(() => (clearTimeout(writing), clearTimeout(finding)))
watch(
  () => [order.value, inOrder.value] as const,
  () => {
    const [device, rule] = String(route.query['cell'] ?? '').split(' ')
    const row = order.value.findIndex((key) => rule !== undefined && key.endsWith(` ${rule}`))
    const column = inOrder.value.findIndex(({ name }) => name === device)
    at.value = { row: Math.max(0, row), column: Math.max(0, column) }
  },
  { immediate: true },
)
async function onKey(event: KeyboardEvent): Promise<void> {
  const steps: Readonly<Record<string, [number, number]>> = {
    ArrowDown: [1, 0],
    ArrowUp: [-1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
    Home: [0, -1e6],
    End: [0, 1e6],
    PageDown: [8, 0],
    PageUp: [-8, 0],
  }
  const step = steps[event.key]
  if (!step || event.altKey) return
  event.preventDefault()
  const clamp = (value: number, count: number): number => Math.min(Math.max(value, 0), count - 1)
  at.value = {
    row: clamp(at.value.row + step[0], order.value.length),
    column: clamp(at.value.column + step[1], inOrder.value.length),
  }
  columns.bring(at.value.column)
  await nextTick()
  table.value?.querySelector<HTMLElement>(`[data-cell="${at.value.row}-${at.value.column}"]`)?.focus()
}
const linkTo = (id: number): string => `/e/${String(route.params['engagement'])}/verdicts/${props.auditId}/${id}`
</script>

<template>
  <div class="wide-on-paper">
    <div class="tools">
      <v-select v-model="matrixOf" :items="columnsAre" :label="$t('verdicts.columns')" class="only" />
      <v-select v-if="!framework" v-model="groupBy" :items="rowsBy" :label="$t('verdicts.groupRulesBy')" class="by" />
      <v-select v-model="columnBy" :items="columnsBy" :label="$t('verdicts.groupDevicesBy')" class="by" />
      <v-select v-if="!framework" v-model="only" :items="choices" :label="$t('verdicts.show')" class="only" />
      <v-text-field
        v-if="!framework"
        :model-value="find"
        :label="$t('verdicts.filterRules')"
        clearable
        class="by"
        @update:model-value="filterBy"
      />
    </div>
    <RequirementGrid v-if="framework" :grid="grid" :framework="framework" :group-by="columnBy" />
    <div v-else :ref="columns.box" class="scroll panel">
      <table
        ref="table"
        class="grid"
        role="grid"
        :aria-label="$t('verdicts.rulesByDevices')"
        @keydown="onKey"
        @click.capture="onOpen"
      >
        <thead>
          <tr v-if="bands.length > 0">
            <th class="corner band" />
            <th class="band" />
            <td v-if="columns.before.value > 0" class="band" />
            <th
              v-for="band in bands"
              :key="band.title"
              :colspan="band.devices.length"
              scope="colgroup"
              class="band"
              :title="band.title"
            >
              {{ band.title }}
            </th>
            <td v-if="columns.after.value > 0" class="band" />
          </tr>
          <tr>
            <th scope="col" class="corner" :class="{ under: bands.length > 0 }">{{ $t('common.rule') }}</th>
            <th scope="col" class="requirements" :class="{ under: bands.length > 0 }">
              {{ $t('common.requirements') }}
            </th>
            <td v-if="columns.before.value > 0" :style="{ minWidth: `${columns.before.value}px` }" />
            <th
              v-for="device in devices"
              :key="device.id"
              scope="col"
              class="device"
              :class="{ under: bands.length > 0 }"
            >
              <router-link :to="`estate/${device.id}`" tabindex="-1">{{ device.name }}</router-link>
            </th>
            <td v-if="columns.after.value > 0" :style="{ minWidth: `${columns.after.value}px` }" />
          </tr>
        </thead>
        <tbody v-for="group in groups" :key="group.title">
          <tr class="group">
            <th :colspan="devices.length + 4" scope="rowgroup">{{ group.title }}</th>
          </tr>
          <tr v-for="rule in group.rules" :key="rule.id">
            <th scope="row" class="rule">
              <div>
                <router-link
                  :to="`benchmarks/${rule.benchmark}?rule=${rule.id}`"
                  tabindex="-1"
                  :title="`${rule.title} (${rule.id})`"
                  >{{ rule.title }}</router-link>{{ ' '
                }}<span
                  v-if="countOf(rule) > 0"
                  class="objecting"
                  :title="$t('verdicts.findings', { rule: countOf(rule) })"
                  >{{ countOf(rule) }}</span
                >
              </div>
            </th>
            <td class="requirements" :title="requirements.get(rule)">{{ requirements.get(rule) }}</td>
            <td v-if="columns.before.value > 0" />
            <td v-for="{ device, cell, column } in cellsOf(rule)" :key="device.id" role="gridcell">
              <router-link
                v-if="cell"
                :to="linkTo(cell.id)"
                class="cell"
                :data-cell="`${rowOf(group.title, rule)}-${column}`"
                :data-key="`${device.name} ${rule.id}`"
                :tabindex="rowOf(group.title, rule) === at.row && column === at.column ? 0 : -1"
                :title="`${device.name}, ${rule.id}: ${outcomeWords(cell)}`"
                :class="{ apart: only === cell.since }"
                @focus="choose(rowOf(group.title, rule), column, `${device.name} ${rule.id}`)"
              >
                <VerdictMark :outcome="cell.outcome" :waived="cell.waived" :word="false" />
                <span class="sr">{{ device.name }}, {{ rule.title }}</span>
              </router-link>
            </td>
            <td v-if="columns.after.value > 0" />
          </tr>
        </tbody>
      </table>
    </div>
    <p class="legend quiet">
      {{ $t('verdicts.legend') }}
      <VerdictMark
        v-for="outcome in ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked'] as const"
        :key="outcome"
        :outcome="outcome"
      /><VerdictMark outcome="waived" />
    </p>
  </div>
</template>

<style scoped>
.tools {
  flex-wrap: wrap;
  display: flex;
  gap: 14px;
  align-items: center;
  margin-bottom: 8px;
}
.only {
  max-width: 300px;
}
.by {
  max-width: 230px;
}
.band {
  position: sticky;
  top: 0;
  z-index: 2;
  background: rgb(var(--v-theme-surface));
  height: 28px;
  max-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-family: var(--serif);
  font-size: 13px;
  padding: 4px 6px 0;
  border-left: var(--hair);
}
thead .corner.band {
  border-bottom: 0;
  border-left: 0;
}
.under {
  top: 28px !important;
}
.apart {
  outline: 2px solid rgb(var(--v-theme-brass));
  outline-offset: -3px;
}
.requirements {
  max-width: 150px;
  min-width: 70px;
  padding: 0 8px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  text-align: left;
  font-size: 12px;
  font-weight: 400;
  color: rgb(var(--v-theme-quiet));
}
th.requirements {
  position: sticky;
  top: 0;
  z-index: 2;
  vertical-align: bottom;
  padding-bottom: 6px;
  background: rgb(var(--v-theme-surface));
  border-bottom: var(--hair);
}
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
.rule {
  position: sticky;
  left: 0;
  background: rgb(var(--v-theme-surface));
  text-align: left;
  z-index: 1;
}
.corner {
  z-index: 3;
  vertical-align: bottom;
  padding: 6px 12px;
  font-size: 12.5px;
  color: rgb(var(--v-theme-quiet));
  top: 0;
  position: sticky;
}
.rule {
  font-weight: 400;
  padding: 0 12px;
  min-width: 290px;
  max-width: 330px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  height: 26px;
  border-right: var(--hair);
}

.rule div {
  display: flex;
  justify-content: space-between;
  gap: 10px;
}
.objecting {
  font-weight: 600;
  flex: none;
}
.rule a {
  overflow: hidden;
  text-overflow: ellipsis;
  color: rgb(var(--v-theme-on-surface));
  text-decoration: none;
}
.rule a:hover {
  text-decoration: underline;
}
.device {
  position: sticky;
  top: 0;
  z-index: 2;
  background: rgb(var(--v-theme-surface));
  height: 96px;
  width: 34px;
  min-width: 34px;
  vertical-align: bottom;
  padding: 0 0 8px;
  border-bottom: var(--hair);
}
.device a {
  display: inline-block;
  writing-mode: vertical-rl;
  transform: rotate(180deg);
  font-weight: 500;
  font-size: 13px;
  color: rgb(var(--v-theme-on-surface));
  text-decoration: none;
}
.corner {
  border-bottom: var(--hair);
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
.legend {
  position: sticky;
  bottom: 0;
  z-index: 4;
  padding: 4px 0;
  background: rgb(var(--v-theme-background));
  flex-wrap: wrap;
  display: flex;
  gap: 14px;
  margin-top: 8px;
  font-size: 12.5px;
}
/* Low windows, such as at 200 %: the legend would cover what it explains. */
@media (max-height: 560px) {
  .legend {
    position: static;
  }
}
@media print {
  .requirements {
    display: none;
  }
  .rule {
    min-width: 200px;
  }
  .device,
  .cell {
    width: 22px !important;
    min-width: 22px !important;
  }
}
</style>

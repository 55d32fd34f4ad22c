<script setup lang="ts" generic="Row extends object">
import { mdiDownload } from '@mdi/js'
import { computed, nextTick, onMounted, onUpdated, ref, shallowRef, triggerRef, watch } from 'vue'
import { t } from '../messages/index.ts'
import { csvOf, nextSort, rowsWith, saveText, shownOf, sortedRows, type Column } from './columns.ts'
import { grouped } from './numbers.ts'
import { usePrinting } from './printing.ts'
import { RowHeights } from './row-heights.ts'

/**
 * Every table of the product: sorted by its heads, filtered and exported where it is long, its rows reached by keyboard
 * where they open. Only rows in sight are drawn, each in its true height; on paper are all.
 */
const props = withDefaults(
  defineProps<{
    rows: readonly Row[]
    columns: readonly Column<Row>[]
    label: string
    /** Names the file of an export; without it nothing is exported. */
    name?: string | undefined
    /** What tells rows apart; else their `id`, else their place. */
    rowKey?: ((row: Row) => string | number) | undefined
    rowClass?: ((row: Row) => unknown) | undefined
    /** The id of a row's element, where links lead to it. */
    rowId?: ((row: Row) => string) | undefined
    /** Rows whose slot `detail` is shown below them. */
    expanded?: ((row: Row) => boolean) | undefined
    /** Rows of one title stand below it, as long as nobody sorts them. */
    groupOf?: ((row: Row) => string) | undefined
    /** Rows open: they take the focus, and Enter or a click opens one. */
    opens?: boolean
    selectable?: boolean
    /** Said where there are no rows. */
    empty?: string | undefined
    height?: string | undefined
    /** Rows come sorted and filtered; sorting is asked for, and tools are around the table. */
    managed?: boolean
    busy?: boolean
    /** All rows there are, where only some are here. */
    total?: number | undefined
    /** No heads, where what stands in the columns says itself what it is. */
    headless?: boolean
  }>(),
  {
    name: undefined,
    rowKey: undefined,
    rowClass: undefined,
    rowId: undefined,
    expanded: undefined,
    groupOf: undefined,
    empty: undefined,
    height: undefined,
    total: undefined,
  },
)
const sort = defineModel<string>('sort', { default: '' })
/** Keys of the rows that are selected. */
const selected = defineModel<(number | string)[]>('selected', { default: () => [] })
const emit = defineEmits<{ open: [row: Row] }>()
defineSlots<
  Record<string, (props: { row: Row; at: number }) => unknown> & {
    filter?: (props: { column: Column<Row> }) => unknown
  }
>()

/** Fewer rows are read faster than filtered. */
const MANY = 12
const text = ref('')
const shownColumns = computed(() => props.columns.filter(({ hidden }) => hidden !== true || props.managed))
const kept = computed(() =>
  props.managed
    ? props.rows
    : sortedRows(rowsWith(props.rows, shownColumns.value, text.value), props.columns, sort.value),
)
const hasTools = computed(() => !props.managed && props.rows.length > MANY)
const counted = computed(() =>
  kept.value.length === props.rows.length
    ? grouped(props.rows.length)
    : t('shared.rowsOf', { shown: grouped(kept.value.length), all: grouped(props.rows.length) }),
)
const exportCsv = (): void =>
  saveText(`${props.name ?? 'table'}.csv`, csvOf(kept.value, shownColumns.value), 'text/csv')

const places = computed(() => new Map(props.rows.map((row, at) => [row, at])))
function keyOf(row: Row): string | number {
  if (props.rowKey) return props.rowKey(row)
  return 'id' in row && (typeof row.id === 'string' || typeof row.id === 'number') ? row.id : placeOf(row)
}
/** Where a row stands among those that were given. */
const placeOf = (row: Row): number => places.value.get(row) ?? 0

/* Rows in sight */
const VIRTUAL = 200
const USUAL = 34
/** Rows drawn at once, and those of them above what is in sight. */
const [DRAWN, BEFORE] = [80, 20]
const scroller = ref<HTMLElement | null>(null)
const scrolled = ref(0)
const printing = usePrinting()
const virtual = computed(() => props.height !== undefined && kept.value.length > VIRTUAL && !printing.value)
const heights = shallowRef(new RowHeights(0, USUAL))
watch(
  () => [kept.value, virtual.value] as const,
  ([rows, isVirtual]) => (heights.value = new RowHeights(isVirtual ? rows.length : 0, USUAL)),
  { immediate: true },
)
const first = computed(() => (virtual.value ? Math.max(0, heights.value.rowAt(scrolled.value) - BEFORE) : 0))
const drawn = computed(() => (virtual.value ? kept.value.slice(first.value, first.value + DRAWN) : kept.value))
const above = computed(() => heights.value.above(first.value))
const below = computed(() => heights.value.total - heights.value.above(first.value + drawn.value.length))
function measure(): void {
  if (!virtual.value) return
  let isNews = false
  for (const row of scroller.value?.querySelectorAll<HTMLElement>('tr[data-at]') ?? [])
    isNews = heights.value.measure(Number(row.dataset['at']), row.offsetHeight) || isNews
  if (isNews) triggerRef(heights)
}
onMounted(measure)
onUpdated(measure)

/** The title above a row: of the first of each group. */
function titleAbove(at: number): string {
  const [row, before] = [kept.value[at], kept.value[at - 1]]
  if (!props.groupOf || sort.value !== '' || !row) return ''
  const title = props.groupOf(row)
  return before && props.groupOf(before) === title ? '' : title
}

/* Choosing rows */
const chosen = computed(() => new Set(selected.value))
/** Where a range begins that Shift ends. */
let anchor = 0
/** Chooses a row, or with Shift all from the last one that was chosen; all become what this one becomes. */
function choose(row: Row, at: number, isRange: boolean): void {
  const range = isRange ? kept.value.slice(Math.min(anchor, at), Math.max(anchor, at) + 1) : [row]
  const keys = new Set(range.map(keyOf))
  anchor = at
  const isChosen = !chosen.value.has(keyOf(row))
  selected.value = [...selected.value.filter((key) => !keys.has(key)), ...(isChosen ? keys : [])]
}
/** All that the filters leave, or none. */
const allChosen = computed(() => kept.value.length > 0 && kept.value.every((row) => chosen.value.has(keyOf(row))))
function chooseAll(): void {
  selected.value = allChosen.value ? [] : kept.value.map(keyOf)
}

/* Keyboard: one row holds the focus */
const takesFocus = computed(() => props.opens || props.selectable)
const current = ref(0)
watch(kept, () => (current.value = 0))
async function move(event: KeyboardEvent, to: number): Promise<void> {
  event.preventDefault()
  current.value = Math.min(Math.max(to, 0), kept.value.length - 1)
  if (virtual.value && scroller.value) {
    scroller.value.scrollTop = Math.max(0, heights.value.above(current.value) - 120)
    scrolled.value = scroller.value.scrollTop
  }
  await nextTick()
  scroller.value?.querySelector<HTMLElement>(`[data-at="${current.value}"]`)?.focus()
}
function onKey(event: KeyboardEvent): void {
  if (!takesFocus.value || !(event.target instanceof HTMLElement) || event.target.closest('input, select, textarea'))
    return
  const row = kept.value[current.value]
  const isRow = event.target.dataset['at'] !== undefined
  if (event.key === 'ArrowDown') void move(event, current.value + 1)
  else if (event.key === 'ArrowUp') void move(event, current.value - 1)
  else if (event.key === 'Home') void move(event, 0)
  else if (event.key === 'End') void move(event, kept.value.length - 1)
  else if (event.key === ' ' && props.selectable && row && isRow) {
    event.preventDefault()
    choose(row, current.value, event.shiftKey)
  } else if (event.key === 'Enter' && row && isRow) emit('open', row)
}
</script>

<template>
  <div class="data-table">
    <div v-if="hasTools" class="tools">
      <span class="quiet" aria-live="polite">{{ counted }}</span>
      <input
        v-model="text"
        class="filter"
        type="search"
        :placeholder="$t('shared.filterRows')"
        :aria-label="$t('shared.filter', { column: label })"
      />
      <span class="grow" />
      <v-btn v-if="name" size="small" variant="text" :prepend-icon="mdiDownload" @click="exportCsv">CSV</v-btn>
    </div>
    <div
      ref="scroller"
      class="scroll"
      :style="{ maxHeight: height ?? 'none' }"
      :tabindex="takesFocus ? -1 : undefined"
      @scroll="scrolled = ($event.target as HTMLElement).scrollTop"
      @keydown="onKey"
    >
      <table class="rows" :aria-label="label" :aria-rowcount="total ?? kept.length" :aria-busy="busy">
        <thead :class="{ sr: headless }">
          <tr>
            <th v-if="selectable" scope="col" class="pick">
              <input
                type="checkbox"
                :checked="allChosen"
                :aria-label="$t('shared.selectAll', { kept: kept.length })"
                @change="chooseAll"
              />
            </th>
            <th
              v-for="column in shownColumns"
              :key="column.key"
              scope="col"
              :style="{ width: column.width }"
              :class="{ num: column.numeric }"
              :aria-sort="
                column.acts || headless
                  ? undefined
                  : sort === column.key
                    ? 'ascending'
                    : sort === `-${column.key}`
                      ? 'descending'
                      : 'none'
              "
            >
              <span v-if="column.acts" class="sr">{{ column.title }}</span>
              <span v-else-if="headless">{{ column.title }}</span>
              <button v-else type="button" class="sort" @click="sort = nextSort(sort, column.key)">
                {{ column.title
                }}<span aria-hidden="true">{{
                  sort === column.key ? ' ↑' : sort === `-${column.key}` ? ' ↓' : ''
                }}</span>
              </button>
              <slot name="filter" :column="column" />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="above > 0" aria-hidden="true" :style="{ height: `${above}px` }" />
          <template v-for="(row, i) in drawn" :key="keyOf(row)">
            <tr v-if="titleAbove(first + i)" class="title">
              <th :colspan="shownColumns.length + Number(selectable ?? false)" scope="rowgroup">
                {{ titleAbove(first + i) }}
              </th>
            </tr>
            <tr
              :id="rowId?.(row)"
              :data-at="first + i"
              :tabindex="takesFocus ? (first + i === current ? 0 : -1) : undefined"
              class="row"
              :class="[{ opens }, rowClass?.(row)]"
              :aria-selected="selectable ? chosen.has(keyOf(row)) : undefined"
              @focus="current = first + i"
              @click="opens && emit('open', row)"
            >
              <td v-if="selectable" class="pick">
                <input
                  type="checkbox"
                  tabindex="-1"
                  :checked="chosen.has(keyOf(row))"
                  :aria-label="$t('shared.select', { columns: String(columns[0]?.value(row) ?? keyOf(row)) })"
                  @click.stop="choose(row, first + i, $event.shiftKey)"
                />
              </td>
              <td
                v-for="column in shownColumns"
                :key="column.key"
                :class="{ num: column.numeric, mono: column.mono, quiet: column.quiet, nowrap: column.nowrap }"
              >
                <slot :name="column.key" :row="row" :at="placeOf(row)">{{ shownOf(column, row) }}</slot>
              </td>
            </tr>
            <tr v-if="expanded?.(row)" class="detail">
              <td :colspan="shownColumns.length + Number(selectable ?? false)">
                <slot name="detail" :row="row" :at="placeOf(row)" />
              </td>
            </tr>
          </template>
          <tr v-if="below > 0" aria-hidden="true" :style="{ height: `${below}px` }" />
          <tr v-if="kept.length === 0">
            <td :colspan="shownColumns.length + Number(selectable ?? false)" class="quiet">
              {{ rows.length === 0 && empty !== undefined ? empty : $t('shared.noRowsMatchTheFilters') }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 4px 6px 4px 12px;
  border-bottom: var(--hair);
}
.grow {
  flex: 1;
}
.filter {
  width: 220px;
  font: inherit;
  font-size: 13px;
  padding: 2px 7px;
  border: var(--field);
  border-radius: 3px;
  color: rgb(var(--v-theme-on-surface));
  background: transparent;
  min-height: 26px;
}
.scroll {
  position: relative;
  overflow: auto;
}
.rows thead:not(.sr) th {
  vertical-align: top;
  position: sticky;
  top: 0;
  background: rgb(var(--v-theme-surface));
  z-index: 1;
}
.sort {
  font: inherit;
  color: inherit;
  text-align: inherit;
  cursor: pointer;
  min-height: 24px;
}
.opens {
  cursor: pointer;
  height: 34px;
}
.opens:hover td {
  background: rgb(var(--v-theme-background));
}
tbody .title th {
  font-family: var(--serif);
  font-size: 14px;
  color: rgb(var(--v-theme-on-surface));
  padding-top: 10px;
}
td.nowrap,
td.nowrap :deep(.said) {
  white-space: nowrap;
  overflow-wrap: normal;
}
/* A target of 24 px (WCAG 2.2, 2.5.8). */
.pick {
  width: 30px;
}
.pick input {
  width: 16px;
  height: 16px;
  margin: 4px;
  accent-color: rgb(var(--v-theme-primary));
}
</style>

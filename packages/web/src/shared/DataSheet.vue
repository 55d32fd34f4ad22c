<script setup lang="ts" generic="Row extends { id: number | string }">
import { mdiDownload, mdiTableColumn, mdiBookmarkOutline } from '@mdi/js'
import { FORMULA } from '@jurybox/core/report'
import { deleteView, listViews, saveView as saveSharedView, type SavedViewRow } from '@jurybox/api/views'
import papaparse from 'papaparse'
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useToasts } from '../stores/toasts.ts'
import ProblemNote from './ProblemNote.vue'
import { useAttempt } from './attempt.ts'
import { grouped } from './numbers.ts'
import { PAGE_ROWS } from './sheet-query.ts'

export interface Column<R> {
  readonly key: string
  readonly title: string
  /** What is sorted, filtered and exported. */
  readonly value: (row: R) => string | number
  /** What is exported beside it in a column of its own, where the value is words for people. */
  readonly raw?: (row: R) => string | number
  readonly width?: string
  readonly numeric?: boolean
  readonly hidden?: boolean
  /** The column shows a picture: there is nothing to filter by. */
  readonly noFilter?: boolean
}

/**
 * The table of every page: sort, filter per column, choice of columns, saved views, export of what is shown. Its state
 * is in the address, so that a link shows the same. Rows are drawn only where they can be seen.
 */
const props = defineProps<{
  name: string
  rows: readonly Row[]
  columns: readonly Column<Row>[]
  label: string
  /** What one row is, in words; left out where nobody counts to one. */
  one?: string
  height?: string
  selectable?: boolean
  /** Where the server sorts, filters and counts: `rows` is a page of what it has, `csv` where all of it is exported. */
  remote?: { readonly total: number; readonly csv: string; readonly busy: boolean }
}>()
/** Ids of the rows that are selected. */
const selected = defineModel<(number | string)[]>('selected', { default: () => [] })
const emit = defineEmits<{ open: [row: Row] }>()
defineSlots<Record<string, (props: { row: Row }) => unknown> & { bulk?: () => unknown }>()

const chosen = computed(() => new Set(selected.value))
/** Where a range begins that Shift ends. */
let anchor = 0
/** Chooses a row, or with Shift all from the last one that was chosen; all become what this one becomes. */
function choose(row: Row, at: number, isRange: boolean): void {
  const range = isRange ? kept.value.slice(Math.min(anchor, at), Math.max(anchor, at) + 1) : [row]
  const ids = new Set(range.map(({ id }) => id))
  anchor = at
  const isChosen = !chosen.value.has(row.id)
  selected.value = [...selected.value.filter((id) => !ids.has(id)), ...(isChosen ? ids : [])]
}
/** All that the filters leave, or none. */
const allChosen = computed(() => kept.value.length > 0 && kept.value.every(({ id }) => chosen.value.has(id)))
function chooseAll(): void {
  selected.value = allChosen.value ? [] : kept.value.map(({ id }) => id)
}

const route = useRoute()
const router = useRouter()
const ROW = 34

/** `name.sort`, `name.f.column`, `name.hide`: this table's part of the address. */
const query = (part: string): string => String(route.query[`${props.name}.${part}`] ?? '')
function setQuery(changes: Readonly<Record<string, string>>): void {
  const next = { ...route.query }
  for (const [part, value] of Object.entries(changes)) {
    if (value === '') delete next[`${props.name}.${part}`]
    else next[`${props.name}.${part}`] = value
  }
  // Of another order or choice, the first page.
  if (!('page' in changes)) delete next[`${props.name}.page`]
  void router.replace({ query: next })
}

const sortKey = computed(() => query('sort').replace(/^-/, ''))
const descending = computed(() => query('sort').startsWith('-'))
const hidden = computed(
  () =>
    new Set(
      query('hide') === ''
        ? props.columns.filter((column) => column.hidden).map((column) => column.key)
        : query('hide').split(','),
    ),
)
const shownColumns = computed(() => props.columns.filter((column) => !hidden.value.has(column.key)))

const kept = computed(() => {
  if (props.remote) return props.rows
  const filters = props.columns.flatMap((column) => {
    const wanted = query(`f.${column.key}`).toLowerCase()
    return wanted === '' ? [] : [{ column, wanted }]
  })
  const rows = props.rows.filter((row) => filters.every(({ column, wanted }) => matches(column.value(row), wanted)))
  const column = props.columns.find(({ key }) => key === sortKey.value)
  if (!column) return rows
  const order = descending.value ? -1 : 1
  return rows.toSorted((a, b) => order * compare(column.value(a), column.value(b)))
})

/** `>3`, `<10` and `=0` for numbers; for texts, that the text holds the words. */
function matches(value: string | number, wanted: string): boolean {
  const bound = /^([<>=])\s*(-?\d+)$/.exec(wanted)
  if (typeof value === 'number' && bound)
    return bound[1] === '<'
      ? value < Number(bound[2])
      : bound[1] === '>'
        ? value > Number(bound[2])
        : value === Number(bound[2])
  return String(value).toLowerCase().includes(wanted)
}

const collator = new Intl.Collator('en', { numeric: true })
function compare(a: string | number, b: string | number): number {
  return typeof a === 'number' && typeof b === 'number' ? a - b : collator.compare(String(a), String(b))
}

function sortBy(key: string): void {
  setQuery({ sort: sortKey.value !== key ? key : descending.value ? '' : `-${key}` })
}

function toggleColumn(key: string): void {
  const next = new Set(hidden.value)
  if (!next.delete(key)) next.add(key)
  setQuery({ hide: [...next].join(',') || 'none' })
}

/* Pages, where the server holds the rows */
const pages = computed(() => Math.max(1, Math.ceil((props.remote?.total ?? 0) / PAGE_ROWS)))
const page = computed(() => Math.min(pages.value, Math.max(1, Number(query('page')) || 1)))
const counted = computed(() => {
  const named = (count: number): string => `${grouped(count)} ${count === 1 ? (props.one ?? props.label) : props.label}`
  if (props.remote) return named(props.remote.total)
  return kept.value.length === props.rows.length
    ? named(props.rows.length)
    : `${grouped(kept.value.length)} of ${grouped(props.rows.length)} ${props.label}`
})
const span = computed(() => {
  const first = (page.value - 1) * PAGE_ROWS
  return `${grouped(Math.min(first + 1, props.remote?.total ?? 0))}–${grouped(first + props.rows.length)}`
})
const turn = (to: number): void => setQuery({ page: to === 1 ? '' : String(to) })

/* Rows in view */
const scroller = ref<HTMLElement | null>(null)
const scrolled = ref(0)
/** On paper are all rows. */
const PRINTING = ['beforeprint', 'afterprint'] as const
const printing = ref(false)
const onPrint = (event: Event): void => void (printing.value = event.type === 'beforeprint')
onMounted(() => PRINTING.forEach((name) => window.addEventListener(name, onPrint)))
onUnmounted(() => PRINTING.forEach((name) => window.removeEventListener(name, onPrint)))
const virtual = computed(() => kept.value.length > 200 && !printing.value)
const first = computed(() => (virtual.value ? Math.max(0, Math.floor(scrolled.value / ROW) - 10) : 0))
const drawn = computed(() => (virtual.value ? kept.value.slice(first.value, first.value + 70) : kept.value))
const below = computed(() => Math.max(0, (kept.value.length - first.value - drawn.value.length) * ROW))

/* Keyboard: one row holds the focus */
const current = ref(0)
watch(kept, () => (current.value = 0))
async function move(event: KeyboardEvent, to: number): Promise<void> {
  event.preventDefault()
  current.value = Math.min(Math.max(to, 0), kept.value.length - 1)
  if (virtual.value && scroller.value) scroller.value.scrollTop = Math.max(0, current.value * ROW - 120)
  await nextTick()
  scroller.value?.querySelector<HTMLElement>(`[data-at="${current.value}"]`)?.focus()
}
function onKey(event: KeyboardEvent): void {
  if (!(event.target instanceof HTMLElement) || event.target.closest('input')) return
  const row = kept.value[current.value]
  if (event.key === 'ArrowDown') void move(event, current.value + 1)
  else if (event.key === 'ArrowUp') void move(event, current.value - 1)
  else if (event.key === 'Home') void move(event, 0)
  else if (event.key === 'End') void move(event, kept.value.length - 1)
  else if (event.key === ' ' && props.selectable && row && event.target.dataset['at'] !== undefined) {
    event.preventDefault()
    choose(row, current.value, event.shiftKey)
  } else if (event.key === 'Enter' && row && event.target.dataset['at'] !== undefined) emit('open', row)
}

/* Saved views: all members of the engagement share them */
const engagement = useEngagement()
const toasts = useToasts()
const views = ref<SavedViewRow[]>([])
const title = ref('')
const { problem, fields, attempt } = useAttempt(async () => {
  views.value = await call(listViews, { query: { sheet: props.name } })
})
const saveView = () =>
  attempt(async () => {
    const own = Object.entries(route.query).flatMap(([key, value]) =>
      key.startsWith(`${props.name}.`) ? [[key, String(value)]] : [],
    )
    await call(saveSharedView, {
      body: { sheet: props.name, title: title.value, query: Object.fromEntries(own) as Record<string, string> },
    })
    title.value = ''
  })
function useView(saved: Readonly<Record<string, string>>): void {
  const others = Object.fromEntries(Object.entries(route.query).filter(([key]) => !key.startsWith(`${props.name}.`)))
  void router.push({ query: { ...others, ...saved } })
}
const dropView = (view: SavedViewRow) =>
  attempt(async () => {
    await call(deleteView, { params: { view: view.id } })
    toasts.show(t('shared.viewDeleted', { title: view.title }), {
      action: {
        title: t('common.undo'),
        run: () =>
          attempt(() => call(saveSharedView, { body: { sheet: props.name, title: view.title, query: view.query } })),
      },
    })
  })

function exportCsv(): void {
  const rows = kept.value.map((row) =>
    Object.fromEntries(
      shownColumns.value.flatMap((column) => [
        [column.title, column.value(row)],
        ...(column.raw ? [[`${column.title} (${t('shared.raw')})`, column.raw(row)]] : []),
      ]),
    ),
  )
  const link = document.createElement('a')
  link.href = URL.createObjectURL(
    new Blob([papaparse.unparse(rows, { escapeFormulae: FORMULA })], { type: 'text/csv' }),
  )
  link.download = `${props.name}.csv`
  link.click()
  URL.revokeObjectURL(link.href)
}
</script>

<template>
  <div class="sheet panel">
    <div class="tools">
      <span class="quiet" aria-live="polite"
        >{{ selectable && selected.length > 0 ? `${$t('shared.selectedOf', { selected: selected.length })} ` : ''
        }}{{ counted }}</span
      >
      <nav v-if="remote && pages > 1" class="pages" :aria-label="$t('shared.pagesOf', { label })">
        <v-btn
          size="small"
          variant="text"
          :disabled="page === 1"
          :aria-label="$t('shared.previousPage')"
          @click="turn(page - 1)"
          >‹</v-btn
        >
        <span class="quiet">{{ span }}</span>
        <v-btn
          size="small"
          variant="text"
          :disabled="page === pages"
          :aria-label="$t('shared.nextPage')"
          @click="turn(page + 1)"
          >›</v-btn
        >
      </nav>
      <div
        v-if="selectable && selected.length > 0 && $slots.bulk"
        class="bulk"
        role="group"
        :aria-label="$t('shared.forSelected')"
      >
        <slot name="bulk" /><v-btn size="small" variant="text" @click="selected = []">{{
          $t('shared.clearSelection')
        }}</v-btn>
      </div>
      <span class="grow" />
      <v-menu
        :close-on-content-click="false"
        @update:model-value="(open: boolean) => open && attempt(async () => undefined)"
      >
        <template #activator="{ props: menu }"
          ><v-btn v-bind="menu" size="small" variant="text" :prepend-icon="mdiBookmarkOutline">{{
            $t('shared.views')
          }}</v-btn></template
        >
        <v-sheet class="menu">
          <p v-if="views.length === 0" class="quiet">{{ $t('shared.noSavedViewsYet') }}</p>
          <ProblemNote :text="problem" />
          <div v-for="view in views" :key="view.id" class="view">
            <v-btn
              size="small"
              variant="text"
              :title="$t('shared.savedBy', { by: view.by })"
              @click="useView(view.query)"
              >{{ view.title }}</v-btn
            >
            <v-btn
              v-if="engagement.may.describe"
              size="small"
              variant="text"
              color="secondary"
              :aria-label="$t('shared.deleteTheView', { title: view.title })"
              @click="dropView(view)"
              >{{ $t('common.delete') }}</v-btn
            >
          </div>
          <form v-if="engagement.may.describe" class="view" @submit.prevent="saveView">
            <v-text-field v-model="title" :label="$t('shared.nameOfThisView')" :error-messages="fields['title']" />
            <v-btn type="submit" size="small" :disabled="title.trim() === ''">{{ $t('shared.saveView') }}</v-btn>
          </form>
        </v-sheet>
      </v-menu>
      <v-menu :close-on-content-click="false">
        <template #activator="{ props: menu }"
          ><v-btn v-bind="menu" size="small" variant="text" :prepend-icon="mdiTableColumn">{{
            $t('shared.columns')
          }}</v-btn></template
        >
        <v-sheet class="menu"
          ><v-checkbox
            v-for="column in columns"
            :key="column.key"
            :label="column.title"
            :model-value="!hidden.has(column.key)"
            @update:model-value="toggleColumn(column.key)"
        /></v-sheet>
      </v-menu>
      <v-btn v-if="remote" size="small" variant="text" :prepend-icon="mdiDownload" :href="remote.csv" download
        >CSV</v-btn
      >
      <v-btn v-else size="small" variant="text" :prepend-icon="mdiDownload" @click="exportCsv">CSV</v-btn>
    </div>
    <div
      ref="scroller"
      class="scroll"
      :style="{ maxHeight: height ?? 'none' }"
      tabindex="-1"
      @scroll="scrolled = ($event.target as HTMLElement).scrollTop"
      @keydown="onKey"
    >
      <table class="rows" :aria-rowcount="remote?.total ?? kept.length" :aria-busy="remote?.busy ?? false">
        <thead>
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
              :aria-sort="sortKey === column.key ? (descending ? 'descending' : 'ascending') : 'none'"
            >
              <button type="button" class="sort" @click="sortBy(column.key)">
                {{ column.title
                }}<span aria-hidden="true">{{ sortKey === column.key ? (descending ? ' ↓' : ' ↑') : '' }}</span>
              </button>
              <input
                v-if="!column.noFilter"
                class="filter"
                type="search"
                :value="query(`f.${column.key}`)"
                :aria-label="$t('shared.filter', { column: column.title })"
                :placeholder="column.numeric ? '> < =' : 'filter'"
                @input="setQuery({ [`f.${column.key}`]: ($event.target as HTMLInputElement).value })"
              />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="first > 0" aria-hidden="true" :style="{ height: `${first * ROW}px` }" />
          <tr
            v-for="(row, i) in drawn"
            :key="row.id"
            :data-at="first + i"
            :tabindex="first + i === current ? 0 : -1"
            class="row"
            :aria-selected="selectable ? chosen.has(row.id) : undefined"
            @focus="current = first + i"
            @click="emit('open', row)"
          >
            <td v-if="selectable" class="pick">
              <input
                type="checkbox"
                tabindex="-1"
                :checked="chosen.has(row.id)"
                :aria-label="$t('shared.select', { columns: String(columns[0]?.value(row) ?? row.id) })"
                @click.stop="choose(row, first + i, $event.shiftKey)"
              />
            </td>
            <td v-for="column in shownColumns" :key="column.key" :class="{ num: column.numeric }">
              <slot :name="column.key" :row="row">{{ column.value(row) }}</slot>
            </td>
          </tr>
          <tr v-if="below > 0" aria-hidden="true" :style="{ height: `${below}px` }" />
          <tr v-if="kept.length === 0">
            <td :colspan="shownColumns.length + Number(selectable ?? false)" class="quiet">
              {{ $t('shared.noRowsMatchTheFilters') }}
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
  padding: 4px 6px 4px 12px;
  border-bottom: var(--hair);
}
.grow {
  flex: 1;
}
.pages {
  display: inline-flex;
  align-items: center;
  margin-left: 10px;
}
.bulk {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  margin-left: 12px;
}
.scroll {
  position: relative;
  overflow: auto;
}

.rows thead th {
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
.filter {
  display: block;
  width: 100%;
  min-width: 40px;
  font: inherit;
  font-weight: 400;
  font-size: 12px;
  padding: 2px 5px;
  border: var(--field);
  border-radius: 3px;
  color: rgb(var(--v-theme-on-surface));
  background: transparent;
  min-height: 24px;
}
.filter::placeholder {
  color: rgb(var(--v-theme-quiet));
}
.filter:focus {
  border-color: rgb(var(--v-theme-primary));
}
.row {
  cursor: pointer;
  height: 34px;
}
.row:hover td {
  background: rgb(var(--v-theme-background));
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
.menu {
  padding: 10px 14px;
  min-width: 240px;
}
.view {
  display: flex;
  gap: 6px;
  align-items: center;
  justify-content: space-between;
  margin-top: 4px;
}
</style>

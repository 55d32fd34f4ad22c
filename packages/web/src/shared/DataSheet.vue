<script setup lang="ts" generic="Row extends { id: number | string }">
import { mdiDownload, mdiTableColumn, mdiBookmarkOutline } from '@mdi/js'
import { deleteView, listViews, saveView as saveSharedView, type SavedViewRow } from '@jurybox/api/views'
import { computed, onUnmounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useToasts } from '../stores/toasts.ts'
import DataTable from './DataTable.vue'
import ProblemNote from './ProblemNote.vue'
import { csvOf, matchesFilter, saveText, shownOf, sortedRows, type Column } from './columns.ts'
import { grouped } from './numbers.ts'
import { useQuery } from './query.ts'
import { PAGE_ROWS } from './sheet-query.ts'

/**
 * The table that is a page: filter per column, choice of columns, saved views, export of what is shown. Its state is in
 * the address, so that a link shows the same.
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

const route = useRoute()
const router = useRouter()

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

/**
 * What is being typed into the filters: the address follows a moment later, and until then a field that is drawn again
 * must not fall back to what the address says.
 */
const typed = ref<Readonly<Record<string, string>>>({})
let writing: ReturnType<typeof setTimeout> | undefined
const filterOf = (key: string): string => typed.value[key] ?? query(`f.${key}`)
function filterBy(key: string, text: string): void {
  typed.value = { ...typed.value, [key]: text }
  clearTimeout(writing)
  writing = setTimeout(
    () => setQuery(Object.fromEntries(Object.entries(typed.value).map(([name, value]) => [`f.${name}`, value]))),
    150,
  )
}
watch(
  () => route.query,
  () => {
    const isBehind = Object.entries(typed.value).some(([key, value]) => query(`f.${key}`) !== value)
    if (!isBehind) typed.value = {}
  },
)
onUnmounted(() => clearTimeout(writing))

const sort = computed({ get: () => query('sort'), set: (sort) => setQuery({ sort }) })
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
    const wanted = query(`f.${column.key}`)
    return wanted === '' ? [] : [{ column, wanted }]
  })
  const rows = props.rows.filter((row) =>
    filters.every(({ column, wanted }) => matchesFilter(column.value(row), wanted)),
  )
  return sortedRows(rows, props.columns, sort.value)
})

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
    : t('common.someOfAll', { shown: grouped(kept.value.length), all: `${grouped(props.rows.length)} ${props.label}` })
})
const span = computed(() => {
  const first = (page.value - 1) * PAGE_ROWS
  return `${grouped(Math.min(first + 1, props.remote?.total ?? 0))}–${grouped(first + props.rows.length)}`
})
const turn = (to: number): void => setQuery({ page: to === 1 ? '' : String(to) })

/* Saved views: all members of the engagement share them */
const engagement = useEngagement()
const toasts = useToasts()
const viewsOpen = ref(false)
const {
  data: listed,
  problem,
  fields,
  attempt,
} = useQuery(listViews, () => (viewsOpen.value ? { query: { sheet: props.name } } : null))
const views = computed(() => listed.value ?? [])
const title = ref('')
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

const exportCsv = (): void => saveText(`${props.name}.csv`, csvOf(kept.value, shownColumns.value), 'text/csv')
</script>

<template>
  <div class="sheet panel wide-on-paper">
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
      <v-menu :close-on-content-click="false" @update:model-value="(open: boolean) => (viewsOpen = open)">
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
    <DataTable
      v-model:sort="sort"
      v-model:selected="selected"
      managed
      opens
      :rows="kept"
      :columns="shownColumns"
      :label="label"
      :height="height"
      :selectable="selectable"
      :total="remote?.total"
      :busy="remote?.busy ?? false"
      @open="(row) => emit('open', row)"
    >
      <template #filter="{ column }">
        <input
          v-if="!column.noFilter"
          class="filter"
          type="search"
          :value="filterOf(column.key)"
          :aria-label="$t('shared.filter', { column: column.title })"
          :placeholder="column.numeric ? '> < =' : 'filter'"
          @input="filterBy(column.key, ($event.target as HTMLInputElement).value)"
        />
      </template>
      <template v-for="column in shownColumns" :key="column.key" #[column.key]="{ row }">
        <slot :name="column.key" :row="row">{{ shownOf(column, row) }}</slot>
      </template>
    </DataTable>
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

<script setup lang="ts">
import { t } from '../messages/index.ts'
import { searchEstate } from '@jurybox/api/search'
import { mdiMagnify } from '@mdi/js'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { ACTIONS, PAGES } from '../pages.ts'
import { KINDS } from '../search/found-words.ts'
import { useQuery } from '../shared/query.ts'
import { useSettled } from '../shared/settled.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Finds anything: devices, rules, requirements, lines, pages. Arrows move, Enter opens. */
const engagement = useEngagement()
const router = useRouter()
const input = ref<HTMLInputElement | null>(null)
const text = ref('')
const at = ref(0)
const open = ref(false)
interface Hit {
  kind: string
  title: string
  detail: string
  to: string
}

/** Pages and actions whose title or other words hold what was typed. */
const pages = computed(() => {
  const wanted = text.value.trim().toLowerCase()
  if (wanted === '') return []
  const holds = (...words: (string | undefined)[]): boolean =>
    words.some((word) => word?.toLowerCase().includes(wanted) === true)
  const base = `/e/${engagement.id}`
  return [
    ...PAGES.filter(({ path, title, alias }) => !path.includes(':') && holds(title, alias)).map(
      ({ path, title }): Hit => ({ kind: t('frame.page'), title, detail: '', to: `${base}/${path}` }),
    ),
    ...ACTIONS.filter(({ title }) => holds(title)).map(({ path, title, query }): Hit => ({
      kind: t('frame.action'),
      title,
      detail: '',
      to: `${base}/${path}${query ? `?${new URLSearchParams(query)}` : ''}`,
    })),
  ]
})
/** The last line leads to all that was found. */
const hits = computed(() => [
  ...pages.value,
  ...found.value,
  ...(text.value.trim() === ''
    ? []
    : [
        {
          kind: 'search',
          title: t('frame.allResultsFor', { trim: text.value.trim() }),
          detail: counted.value,
          to: `/e/${engagement.id}/search?q=${encodeURIComponent(text.value.trim())}`,
        },
      ]),
])

const typed = useSettled(() => text.value.trim(), 120)
watch(text, (wanted) => {
  at.value = 0
  if (wanted.trim() !== '') open.value = true
})
const {
  data,
  problem: refused,
  reading,
} = useQuery(searchEstate, () =>
  typed.value === '' ? null : { query: { q: typed.value, snapshot: engagement.b?.id, limit: 4 } },
)
/** Nothing of what was looked for before, once the field is empty. */
const parts = computed(() => (text.value.trim() === '' ? null : data.value))
const problem = computed(() => {
  if (text.value.trim() === '') return ''
  const { done, total } = reading.value ?? { done: 0, total: 0 }
  return total > 1 ? t('frame.devicesParsed', { done, total }) : refused.value
})
const counted = computed(() =>
  parts.value === null ? '' : `${parts.value.reduce((sum, { total }) => sum + total, 0)} found`,
)
const found = computed(() =>
  (parts.value ?? []).flatMap(({ kind, hits: some }) =>
    some.map(({ title, detail, device, to }): Hit => ({
      kind: KINDS[kind][0],
      title,
      detail: [kind === 'device' ? '' : device, detail].filter(Boolean).join(', '),
      to,
    })),
  ),
)

function go(hit: { to: string } | undefined): void {
  if (!hit) return
  open.value = false
  text.value = ''
  input.value?.blur()
  void router.push(hit.to)
}

function onKey(event: KeyboardEvent): void {
  if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    event.preventDefault()
    const count = hits.value.length
    if (count > 0) at.value = (at.value + (event.key === 'ArrowDown' ? 1 : count - 1)) % count
  } else if (event.key === 'Enter') go(hits.value[at.value])
  else if (event.key === 'Escape') {
    open.value = false
    input.value?.blur()
  }
}

function onShortcut(event: KeyboardEvent): void {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'k') return
  event.preventDefault()
  input.value?.focus()
  input.value?.select()
}
onMounted(() => window.addEventListener('keydown', onShortcut))
onBeforeUnmount(() => window.removeEventListener('keydown', onShortcut))
</script>

<template>
  <div class="search">
    <v-icon :icon="mdiMagnify" size="18" class="glass" />
    <input
      ref="input"
      v-model="text"
      type="text"
      role="combobox"
      :aria-label="$t('frame.searchDevicesAddressesLinesRules')"
      aria-controls="search-hits"
      :aria-expanded="open && text !== ''"
      :aria-activedescendant="hits.length > 0 ? `hit-${at}` : undefined"
      :placeholder="$t('common.search')"
      autocomplete="off"
      @focus="open = true"
      @blur="open = false"
      @keydown="onKey"
    />
    <kbd>Ctrl K</kbd>
    <ul v-show="open && text !== ''" id="search-hits" role="listbox" :aria-label="$t('common.result')">
      <li
        v-for="(hit, i) in hits"
        :id="`hit-${i}`"
        :key="hit.to + hit.title"
        role="option"
        :aria-selected="i === at"
        :class="{ at: i === at }"
        @mousedown.prevent="go(hit)"
        @mousemove="at = i"
      >
        <span class="kind">{{ hit.kind }}</span>
        <span class="title" :class="{ mono: hit.kind === KINDS.line[0] || hit.kind === KINDS.output[0] }">{{
          hit.title
        }}</span>
        <span class="quiet detail">{{ hit.detail }}</span>
      </li>
      <li v-if="problem" class="quiet" role="option" aria-selected="false">{{ problem }}</li>
    </ul>
  </div>
</template>

<style scoped>
.search {
  position: relative;
  display: flex;
  align-items: center;
  border: var(--field);
  border-radius: 3px;
  height: 30px;
  background: rgb(var(--v-theme-background));
}
.search:focus-within {
  border-color: rgb(var(--v-theme-primary));
}
.glass {
  margin-left: 8px;
  color: rgb(var(--v-theme-quiet));
}
input {
  flex: 1;
  min-width: 0;
  padding: 0 8px;
  font: inherit;
  color: inherit;
  outline: none !important;
  height: 28px;
}
input::placeholder {
  color: rgb(var(--v-theme-quiet));
  opacity: 1;
}
kbd {
  font: inherit;
  font-size: 12px;
  color: rgb(var(--v-theme-quiet));
  padding-right: 8px;
}
ul {
  position: absolute;
  top: 32px;
  left: -60px;
  right: -60px;
  z-index: 2500;
  list-style: none;
  margin: 0;
  padding: 4px;
  background: rgb(var(--v-theme-surface));
  border: var(--hair);
  border-radius: 3px;
  max-height: 60vh;
  overflow: auto;
}
li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 5px 8px;
  border-radius: 3px;
  cursor: pointer;
}
li.at {
  background: rgb(var(--v-theme-brass-fill));
}
.kind {
  width: 84px;
  flex: none;
  font-size: 12.5px;
  color: rgb(var(--v-theme-quiet));
}
li.at .kind,
li.at .quiet {
  color: rgb(var(--v-theme-on-surface));
}
.title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.detail {
  margin-left: auto;
  white-space: nowrap;
  font-size: 12.5px;
  max-width: 45%;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>

<script setup lang="ts">
import { mdiMagnifyMinusOutline, mdiMagnifyPlusOutline } from '@mdi/js'
import { type ChronicleEvent, EVENT_KINDS, type EventKind, listEvents } from '@jurybox/api/chronicle'
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { t } from '../messages/index.ts'
import { namedDays, placeOf } from '../frame/time-axis.ts'
import DataTable from '../shared/DataTable.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import type { Column } from '../shared/columns.ts'
import { useAddress } from '../shared/address.ts'
import { useQuery } from '../shared/query.ts'
import { absoluteTime, dayOf } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import ChronicleHead from './ChronicleHead.vue'
import { KIND_WORDS, eventWords } from './event-words.ts'

/** Everything that happened on one time line: a lane a kind, filtered, zoomed, and as a table below. */
const engagement = useEngagement()
const router = useRouter()
const { text, ask } = useAddress()
const {
  data: view,
  problem,
  reading,
  stop,
} = useQuery(listEvents, () => ({
  query: {
    ...(text('site') === null ? {} : { site: text('site') ?? '' }),
    ...(text('device') === null ? {} : { device: text('device') ?? '' }),
  },
}))

/* Kinds that are shown */
const hidden = computed(() => new Set((text('hide') ?? '').split(',').filter(Boolean)))
function toggle(kind: EventKind): void {
  const next = new Set(hidden.value)
  if (!next.delete(kind)) next.add(kind)
  ask({ hide: next.size === 0 ? null : [...next].join(',') }, 'replace')
}
const all = computed(() => view.value?.events ?? [])
const counts = computed(
  () => new Map(EVENT_KINDS.map((kind) => [kind, all.value.filter((one) => one.kind === kind).length])),
)
const kinds = computed(() => EVENT_KINDS.filter((kind) => !hidden.value.has(kind) && (counts.value.get(kind) ?? 0) > 0))

/* What stretch of time is in sight */
const DAY = 86_400_000
const whole = computed(() => {
  const times = all.value.map(({ at }) => Date.parse(at))
  const from = Math.min(...times, Date.now() - 7 * DAY)
  const to = Math.max(...all.value.map(({ at, until }) => Date.parse(until ?? at)), Date.now())
  return { from: from - (to - from) * 0.03, to: to + (to - from) * 0.01 }
})
const zoomed = ref<{ from: number; to: number } | null>(null)
const span = computed(() => zoomed.value ?? whole.value)
const isIn = ({ at, until }: ChronicleEvent): boolean =>
  Date.parse(until ?? at) >= span.value.from && Date.parse(at) <= span.value.to
const shown = computed(() => all.value.filter((one) => !hidden.value.has(one.kind) && isIn(one)))
/** @param by less than one: closer */
function zoom(by: number, around = 0.5): void {
  const { from, to } = span.value
  const middle = from + (to - from) * around
  const length = Math.max((to - from) * by, 3_600_000)
  if (length >= whole.value.to - whole.value.from) zoomed.value = null
  else zoomed.value = { from: middle - length * around, to: middle + length * (1 - around) }
}
function shift(by: number): void {
  const { from, to } = span.value
  zoomed.value = { from: from + (to - from) * by, to: to + (to - from) * by }
}
function onWheel(event: WheelEvent): void {
  if (!event.ctrlKey && !event.shiftKey) return
  event.preventDefault()
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  zoom(event.deltaY > 0 ? 1.4 : 0.7, (event.clientX - box.left) / box.width)
}
const STRETCHES = [
  { days: 1, title: t('chronicle.day') },
  { days: 7, title: t('chronicle.week') },
  { days: 31, title: t('chronicle.month') },
] as const
function last(days: number): void {
  const to = Date.now() + 0.02 * days * DAY
  zoomed.value = { from: to - days * DAY, to }
}

/* Places in pixels: marks that would cover each other are one */
const track = ref<HTMLElement | null>(null)
const width = ref(900)
const observer = new ResizeObserver(() => (width.value = track.value?.clientWidth || width.value))
onMounted(() => track.value && observer.observe(track.value))
onUnmounted(() => observer.disconnect())
const MARK_PX = 24
interface Mark {
  readonly at: number
  readonly events: readonly ChronicleEvent[]
}
function marksOf(kind: EventKind): Mark[] {
  const marks: { at: number; events: ChronicleEvent[] }[] = []
  const own = shown.value.filter((one) => one.kind === kind).toSorted((x, y) => (x.at < y.at ? -1 : 1))
  for (const event of own) {
    const at = Math.max(0, placeOf(Date.parse(event.at), span.value))
    const before = marks.at(-1)
    if (before && ((at - before.at) / 100) * width.value < MARK_PX) before.events.push(event)
    else marks.push({ at, events: [event] })
  }
  return marks
}
const lanes = computed(() => kinds.value.map((kind) => ({ kind, marks: marksOf(kind) })))
const windows = computed(() =>
  shown.value.flatMap((one) => {
    if (one.until === null) return []
    const from = Math.max(0, placeOf(Date.parse(one.at), span.value))
    const to = Math.min(100, placeOf(Date.parse(one.until), span.value))
    return [{ id: one.id, from, width: Math.max(0.2, to - from) }]
  }),
)
const days = computed(() =>
  namedDays(span.value, Math.max(2, Math.floor(width.value / 100))).map((at) => ({
    at: placeOf(at, span.value),
    label: dayOf(at),
  })),
)
const titleOf = ({ events }: Mark): string =>
  events
    .slice(0, 6)
    .map((one) => `${absoluteTime(one.at)} ${eventWords(one)}${one.by === null ? '' : ` (${one.by})`}`)
    .join('\n')
/** The number that is seen is part of the name (WCAG 2.5.3). */
const labelOf = (mark: Mark): string =>
  mark.events.length > 1 ? `${mark.events.length}: ${titleOf(mark)}` : titleOf(mark)
function open({ opens }: ChronicleEvent): void {
  void router.push({ path: `/e/${engagement.id}/${opens.path}`, query: opens.query })
}
/** One opens; several are looked at closely. */
function press({ events }: Mark): void {
  const [first] = events
  if (!first) return
  if (events.length === 1) return open(first)
  const times = events.map(({ at }) => Date.parse(at))
  const [from, to] = [Math.min(...times), Math.max(...times)]
  const air = Math.max((to - from) * 0.2, 1_800_000)
  zoomed.value = { from: from - air, to: to + air }
}
const isBad = ({ kind, code }: ChronicleEvent): boolean => kind === 'incident' || code === 'expectation-violated'

const columns: Column<ChronicleEvent>[] = [
  { key: 'at', title: t('common.time'), value: ({ at }) => absoluteTime(at), nowrap: true, width: '17%' },
  { key: 'kind', title: t('common.type'), value: ({ kind }) => KIND_WORDS[kind], width: '17%' },
  { key: 'what', title: t('chronicle.event'), value: eventWords },
  {
    key: 'by',
    title: t('chronicle.by'),
    value: ({ by, place }) => [by, place].filter(Boolean).join(', '),
    width: '16%',
  },
]
</script>

<template>
  <div class="page">
    <ChronicleHead :note="$t('chronicle.note')" />
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop()" />
    <div class="tools">
      <div role="group" :aria-label="$t('chronicle.kinds')" class="kinds">
        <button
          v-for="kind in EVENT_KINDS"
          :key="kind"
          type="button"
          class="kind"
          :aria-pressed="!hidden.has(kind)"
          :disabled="(counts.get(kind) ?? 0) === 0"
          @click="toggle(kind)"
        >
          {{ KIND_WORDS[kind] }} <b>{{ counts.get(kind) ?? 0 }}</b>
        </button>
      </div>
      <v-select
        :model-value="text('site')"
        :items="[
          { value: null, title: $t('chronicle.allSites') },
          ...(view?.sites ?? []).map((one) => ({ value: one, title: one })),
        ]"
        :label="$t('changes.site')"
        hide-details
        class="site"
        @update:model-value="ask({ site: $event }, 'replace')"
      />
      <v-text-field
        :model-value="text('device') ?? ''"
        :label="$t('common.device')"
        hide-details
        clearable
        class="site"
        @change="ask({ device: ($event.target as HTMLInputElement).value || null }, 'replace')"
        @click:clear="ask({ device: null }, 'replace')"
      />
    </div>
    <section class="panel line" :aria-label="$t('chronicle.timeLine')">
      <div class="zoom">
        <v-btn
          :icon="mdiMagnifyPlusOutline"
          size="small"
          variant="text"
          :aria-label="$t('chronicle.zoomIn')"
          :title="$t('chronicle.zoomIn')"
          @click="zoom(0.5)"
        />
        <v-btn
          :icon="mdiMagnifyMinusOutline"
          size="small"
          variant="text"
          :aria-label="$t('chronicle.zoomOut')"
          :title="$t('chronicle.zoomOut')"
          :disabled="zoomed === null"
          @click="zoom(2)"
        />
        <v-btn size="small" variant="text" :disabled="zoomed === null" @click="shift(-0.5)">{{
          $t('chronicle.earlier')
        }}</v-btn>
        <v-btn size="small" variant="text" :disabled="zoomed === null" @click="shift(0.5)">{{
          $t('chronicle.later')
        }}</v-btn>
        <v-btn v-for="one in STRETCHES" :key="one.days" size="small" variant="text" @click="last(one.days)">{{
          one.title
        }}</v-btn>
        <v-btn size="small" variant="text" :disabled="zoomed === null" @click="zoomed = null">{{
          $t('chronicle.everything')
        }}</v-btn>
      </div>
      <div class="lanes" @wheel="onWheel">
        <div v-for="lane in lanes" :key="lane.kind" class="lane">
          <span class="name">{{ KIND_WORDS[lane.kind] }}</span>
          <div class="track">
            <template v-if="lane.kind === 'window'">
              <i
                v-for="one in windows"
                :key="one.id"
                class="stretch"
                :style="{ left: `${one.from}%`, width: `${one.width}%` }"
              />
            </template>
            <button
              v-for="mark in lane.marks"
              :key="mark.events[0]?.id ?? ''"
              type="button"
              class="mark"
              :class="[lane.kind, { bad: mark.events.some(isBad) }]"
              :style="{ left: `${mark.at}%` }"
              :title="titleOf(mark)"
              :aria-label="labelOf(mark)"
              @click="press(mark)"
            >
              <span v-if="mark.events.length > 1">{{ mark.events.length }}</span>
            </button>
          </div>
        </div>
        <div class="lane axis" aria-hidden="true">
          <span class="name" />
          <div ref="track" class="track">
            <span v-for="day in days" :key="day.label" class="day" :style="{ left: `${day.at}%` }">{{
              day.label
            }}</span>
          </div>
        </div>
      </div>
    </section>
    <p v-if="view?.more" class="quiet">{{ $t('chronicle.more', { count: all.length }) }}</p>
    <DataTable
      class="panel"
      name="chronicle"
      :label="$t('chronicle.title')"
      :rows="shown"
      :columns="columns"
      height="calc(100vh - 420px)"
      opens
      :empty="$t('chronicle.nothing')"
      @open="open"
    >
      <template #what="{ row }"
        ><span :class="{ bad: isBad(row) }">{{ eventWords(row) }}</span></template
      >
    </DataTable>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
  margin-bottom: 10px;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.kind {
  font: inherit;
  font-size: 13px;
  min-height: 28px;
  padding: 2px 10px;
  color: rgb(var(--v-theme-quiet));
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 3px;
  background: rgb(var(--v-theme-surface));
  cursor: pointer;
  text-decoration: line-through;
}
.kind[aria-pressed='true'] {
  color: inherit;
  text-decoration: none;
  border-color: rgb(var(--v-theme-primary));
}
.kind:disabled {
  color: rgb(var(--v-theme-quiet));
  border-color: rgb(var(--v-theme-rule));
  cursor: default;
}
.site {
  max-width: 190px;
  min-width: 150px;
}
.line {
  padding: 6px 14px 10px;
  margin-bottom: 10px;
}
.zoom {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
}
.lane {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  align-items: center;
  min-height: 30px;
  border-top: var(--hair);
}
.name {
  font-size: 13px;
  color: rgb(var(--v-theme-quiet));
}
.track {
  position: relative;
  height: 28px;
  margin: 0 20px;
}
.mark {
  position: absolute;
  top: 2px;
  width: 24px;
  height: 24px;
  margin-left: -12px;
  cursor: pointer;
  font: inherit;
  font-size: 11px;
  font-weight: 600;
  color: rgb(var(--v-theme-on-surface));
}
.mark::before {
  content: '';
  position: absolute;
  left: 11px;
  top: 4px;
  width: 2px;
  height: 16px;
  background: rgb(var(--v-theme-on-surface));
}
.mark span {
  position: absolute;
  left: 20px;
  top: 4px;
}
.mark.change::before {
  background: rgb(var(--v-theme-brass));
  width: 6px;
  left: 9px;
}
.mark.finding::before {
  background: rgb(var(--v-theme-primary));
  height: 10px;
  top: 7px;
  width: 10px;
  left: 7px;
}
.mark.approval::before {
  background: none;
  border: 2px solid rgb(var(--v-theme-pass));
  border-radius: 50%;
  width: 8px;
  height: 8px;
  left: 6px;
  top: 6px;
}
.mark.bad::before {
  background: rgb(var(--v-theme-fail));
  width: 10px;
  height: 10px;
  left: 7px;
  top: 7px;
}
.stretch {
  position: absolute;
  top: 9px;
  height: 10px;
  min-width: 3px;
  background: rgb(var(--v-theme-brass-fill));
  border: 1px solid rgb(var(--v-theme-brass));
}
.axis .track {
  height: 20px;
}
.day {
  position: absolute;
  top: 2px;
  font-size: 11px;
  color: rgb(var(--v-theme-quiet));
  transform: translateX(-50%);
  white-space: nowrap;
}
.bad {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
</style>

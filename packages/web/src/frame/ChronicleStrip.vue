<script setup lang="ts">
import { mdiTimelineClockOutline } from '@mdi/js'
import { t } from '../messages/index.ts'
import type { AuditTick, SnapshotTick } from '@jurybox/api/engagements'
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { absoluteTime, dayOf, relativeTime } from '../shared/time.ts'
import { namedDays, placeOf, spanOf, ticksOf } from './time-axis.ts'
import { isWhole, useEngagement } from '../stores/engagement.ts'

/**
 * The chronicle: one time line of the engagement. Ticks are snapshots; above a tick stand what its audit found, below
 * it the day. Handle B is "as of": every page shows the network at B.
 */
const engagement = useEngagement()
const track = ref<HTMLElement | null>(null)

const span = computed(() =>
  spanOf(
    engagement.snapshots.map(({ takenAt }) => Date.parse(takenAt)),
    Date.now(),
  ),
)
const place = (snapshot: SnapshotTick): number => placeOf(Date.parse(snapshot.takenAt), span.value)

/* How much room there is, in pixels */
const width = ref(900)
const observer = new ResizeObserver(() => (width.value = track.value?.clientWidth || width.value))
onMounted(() => track.value && observer.observe(track.value))
onUnmounted(() => observer.disconnect())
/** A tick is a target of 24 pixels at least (WCAG 2.5.8): those that would stand closer are one. */
const apart = computed(() => (26 / width.value) * 100)
/** A day takes so much, and some air. */
const DAY_PX = 78
const countsOf = (snapshot: SnapshotTick): AuditTick['counts'] =>
  engagement.audits.findLast((tick) => tick.snapshotId === snapshot.id && isWhole(tick))?.counts ?? null
const ticks = computed(() =>
  ticksOf(engagement.snapshots, place, apart.value).flatMap(({ at, members }) => {
    const latest = members.at(-1)
    return latest ? [{ at, members, latest, counts: countsOf(latest) }] : []
  }),
)
const bAt = computed(() => (engagement.b ? place(engagement.b) : 0))
/** A day's name would be hidden behind the handle. */
const shownDays = computed(() =>
  namedDays(span.value, Math.max(1, Math.floor(width.value / DAY_PX)))
    .map((at) => ({ at: placeOf(at, span.value), label: dayOf(at) }))
    .filter(({ at }) =>
      [bAt.value, ...(engagement.a ? [aShown.value] : [])].every(
        (handle) => (Math.abs(at - handle) / 100) * width.value > DAY_PX / 2 - 8,
      ),
    ),
)
/** A snapshot of today stands where the word would. */
const endIsTaken = computed(() => ticks.value.some(({ at }) => ((100 - at) / 100) * width.value < 20))
const latestFirst = computed(() => engagement.snapshots.toReversed())
const bIndex = computed(() => engagement.snapshots.findIndex((snapshot) => snapshot.id === engagement.b?.id))

function choose(snapshot: SnapshotTick): void {
  engagement.chosenB = snapshot.id
}

/** The handle that is dragged. */
const dragged = ref<'a' | 'b'>('b')
function drag(event: PointerEvent): void {
  if (event.buttons === 0 || !track.value || engagement.snapshots.length === 0) return
  const box = track.value.getBoundingClientRect()
  const x = ((event.clientX - box.left) / box.width) * 100
  const away = (snapshot: SnapshotTick): number => Math.abs(place(snapshot) - x)
  // The two handles never stand at one snapshot: A is what B is compared with.
  const free =
    dragged.value === 'a' ? engagement.snapshots.filter(({ id }) => id !== engagement.b?.id) : engagement.snapshots
  const nearest = free.reduce<SnapshotTick | null>((best, one) => (best && away(best) <= away(one) ? best : one), null)
  if (!nearest) return
  if (dragged.value === 'a') engagement.chosenA = nearest.id
  else if (nearest.id !== engagement.b?.id) choose(nearest)
}
function grip(event: PointerEvent, handle: 'a' | 'b'): void {
  dragged.value = handle
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
function onKey(event: KeyboardEvent, handle: 'a' | 'b'): void {
  if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
  event.preventDefault()
  const by = event.key === 'ArrowLeft' ? -1 : 1
  if (handle === 'b') engagement.step(by)
  else {
    const others = engagement.snapshots.filter(({ id }) => id !== engagement.b?.id)
    const next = others[others.findIndex(({ id }) => id === engagement.a?.id) + by]
    if (next) engagement.chosenA = next.id
  }
}
const aAt = computed(() => (engagement.a ? place(engagement.a) : 0))
const aIndex = computed(() => engagement.snapshots.findIndex((snapshot) => snapshot.id === engagement.a?.id))
const HANDLE_PX = 24
/** Snapshots of one day: A stands beside B, on the side of the earlier one where there is room. */
const aShown = computed(() => {
  const beside = (HANDLE_PX / width.value) * 100
  if (Math.abs(aAt.value - bAt.value) >= beside) return aAt.value
  const earlier = aIndex.value < bIndex.value ? bAt.value >= beside : bAt.value > 100 - beside
  return bAt.value + (earlier ? -beside : beside)
})
type ShownTick = (typeof ticks.value)[number]
/** Whether a handle hides a tick, so that it cannot be pressed. */
const isUnderHandle = ({ at, members }: ShownTick): boolean =>
  members.some(({ id }) => id === engagement.b?.id || id === engagement.a?.id) ||
  (engagement.a !== null && (Math.abs(at - aShown.value) / 100) * width.value < HANDLE_PX)
function describe({ members, latest, counts }: ShownTick): string {
  const found = counts
    ? t('frame.failUnknownPass', { fail: counts.fail, error: counts.unknown + counts.error, pass: counts.pass })
    : t('frame.notAuditedYet')
  const one = `${latest.title}, ${absoluteTime(latest.takenAt)}${found}`
  return members.length === 1 ? one : t('frame.latestOfSnapshots', { count: members.length, one })
}
/** Height of a stack of marks: one for each started fifteen, four at most. */
const marks = (count: number): number[] => Array.from({ length: Math.min(4, Math.ceil(count / 15)) }, (_, i) => i)
</script>

<template>
  <section class="chronicle" :aria-label="$t('frame.chronicle')">
    <div class="asof">
      <v-menu v-if="engagement.b" max-height="420">
        <template #activator="{ props: menu }">
          <button
            v-bind="menu"
            type="button"
            class="chosen"
            :title="`${engagement.b.title}, ${absoluteTime(engagement.b.takenAt)}`"
          >
            <span class="quiet">{{ $t('frame.selectedSnapshot') }}</span>{{ ' '
            }}<strong>{{ relativeTime(engagement.b.takenAt) }}</strong
            ><span aria-hidden="true"> ▾</span>
          </button>
        </template>
        <v-list density="compact" :aria-label="$t('frame.chooseASnapshot')">
          <v-list-item
            v-for="snapshot in latestFirst"
            :key="snapshot.id"
            :active="snapshot.id === engagement.b.id"
            :title="snapshot.title"
            :subtitle="absoluteTime(snapshot.takenAt)"
            @click="choose(snapshot)"
          />
        </v-list>
      </v-menu>
      <span v-else class="quiet">{{ $t('frame.noSnapshotYet') }}</span>
    </div>
    <div ref="track" class="track" @pointermove="drag">
      <div class="line" />
      <span
        v-for="day in shownDays"
        :key="day.label"
        class="day"
        :class="{ start: day.at < 4 }"
        :style="{ left: `${day.at}%` }"
        >{{ day.label }}</span
      >
      <template v-for="tick in ticks" :key="tick.latest.id">
        <!-- Where a handle stands, it is the target; the tick beneath it is a picture. -->
        <component
          :is="isUnderHandle(tick) ? 'span' : 'button'"
          class="tick"
          :type="isUnderHandle(tick) ? undefined : 'button'"
          :style="{ left: `${tick.at}%` }"
          :aria-label="isUnderHandle(tick) ? undefined : describe(tick)"
          :title="describe(tick)"
          @click="isUnderHandle(tick) || choose(tick.latest)"
        >
          <span v-if="tick.members.length > 1" class="many" aria-hidden="true">{{ tick.members.length }}</span>
          <span v-if="tick.counts" class="stack" aria-hidden="true"
            ><i v-for="i in marks(tick.counts.fail)" :key="i" class="f"
          /></span>
          <span v-if="tick.counts" class="stack second" aria-hidden="true"
            ><i v-for="i in marks(tick.counts.unknown + tick.counts.error)" :key="i" class="u"
          /></span>
        </component>
      </template>
      <div
        v-if="engagement.b"
        class="handle"
        role="slider"
        tabindex="0"
        :aria-label="$t('frame.handleBSelectedSnapshot')"
        :aria-valuemin="1"
        :aria-valuemax="engagement.snapshots.length"
        :aria-valuenow="bIndex + 1"
        :aria-valuetext="`${engagement.b.title}, ${absoluteTime(engagement.b.takenAt)}`"
        :style="{ left: `${bAt}%` }"
        @pointerdown="grip($event, 'b')"
        @keydown="onKey($event, 'b')"
      >
        B
      </div>
      <div
        v-if="engagement.a && engagement.b"
        class="handle a"
        role="slider"
        tabindex="0"
        :aria-label="$t('frame.handleAComparedWith')"
        :aria-valuemin="1"
        :aria-valuemax="engagement.snapshots.length"
        :aria-valuenow="aIndex + 1"
        :aria-valuetext="`${engagement.a.title}, ${absoluteTime(engagement.a.takenAt)}`"
        :title="$t('frame.comparedWith', { title: engagement.a.title, at: absoluteTime(engagement.a.takenAt) })"
        :style="{ left: `${aShown}%` }"
        @pointerdown="grip($event, 'a')"
        @keydown="onKey($event, 'a')"
      >
        A
      </div>
      <span v-if="!endIsTaken" class="today">{{ $t('frame.today') }}</span>
    </div>
    <router-link
      class="whole"
      :to="`/e/${engagement.id}/chronicle`"
      :aria-label="$t('frame.openChronicle')"
      :title="$t('frame.openChronicle')"
      ><v-icon :icon="mdiTimelineClockOutline" size="18"
    /></router-link>
  </section>
</template>

<style scoped>
.chronicle {
  height: 44px;
  flex: none;
  display: flex;
  align-items: stretch;
  border-bottom: var(--hair);
  background: rgb(var(--v-theme-background));
}
.asof {
  width: 168px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 5px;
  padding-left: 14px;
  border-right: var(--hair);
  white-space: nowrap;
}
.chosen {
  font: inherit;
  color: inherit;
  min-height: 24px;
  cursor: pointer;
  text-align: left;
}
.track {
  position: relative;
  flex: 1;
  margin: 0 40px 0 12px;
  touch-action: none;
}
.whole {
  flex: none;
  width: 32px;
  display: flex;
  align-items: center;
  justify-content: center;
  color: rgb(var(--v-theme-quiet));
}
.line {
  position: absolute;
  left: 0;
  right: 0;
  top: 24px;
  border-top: 1.5px solid rgb(var(--v-theme-on-surface));
  opacity: 0.55;
}
.day {
  position: absolute;
  top: 27px;
  font-size: 11px;
  color: rgb(var(--v-theme-quiet));
  transform: translateX(-50%);
  white-space: nowrap;
}
.day.start {
  transform: none;
}
.today {
  position: absolute;
  right: -34px;
  top: 15px;
  font-size: 11px;
  color: rgb(var(--v-theme-quiet));
}
.tick {
  position: absolute;
  top: 2px;
  width: 26px;
  height: 26px;
  margin-left: -13px;
  cursor: pointer;
  display: flex;
  justify-content: center;
  align-items: flex-end;
  gap: 2px;
}
.tick::after {
  content: '';
  position: absolute;
  left: 12.25px;
  top: 16px;
  width: 1.5px;
  height: 12px;
  background: rgb(var(--v-theme-on-surface));
}
.stack {
  display: flex;
  flex-direction: column-reverse;
  gap: 1px;
  margin-bottom: 5px;
  transform: translateX(-5px);
}
.many {
  position: absolute;
  left: 15px;
  top: 14px;
  font-size: 10.5px;
  line-height: 10px;
  color: rgb(var(--v-theme-quiet));
}
.second {
  transform: translateX(5px);
}
.stack i {
  display: block;
  width: 5px;
  height: 4px;
}
.f {
  background: rgb(var(--v-theme-fail));
}
.u {
  border: 1px solid rgb(var(--v-theme-unknown));
  transform: rotate(45deg) scale(0.8);
  width: 4px !important;
}
.handle {
  position: absolute;
  top: 19px;
  width: 24px;
  height: 24px;
  margin-left: -12px;
  background-clip: content-box;
  padding: 6px 1px 1px;
  border: 0;
  background-color: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
  font-size: 11px;
  font-weight: 600;
  text-align: center;
  line-height: 17px;
  cursor: ew-resize;
  z-index: 2;
  transition: left 0.12s;
}
.handle.a {
  background-color: rgb(var(--v-theme-brass));
  color: #20242c;
  z-index: 1;
}
.handle.a::before {
  border-bottom-color: rgb(var(--v-theme-brass));
}
.handle::before {
  content: '';
  position: absolute;
  left: 7px;
  top: 1px;
  border: 5px solid transparent;
  border-top: 0;
  border-bottom-color: rgb(var(--v-theme-primary));
}
</style>

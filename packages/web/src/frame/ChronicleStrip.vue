<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { SnapshotTick } from '@jurybox/api/engagements'
import { computed, ref } from 'vue'
import { absoluteTime, dayOf, relativeTime } from '../shared/time.ts'
import { isWhole, useEngagement } from '../stores/engagement.ts'

/**
 * The chronicle: one time line of the engagement. Ticks are snapshots; above a tick stand what its audit found, below
 * it the day. Handle B is "as of": every page shows the network at B.
 */
const engagement = useEngagement()
const track = ref<HTMLElement | null>(null)

const span = computed(() => {
  const times = engagement.snapshots.map((snapshot) => Date.parse(snapshot.takenAt))
  const now = Date.now()
  const from = Math.min(...times, now - 7 * 86_400_000)
  // A little room before the first tick, and today at the right end.
  return { from: from - (now - from) * 0.12, to: now }
})
const place = (at: string | number): number =>
  ((Number(typeof at === 'string' ? Date.parse(at) : at) - span.value.from) / (span.value.to - span.value.from)) * 100

/** A tick is a target of 24 pixels at least (WCAG 2.5.8); closer ones are moved apart. */
const APART = 2.9
const ticks = computed(() => {
  const places = engagement.snapshots.map((snapshot) => place(snapshot.takenAt))
  for (let i = 1; i < places.length; i++) places[i] = Math.max(places[i] ?? 0, (places[i - 1] ?? 0) + APART)
  for (let i = places.length - 1, limit = 98.5; i >= 0; i--, limit -= APART) places[i] = Math.min(places[i] ?? 0, limit)
  return engagement.snapshots.map((snapshot, i) => ({
    snapshot,
    at: places[i] ?? 0,
    counts: engagement.audits.findLast((tick) => tick.snapshotId === snapshot.id && isWhole(tick))?.counts ?? null,
  }))
})
const months = computed(() => {
  const { from, to } = span.value
  const days = (to - from) / 86_400_000
  const step = days > 200 ? 61 : days > 60 ? 28 : days > 20 ? 7 : 2
  const out: { at: number; label: string }[] = []
  for (let at = Math.ceil(from / 86_400_000) * 86_400_000; at < to - (to - from) * 0.06; at += step * 86_400_000)
    out.push({ at: place(at), label: dayOf(at) })
  return out
})
/** A day's name would be hidden behind the handle. */
const shownMonths = computed(() => months.value.filter((month) => Math.abs(month.at - bAt.value) > 3.2))
const bAt = computed(() => ticks.value.find((tick) => tick.snapshot.id === engagement.b?.id)?.at ?? 0)
const bIndex = computed(() => engagement.snapshots.findIndex((snapshot) => snapshot.id === engagement.b?.id))

function choose(snapshot: SnapshotTick): void {
  engagement.chosenB = snapshot.id
}

function drag(event: PointerEvent): void {
  if (event.buttons === 0 || !track.value || ticks.value.length === 0) return
  const box = track.value.getBoundingClientRect()
  const x = ((event.clientX - box.left) / box.width) * 100
  const nearest = ticks.value.reduce((best, tick) => (Math.abs(tick.at - x) < Math.abs(best.at - x) ? tick : best))
  if (nearest.snapshot.id !== engagement.b?.id) choose(nearest.snapshot)
}
function grip(event: PointerEvent): void {
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
function onKey(event: KeyboardEvent): void {
  if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') {
    event.preventDefault()
    engagement.step(event.key === 'ArrowLeft' ? -1 : 1)
  }
}
const describe = ({ snapshot, counts }: (typeof ticks.value)[number]): string =>
  `${snapshot.title}, ${absoluteTime(snapshot.takenAt)}${counts ? t('frame.failUnknownPass', { fail: counts.fail, error: counts.unknown + counts.error, pass: counts.pass }) : t('frame.notAuditedYet')}`
/** Height of a stack of marks: one for each started fifteen, four at most. */
const marks = (count: number): number[] => Array.from({ length: Math.min(4, Math.ceil(count / 15)) }, (_, i) => i)
</script>

<template>
  <section class="chronicle" :aria-label="$t('frame.chronicle')">
    <div class="asof">
      <template v-if="engagement.b"
        ><span class="quiet">{{ $t('frame.selectedSnapshot') }}</span
        >{{ ' ' }}
        <strong :title="absoluteTime(engagement.b.takenAt)">{{ relativeTime(engagement.b.takenAt) }}</strong></template
      >
      <span v-else class="quiet">{{ $t('frame.noSnapshotYet') }}</span>
    </div>
    <div ref="track" class="track" @pointermove="drag">
      <div class="line" />
      <span
        v-for="month in shownMonths"
        :key="month.label + month.at"
        class="month"
        :class="{ start: month.at < 4 }"
        :style="{ left: `${month.at}%` }"
        >{{ month.label }}</span
      >
      <template v-for="tick in ticks" :key="tick.snapshot.id">
        <!-- Where B stands, the handle is the target; the tick beneath it is a picture. -->
        <component
          :is="tick.snapshot.id === engagement.b?.id ? 'span' : 'button'"
          class="tick"
          :type="tick.snapshot.id === engagement.b?.id ? undefined : 'button'"
          :style="{ left: `${tick.at}%` }"
          :aria-label="tick.snapshot.id === engagement.b?.id ? undefined : describe(tick)"
          :title="describe(tick)"
          @click="choose(tick.snapshot)"
        >
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
        @pointerdown="grip"
        @keydown="onKey"
      >
        B
      </div>
      <span class="today">{{ $t('frame.today') }}</span>
    </div>
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
  width: 150px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 5px;
  padding-left: 14px;
  border-right: var(--hair);
  white-space: nowrap;
}
.track {
  position: relative;
  flex: 1;
  margin: 0 40px 0 12px;
  touch-action: none;
}
.line {
  position: absolute;
  left: 0;
  right: 0;
  top: 24px;
  border-top: 1.5px solid rgb(var(--v-theme-on-surface));
  opacity: 0.55;
}
.month {
  position: absolute;
  top: 27px;
  font-size: 11px;
  color: rgb(var(--v-theme-quiet));
  transform: translateX(-50%);
  white-space: nowrap;
}
.month.start {
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

<script setup lang="ts">
import { mdiChevronDown, mdiChevronUp, mdiClose, mdiContentCopy } from '@mdi/js'
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import AgeText from '../shared/AgeText.vue'
import { useExhibit } from '../stores/exhibit.ts'

/** The record behind a claim: its lines with their numbers, exhibits marked, secrets masked. */
const exhibit = useExhibit()
const ROW = 20
const scroller = ref<HTMLElement | null>(null)
const scrolled = ref(0)
const height = ref(600)
const width = ref(Number(localStorage.getItem('exhibit-width') ?? 40))
const copied = ref('')

const lines = computed(() => exhibit.record?.lines ?? [])
const first = computed(() => Math.max(0, Math.floor(scrolled.value / ROW) - 20))
const drawn = computed(() => lines.value.slice(first.value, first.value + Math.ceil(height.value / ROW) + 40))
const present = computed(() => exhibit.ranges.filter((range) => !range.absent))
const searched = computed(() => exhibit.ranges.filter((range) => range.absent))
const unread = computed(() => new Set(exhibit.record?.unreadLines ?? []))
const current = computed(() => exhibit.ranges[exhibit.at])

/** What a line says to the device model, or that it says nothing. */
function sayingOf(line: number): string | undefined {
  const said = exhibit.sayings.get(exhibit.record?.id ?? 0)?.get(line)
  return said?.join('\n') ?? (unread.value.has(line) ? 'No reader used this line' : undefined)
}
function isPointed(line: number): boolean {
  return exhibit.pointed.some((range) => line >= range.from && line <= range.to)
}

function markOf(line: number): string {
  if (current.value && !current.value.absent && line >= current.value.from && line <= current.value.to) return 'current'
  if (present.value.some((range) => line >= range.from && line <= range.to)) return 'marked'
  if (searched.value.some((range) => line >= range.from && line <= range.to)) return 'searched'
  return ''
}

watch(
  [() => exhibit.record?.id, () => exhibit.ranges, () => exhibit.at],
  async () => {
    await nextTick()
    if (!scroller.value) return
    height.value = scroller.value.clientHeight
    const from = current.value && (!current.value.absent || current.value.from > 1) ? current.value.from : 1
    scroller.value.scrollTop = Math.max(0, (from - 5) * ROW)
  },
  { immediate: true },
)

function step(by: number): void {
  const count = exhibit.ranges.length
  if (count > 0) exhibit.at = (exhibit.at + by + count) % count
}

/** The lines with where they come from, ready for a letter or a working paper. */
async function copy(): Promise<void> {
  const record = exhibit.record
  if (!record) return
  const ranges =
    present.value.length > 0 ? present.value : [{ from: 1, to: Math.min(record.lineCount, 1), absent: false }]
  const parts = ranges.map(
    ({ from, to }) =>
      `${lines.value.slice(from - 1, to).join('\n')}\n[${record.device.name}, ${record.path}, ${from === to ? `line ${from}` : `lines ${from}–${to}`}, ${record.fingerprint}]`,
  )
  try {
    await navigator.clipboard.writeText(parts.join('\n\n'))
    copied.value = 'Copied with reference.'
  } catch {
    copied.value = 'The browser did not allow copying.'
  }
  setTimeout(() => (copied.value = ''), 2500)
}

function resize(event: PointerEvent): void {
  if (event.buttons === 0) return
  setWidth(((window.innerWidth - event.clientX) / window.innerWidth) * 100)
}
function setWidth(percent: number): void {
  width.value = Math.min(65, Math.max(22, percent))
  localStorage.setItem('exhibit-width', String(width.value))
}
function onResizeKey(event: KeyboardEvent): void {
  if (event.key === 'ArrowLeft') setWidth(width.value + 2)
  else if (event.key === 'ArrowRight') setWidth(width.value - 2)
}
const observer = new ResizeObserver(([entry]) => (height.value = entry?.contentRect.height ?? height.value))
watch(scroller, (element, before) => {
  if (before) observer.unobserve(before)
  if (element) observer.observe(element)
})
onBeforeUnmount(() => observer.disconnect())
</script>

<template>
  <aside class="exhibit" aria-label="Lines" :style="{ flexBasis: `${width}%` }">
    <div
      class="edge"
      role="separator"
      tabindex="0"
      aria-orientation="vertical"
      aria-label="Width of the lines"
      :aria-valuenow="Math.round(width)"
      aria-valuemin="22"
      aria-valuemax="65"
      @pointerdown="($event.currentTarget as HTMLElement).setPointerCapture($event.pointerId)"
      @pointermove="resize"
      @keydown="onResizeKey"
    />
    <div class="inside">
      <header>
        <div class="what">
          <template v-if="exhibit.record">
            <strong>{{ exhibit.record.device.name }}</strong> <span class="quiet">{{ exhibit.record.title }}</span>
            <div class="quiet small">
              {{ exhibit.record.path }} · taken
              <AgeText :at="exhibit.record.takenAt" :source="exhibit.record.timeSource" />
            </div>
            <div class="quiet small hash" :title="exhibit.record.fingerprint">
              Fingerprint {{ exhibit.record.fingerprint.replace('hmac-sha256:', '').slice(0, 16) }}…
            </div>
          </template>
          <strong v-else>Lines</strong>
        </div>
        <div class="tools">
          <template v-if="exhibit.ranges.length > 1">
            <span class="quiet small">{{ exhibit.at + 1 }} of {{ exhibit.ranges.length }}</span>
            <v-btn size="x-small" variant="text" :icon="mdiChevronUp" aria-label="Previous exhibit" @click="step(-1)" />
            <v-btn size="x-small" variant="text" :icon="mdiChevronDown" aria-label="Next exhibit" @click="step(1)" />
          </template>
          <v-btn
            v-if="exhibit.record"
            size="x-small"
            variant="text"
            :icon="mdiContentCopy"
            aria-label="Copy with reference"
            title="Copy with reference"
            @click="copy"
          />
          <v-btn
            size="x-small"
            variant="text"
            :icon="mdiClose"
            aria-label="Close the lines (L)"
            title="Close (L)"
            @click="exhibit.toggle()"
          />
        </div>
      </header>
      <p v-if="copied" class="note" role="status">{{ copied }}</p>
      <p v-for="fault in exhibit.record?.faults ?? []" :key="fault.line" class="note">
        Line {{ fault.line }}: {{ fault.reason }}
      </p>
      <p v-if="searched.length > 0 && present.length === 0" class="note">
        Searched without finding the line; the searched range has a dotted edge.
      </p>
      <p v-if="exhibit.problem" class="note" role="alert">{{ exhibit.problem }}</p>
      <div
        v-if="exhibit.record"
        ref="scroller"
        class="scroll"
        tabindex="0"
        role="region"
        aria-label="Lines of the record"
        @scroll="scrolled = ($event.target as HTMLElement).scrollTop"
      >
        <div :style="{ height: `${lines.length * ROW}px` }" class="sizer">
          <div class="window" :style="{ transform: `translateY(${first * ROW}px)` }">
            <div
              v-for="(line, i) in drawn"
              :key="first + i"
              class="line"
              :class="[markOf(first + i + 1), { pointed: isPointed(first + i + 1) }]"
              :data-line="first + i + 1"
              :title="sayingOf(first + i + 1)"
              @pointerenter="exhibit.pointed = [{ from: first + i + 1, to: first + i + 1, absent: false }]"
              @pointerleave="exhibit.pointed = []"
            >
              <span class="n">{{ first + i + 1 }}</span><span class="gutter" aria-hidden="true">{{
                unread.has(first + i + 1) ? '?' : ''
              }}</span
              ><span class="text">{{ line }}</span
              ><span v-if="['marked', 'current'].includes(markOf(first + i + 1))" class="sr"> (exhibit)</span>
            </div>
          </div>
        </div>
      </div>
      <p v-else class="quiet note">Choose a verdict or a record to see its lines here.</p>
    </div>
  </aside>
</template>

<style scoped>
.exhibit {
  flex: 0 0 40%;
  min-width: 280px;
  display: flex;
  border-left: var(--hair);
  background: rgb(var(--v-theme-surface));
  min-height: 0;
}
.edge {
  width: 6px;
  margin-left: -3px;
  cursor: col-resize;
  flex: none;
}
.inside {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
header {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 8px 8px 8px 10px;
  border-bottom: var(--hair);
}
.what {
  min-width: 0;
  overflow-wrap: anywhere;
}
.tools {
  display: flex;
  align-items: center;
  flex: none;
  height: 26px;
}
.tools :deep(.v-icon) {
  font-size: 17px;
}
.tools :deep(.v-btn--icon) {
  width: 26px;
  height: 26px;
}
.small {
  font-size: 12.5px;
}
.note {
  padding: 6px 10px;
  border-bottom: var(--hair);
  font-size: 12.5px;
}
.scroll {
  flex: 1;
  min-height: 120px;
  overflow: auto;
}
.sizer {
  position: relative;
  min-width: 100%;
  width: max-content;
}
.window {
  position: absolute;
  min-width: 100%;
}
.line {
  display: flex;
  height: 20px;
  line-height: 20px;
  font-family: var(--mono);
  font-size: 12.5px;
  white-space: pre;
  border-left: 4px solid transparent;
  padding-right: 12px;
}
.n {
  width: 44px;
  text-align: right;
  color: rgb(var(--v-theme-quiet));
  user-select: none;
  flex: none;
}
.gutter {
  width: 18px;
  text-align: center;
  color: rgb(var(--v-theme-unknown));
  font-weight: 600;
  flex: none;
  user-select: none;
}
.marked,
.current {
  background: rgb(var(--v-theme-brass-fill));
  border-left-color: rgb(var(--v-theme-brass));
}
.marked .n,
.current .n {
  color: rgb(var(--v-theme-on-surface));
}
.current {
  box-shadow:
    inset 0 1px rgb(var(--v-theme-brass)),
    inset 0 -1px rgb(var(--v-theme-brass));
}
.pointed {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.searched {
  border-left: 4px dotted rgb(var(--v-theme-brass));
}
@media (max-width: 900px) {
  .exhibit {
    flex: 0 0 60vh !important;
    border-left: 0;
    border-top: var(--hair);
  }
}
</style>

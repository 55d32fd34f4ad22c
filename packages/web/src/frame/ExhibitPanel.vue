<script setup lang="ts">
import { t } from '../messages/index.ts'
import { mdiChevronDown, mdiChevronUp, mdiClose, mdiContentCopy, mdiMagnify, mdiWrap } from '@mdi/js'
import { grouped } from '@jurybox/core/syntax'
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import AgeText from '../shared/AgeText.vue'
import { usePageKeys } from '../shared/keys.ts'
import { useExhibit } from '../stores/exhibit.ts'
import { MOST_HITS, hitsIn, nextHit, pieces } from './record-search.ts'
import { lineWords } from '../shared/words.ts'

/** The record behind a claim: its lines with their numbers, exhibits marked, secrets masked. */
const exhibit = useExhibit()
const ROW = 20
const scroller = ref<HTMLElement | null>(null)
const scrolled = ref(0)
const height = ref(600)
const width = ref(Number(localStorage.getItem('exhibit-width') ?? 40))
const copied = ref('')

const lines = computed(() => exhibit.record?.lines ?? [])
const first = computed(() => (isWrapped.value ? 0 : Math.max(0, Math.floor(scrolled.value / ROW) - 20)))
/** Wrapped lines have no height of their own to reckon with: all are drawn, so not of a long record. */
const MOST_WRAPPED = 5000
const wraps = ref(localStorage.getItem('exhibit-wraps') === 'yes')
const isWrapped = computed(() => wraps.value && lines.value.length <= MOST_WRAPPED)
function wrap(): void {
  wraps.value = !wraps.value
  localStorage.setItem('exhibit-wraps', wraps.value ? 'yes' : 'no')
}
const drawn = computed(() =>
  isWrapped.value ? lines.value : lines.value.slice(first.value, first.value + Math.ceil(height.value / ROW) + 40),
)

/* Search, and going to a line */
const isSearching = ref(false)
const sought = ref('')
const hitAt = ref(0)
const field = ref<HTMLInputElement | null>(null)
const hits = computed(() => (isSearching.value ? hitsIn(lines.value, sought.value) : []))
const hitsByLine = computed(() => grouped(hits.value, ({ line }) => String(line)))
/** `:120` and `120` alone lead to a line; everything else is searched. */
const lineAsked = computed(() => {
  const found = /^:?(\d{1,7})$/.exec(sought.value.trim())
  const line = Number(found?.[1] ?? 0)
  return line >= 1 && line <= lines.value.length ? line : null
})
async function search(): Promise<void> {
  isSearching.value = !isSearching.value
  await nextTick()
  field.value?.focus()
  field.value?.select()
}
function goTo(line: number): void {
  if (!scroller.value) return
  const drawnLine = isWrapped.value ? scroller.value.querySelector<HTMLElement>(`[data-line="${line}"]`) : null
  scroller.value.scrollTop = drawnLine ? drawnLine.offsetTop - 60 : Math.max(0, (line - 4) * ROW)
}
function onSearchKey(event: KeyboardEvent): void {
  if (event.key === 'Escape') {
    event.stopPropagation()
    isSearching.value = false
    scroller.value?.focus()
  }
  if (event.key !== 'Enter') return
  event.preventDefault()
  if (sought.value.trim().startsWith(':') && lineAsked.value !== null) return goTo(lineAsked.value)
  stepHit(event.shiftKey ? -1 : 1)
}
function stepHit(by: 1 | -1): void {
  hitAt.value = nextHit(hits.value, hitAt.value, by)
  const hit = hits.value[hitAt.value]
  if (hit) goTo(hit.line)
  else if (lineAsked.value !== null) goTo(lineAsked.value)
}
watch(sought, () => {
  hitAt.value = 0
  const [hit] = hits.value
  if (hit) goTo(hit.line)
})
const isHit = (line: number, from: number): boolean => {
  const hit = hits.value[hitAt.value]
  return hit !== undefined && hit.line === line && hit.from === from
}
/** The pieces of a line, with where each begins. */
function piecesOf(line: string, number: number): { text: string; hit: boolean; from: number }[] {
  let from = 0
  return pieces(line, hitsByLine.value.get(String(number)) ?? []).map((part) => {
    const placed = { ...part, from }
    from += part.text.length
    return placed
  })
}
usePageKeys([
  {
    key: '/',
    does: t('frame.searchInTheRecord'),
    run: () => void (isSearching.value ? field.value?.focus() : search()),
  },
])
const present = computed(() => exhibit.ranges.filter((range) => !range.absent))
const searched = computed(() => exhibit.ranges.filter((range) => range.absent))
const unread = computed(() => new Set(exhibit.record?.unreadLines ?? []))
const current = computed(() => exhibit.ranges[exhibit.at])

/** What a line says to the device model, or that it says nothing. */
function sayingOf(line: number): string | undefined {
  const said = exhibit.sayings.get(exhibit.record?.id ?? 0)?.get(line)
  return said?.join('\n') ?? (unread.value.has(line) ? t('frame.unparsedLine') : undefined)
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
    goTo(Math.max(1, from - 1))
  },
  { immediate: true },
)

function step(by: number): void {
  const count = exhibit.ranges.length
  if (count > 0) exhibit.at = (exhibit.at + by + count) % count
}

/** The lines that are selected with the pointer; null where none are. */
function selectedLines(): { from: number; to: number; absent: boolean } | null {
  const selection = document.getSelection()
  const lineOf = (node: Node | null): number =>
    Number((node instanceof Element ? node : node?.parentElement)?.closest<HTMLElement>('.line')?.dataset['line'] ?? 0)
  if (!selection || selection.isCollapsed || !scroller.value?.contains(selection.anchorNode)) return null
  const ends = [lineOf(selection.anchorNode), lineOf(selection.focusNode)].filter((line) => line > 0)
  return ends.length === 0 ? null : { from: Math.min(...ends), to: Math.max(...ends), absent: false }
}

/** The lines with where they come from, ready for a letter or a working paper. */
async function copy(): Promise<void> {
  const record = exhibit.record
  if (!record) return
  const selected = selectedLines()
  const ranges = selected
    ? [selected]
    : present.value.length > 0
      ? present.value
      : [{ from: 1, to: Math.min(record.lineCount, 1), absent: false }]
  const parts = ranges.map(
    ({ from, to }) =>
      `${lines.value.slice(from - 1, to).join('\n')}\n` +
      `[${record.device.name}, ${record.path}, ${lineWords(from, to)}, ${record.fingerprint}]`,
  )
  try {
    await navigator.clipboard.writeText(parts.join('\n\n'))
    copied.value = t('frame.copiedWithReference')
  } catch {
    copied.value = t('frame.theBrowserDidNotAllow')
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
  <aside class="exhibit" :aria-label="$t('common.evidence')" :style="{ flexBasis: `${width}%` }">
    <div
      class="edge"
      role="separator"
      tabindex="0"
      aria-orientation="vertical"
      :aria-label="$t('frame.widthOfTheEvidencePanel')"
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
              {{ $t('frame.captured', { path: exhibit.record.path }) }}
              <AgeText :at="exhibit.record.takenAt" :source="exhibit.record.timeSource" />
            </div>
            <div class="quiet small hash" :title="exhibit.record.fingerprint">
              {{
                $t('frame.fingerprint', {
                  fingerprint: exhibit.record.fingerprint.replace('hmac-sha256:', '').slice(0, 16),
                })
              }}
            </div>
          </template>
          <strong v-else>{{ $t('common.evidence') }}</strong>
        </div>
        <div class="tools">
          <template v-if="exhibit.ranges.length > 1">
            <span class="quiet small">{{ $t('frame.of', { at: exhibit.at + 1, ranges: exhibit.ranges.length }) }}</span>
            <v-btn
              size="x-small"
              variant="text"
              :icon="mdiChevronUp"
              :aria-label="$t('frame.previousEvidence')"
              @click="step(-1)"
            />
            <v-btn
              size="x-small"
              variant="text"
              :icon="mdiChevronDown"
              :aria-label="$t('frame.nextEvidence')"
              @click="step(1)"
            />
          </template>
          <v-btn
            v-if="exhibit.record"
            size="x-small"
            variant="text"
            :icon="mdiMagnify"
            :aria-label="$t('frame.searchInTheRecord')"
            :title="$t('frame.searchKey')"
            :aria-pressed="isSearching"
            @click="search"
          />
          <v-btn
            v-if="exhibit.record"
            size="x-small"
            variant="text"
            :icon="mdiWrap"
            :aria-label="$t('frame.wrapLongLines')"
            :title="
              lines.length > MOST_WRAPPED ? $t('frame.tooLongToWrap', { n: MOST_WRAPPED }) : $t('frame.wrapLongLines')
            "
            :disabled="lines.length > MOST_WRAPPED"
            :aria-pressed="isWrapped"
            @click="wrap"
          />
          <v-btn
            v-if="exhibit.record"
            size="x-small"
            variant="text"
            :icon="mdiContentCopy"
            :aria-label="$t('frame.copyWithReference')"
            :title="$t('frame.copyWithReference')"
            @click="copy"
          />
          <v-btn
            size="x-small"
            variant="text"
            :icon="mdiClose"
            :aria-label="$t('frame.closeEvidenceL')"
            :title="$t('frame.closeL')"
            @click="exhibit.toggle()"
          />
        </div>
      </header>
      <div v-if="isSearching && exhibit.record" class="search" role="search">
        <input
          ref="field"
          v-model="sought"
          type="search"
          :placeholder="$t('frame.searchOrLine')"
          :aria-label="$t('frame.searchInTheRecord')"
          @keydown="onSearchKey"
        />
        <span class="quiet small" role="status">{{
          sought === ''
            ? ''
            : $t('frame.hit', {
                at: hits.length === 0 ? 0 : hitAt + 1,
                of: hits.length === MOST_HITS ? `${MOST_HITS}+` : hits.length,
              })
        }}</span>
        <v-btn
          size="x-small"
          variant="text"
          :icon="mdiChevronUp"
          :aria-label="$t('frame.previousHit')"
          @click="stepHit(-1)"
        />
        <v-btn
          size="x-small"
          variant="text"
          :icon="mdiChevronDown"
          :aria-label="$t('frame.nextHit')"
          @click="stepHit(1)"
        />
      </div>
      <p v-if="copied" class="note" role="status">{{ copied }}</p>
      <p v-for="fault in exhibit.record?.faults ?? []" :key="fault.line" class="note">
        {{ $t('frame.line', { line: fault.line, reason: fault.reason }) }}
      </p>
      <p v-if="searched.length > 0 && present.length === 0" class="note">
        {{ $t('frame.theLineIsMissingThe') }}
      </p>
      <p v-if="exhibit.problem" class="note" role="alert">{{ exhibit.problem }}</p>
      <div
        v-if="exhibit.record"
        ref="scroller"
        class="scroll"
        tabindex="0"
        role="region"
        :aria-label="$t('frame.linesOfTheRecord')"
        @scroll="scrolled = ($event.target as HTMLElement).scrollTop"
      >
        <div
          :style="isWrapped ? {} : { height: `${lines.length * ROW}px` }"
          class="sizer"
          :class="{ wrapped: isWrapped }"
        >
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
              ><span class="text"
                ><template v-for="part in piecesOf(line, first + i + 1)" :key="part.from"
                  ><mark v-if="part.hit" :class="{ here: isHit(first + i + 1, part.from) }">{{ part.text }}</mark
                  ><template v-else>{{ part.text }}</template></template
                ></span
              ><span v-if="['marked', 'current'].includes(markOf(first + i + 1))" class="sr"
                >{{ ' ' }}{{ $t('frame.evidence') }}</span
              >
            </div>
          </div>
        </div>
      </div>
      <p v-else class="quiet note">{{ $t('frame.selectAVerdictOrA') }}</p>
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
.search {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 4px 8px 4px 10px;
  border-bottom: var(--hair);
}
.search input {
  flex: 1;
  min-width: 60px;
  font: inherit;
  font-size: 13px;
  min-height: 26px;
  padding: 2px 8px;
  color: inherit;
  background: transparent;
  border: 1px solid rgb(var(--v-theme-quiet));
  border-radius: 3px;
}
mark {
  background: rgb(var(--v-theme-brass-fill));
  color: inherit;
  outline: 1px solid rgb(var(--v-theme-brass));
}
mark.here {
  outline-width: 2px;
  font-weight: 600;
}
.sizer.wrapped {
  width: auto;
}
.wrapped .window {
  position: static;
}
.wrapped .line {
  height: auto;
  min-height: 20px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
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

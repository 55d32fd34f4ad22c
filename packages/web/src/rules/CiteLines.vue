<script setup lang="ts">
import { t } from '../messages/index.ts'
import { getDevice, getRecord } from '@jurybox/api/devices'
import { citeLines, citePasted } from '@jurybox/api/rules'
import type { Condition } from '@jurybox/core/rules'
import {
  conditionFrom,
  patternOf,
  ruleFrom,
  ruleOf,
  type CitedLine,
  type CitedWord,
  type Mode,
} from '@jurybox/core/authoring'
import { conditionInWords } from '@jurybox/core/rules'
import { computed, nextTick, ref, watch } from 'vue'
import { wordsOf, call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useDialects } from '../stores/dialects.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useRuleBench } from '../stores/rule-bench.ts'
import WordChip from './WordChip.vue'

/**
 * Lines of any record become a condition: choose them, say what shall be so, and turn words into what may stand there.
 */
const emit = defineEmits<{ made: [] }>()
const bench = useRuleBench()
const engagement = useEngagement()
const ROW = 20
const MODES: { value: Mode; title: string }[] = [
  { value: 'has', title: t('rules.mustBePresent') },
  { value: 'hasNot', title: t('rules.mustNotBePresent') },
  { value: 'exactly', title: t('rules.exactlyThese') },
  { value: 'order', title: t('rules.inThisOrder') },
]

const dialects = useDialects()
void dialects.load().then(() => {
  const first =
    bench.devices.find((one) => one.dialect === dialects.byDefault) ??
    bench.devices.find((one) => dialects.isCited(one.dialect)) ??
    bench.devices[0]
  device.value ??= first?.id ?? null
})
/** Of the devices one whose dialect rules speak unless they say otherwise, else one whose lines can be cited. */
const device = ref<number | null>(null)
const recordId = ref<number | null>(null)
const find = ref('')
const problem = ref('')
const chosen = ref(new Set<number>())
const at = ref(0)
const mode = ref<Mode>('has')
const title = ref('')
const dialect = ref(dialects.byDefault)
const cited = ref<readonly CitedLine[]>([])
const left = ref<readonly { line: number; reason: string }[]>([])
/**
 * Uses that were chosen, by the words of the line or block and the place in it: they outlive a choice of more lines.
 */
const uses = ref<Record<string, Pick<CitedWord, 'use' | 'name'>>>({})

async function told<T>(work: () => Promise<T>): Promise<T | null> {
  try {
    problem.value = ''
    return await work()
  } catch (error) {
    problem.value = wordsOf(error)
    return null
  }
}
const { data: view, problem: unlisted } = useQuery(getDevice, () =>
  device.value === null ? null : { params: { device: device.value }, query: { snapshot: engagement.b?.id } },
)
const records = computed(() => (view.value?.records ?? []).filter(({ kind }) => kind.startsWith('config')))
watch(records, ([first]) => (recordId.value = first?.id ?? null))
const { data: record, problem: unread } = useQuery(
  getRecord,
  () => (recordId.value === null ? null : { params: { record: recordId.value } }),
  { afresh: true },
)
watch(recordId, () => {
  chosen.value = new Set()
  at.value = 0
})
const rows = computed(() =>
  (record.value?.lines ?? [])
    .map((text, i) => ({ line: i + 1, text }))
    .filter(({ text }) => find.value === '' || text.toLowerCase().includes(find.value.toLowerCase())),
)

const scroller = ref<HTMLElement | null>(null)
const scrolled = ref(0)
const first = computed(() => Math.max(0, Math.floor(scrolled.value / ROW) - 10))
const drawn = computed(() => rows.value.slice(first.value, first.value + 45))
function toggle(index: number, extend: boolean): void {
  const line = rows.value[index]?.line
  if (line === undefined) return
  const next = new Set(chosen.value)
  if (extend)
    for (let i = Math.min(at.value, index); i <= Math.max(at.value, index); i++) next.add(rows.value[i]?.line ?? line)
  else if (!next.delete(line)) next.add(line)
  at.value = index
  chosen.value = next
}
async function onKey(event: KeyboardEvent): Promise<void> {
  const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15, Home: -1e9, End: 1e9 }[event.key]
  if (event.key === ' ') toggle(at.value, false)
  else if (step !== undefined) {
    const next = Math.min(Math.max(at.value + step, 0), rows.value.length - 1)
    if (event.shiftKey) toggle(next, true)
    at.value = next
    await nextTick()
    const top = next * ROW
    if (
      scroller.value &&
      (top < scroller.value.scrollTop || top + ROW > scroller.value.scrollTop + scroller.value.clientHeight)
    )
      scroller.value.scrollTop = top - ROW * 4
  } else return
  event.preventDefault()
}

let turn = 0
watch(chosen, async (lines) => {
  const now = ++turn
  const id = recordId.value
  if (lines.size === 0 || id === null) {
    cited.value = []
    left.value = []
    return
  }
  const answer = await told(() => call(citeLines, { body: { recordId: id, lines: [...lines] } }))
  if (now !== turn || !answer) return
  dialect.value = answer.dialect
  cited.value = answer.lines
  left.value = answer.left
})
const keyOf = (words: readonly CitedWord[], i: number): string => `${words.map(({ text }) => text).join(' ')} ${i}`
const used = (words: readonly CitedWord[]): CitedWord[] =>
  words.map((word, i) => ({ ...word, ...uses.value[keyOf(words, i)] }))
const lines = computed(() =>
  cited.value.map((line): CitedLine => ({ ...line, words: used(line.words), blocks: line.blocks.map(used) })),
)
/** Lines by the block around them. */
const groups = computed(() => {
  const found = new Map<string, { blocks: CitedLine['blocks']; lines: CitedLine[] }>()
  cited.value.forEach((line) => {
    const key = JSON.stringify(line.blocks)
    const group = found.get(key)
    if (group) group.lines.push(line)
    else found.set(key, { blocks: line.blocks, lines: [line] })
  })
  return [...found.values()]
})
const setUse = (words: readonly CitedWord[], i: number, use: Pick<CitedWord, 'use' | 'name'>): void =>
  void (uses.value = { ...uses.value, [keyOf(words, i)]: use })

const condition = computed<{ is: Condition | null; why: string }>(() => {
  try {
    return {
      is:
        lines.value.length === 0
          ? null
          : conditionFrom({ dialect: dialect.value, mode: mode.value, lines: lines.value }, true),
      why: '',
    }
  } catch (error) {
    return { is: null, why: wordsOf(error) }
  }
})
const suggested = computed(() => {
  const [line, ...more] = lines.value
  if (line && more.length > 0 && mode.value !== 'exactly')
    return t('rules.andMore', {
      negated: patternOf(line.words, line.negated),
      more: more.length,
      mode:
        mode.value === 'hasNot'
          ? t('rules.areNotPresent')
          : mode.value === 'has'
            ? t('rules.arePresent')
            : t('rules.inOrder'),
    })
  if (!line) return ''
  const stands = {
    has: t('rules.isPresent'),
    hasNot: t('rules.isNotPresent'),
    exactly: t('rules.andOthers'),
    order: t('rules.andOthers'),
  } as const
  return patternOf(line.words, line.negated) + stands[mode.value]
})
function make(): void {
  bench.add(
    ruleFrom({ dialect: dialect.value, mode: mode.value, lines: lines.value }, title.value.trim() || suggested.value),
  )
  done()
}
/** The condition is asked for besides what the first case asks already. */
function join(one: Condition | null): void {
  const decide = bench.rule?.['decide']
  const when: unknown = Array.isArray(decide) ? (decide[0] as { when?: unknown } | undefined)?.when : undefined
  if (!one || when === undefined) return
  bench.change(
    ['decide', 0, 'when'],
    typeof when === 'object' && when !== null && 'all' in when && Array.isArray(when.all)
      ? { all: [...(when.all as unknown[]), one] }
      : { all: [when, one] },
  )
  done()
}
function done(): void {
  chosen.value = new Set()
  title.value = ''
  pasted.value = ''
  emit('made')
}

const pasted = ref('')
const pastedAs = ref<'block' | 'prefixes'>('block')
async function paste(into: 'new' | 'hand'): Promise<void> {
  const id = recordId.value
  const like = pastedAs.value === 'prefixes' && id !== null ? { recordId: id, line: [...chosen.value][0] ?? 0 } : null
  if (pastedAs.value === 'prefixes' && !like?.line) {
    problem.value = t('rules.selectOneLineAboveAs')
    return
  }
  const answer = await told(() => call(citePasted, { body: { text: pasted.value, dialect: dialect.value, like } }))
  if (!answer) return
  if (into === 'hand') join(answer.condition)
  else {
    bench.add(
      ruleOf(
        answer.condition,
        dialect.value,
        title.value.trim() || (like ? t('rules.exactlyThesePrefixes') : t('rules.pastedLinesArePresent')),
      ),
    )
    done()
  }
}
</script>

<template>
  <div class="cite">
    <div class="two">
      <v-autocomplete
        v-model="device"
        :items="bench.devices.map(({ id, name }) => ({ value: id, title: name }))"
        :label="$t('common.device')"
      />
      <v-select
        v-model="recordId"
        :items="records.map(({ id, title: of }) => ({ value: id, title: of }))"
        :label="$t('common.record')"
      />
    </div>
    <v-text-field v-model="find" :label="$t('rules.filterLines')" clearable @click:clear="find = ''" />
    <div
      ref="scroller"
      class="lines panel mono"
      role="listbox"
      aria-multiselectable="true"
      :aria-label="$t('rules.linesOfTheRecord')"
      tabindex="0"
      :aria-activedescendant="drawn.some(({ line }) => line === rows[at]?.line) ? `cite-${rows[at]?.line}` : undefined"
      @keydown="onKey"
      @scroll="scrolled = ($event.target as HTMLElement).scrollTop"
    >
      <div :style="{ height: `${rows.length * ROW}px`, paddingTop: `${first * ROW}px` }">
        <div
          v-for="({ line, text }, i) in drawn"
          :id="`cite-${line}`"
          :key="line"
          role="option"
          class="line"
          :class="{ at: first + i === at }"
          :aria-selected="chosen.has(line)"
          @click="toggle(first + i, $event.shiftKey)"
        >
          <span class="no">{{ line }}</span>{{ text }}
        </div>
      </div>
    </div>
    <ProblemNote :text="problem || unlisted || unread" />
    <p v-if="chosen.size === 0" class="quiet">{{ $t('rules.selectLinesByClickOr') }}</p>
    <template v-else>
      <div v-for="(group, g) in groups" :key="g" class="group">
        <div
          v-for="(words, depth) in group.blocks"
          :key="depth"
          class="chips"
          :style="{ paddingLeft: `${depth * 14}px` }"
        >
          <span class="quiet">{{ $t('rules.in') }}</span><WordChip
            v-for="(word, i) in used(words)"
            :key="i"
            :word="word"
            @use="setUse(words, i, $event)"
          />
        </div>
        <div
          v-for="line in group.lines"
          :key="line.line"
          class="chips"
          :style="{ paddingLeft: `${group.blocks.length * 14}px` }"
        >
          <span class="quiet">{{ line.line }}</span><span v-if="line.negated" class="mono">{{ $t('rules.no') }}</span
          ><WordChip v-for="(word, i) in used(line.words)" :key="i" :word="word" @use="setUse(line.words, i, $event)" />
        </div>
      </div>
      <p v-for="one in left" :key="one.line" class="quiet">
        {{ $t('rules.line', { line: one.line, reason: one.reason }) }}
      </p>
      <v-btn-toggle
        v-model="mode"
        mandatory
        density="compact"
        variant="outlined"
        color="primary"
        :aria-label="$t('rules.condition')"
        ><v-btn v-for="one in MODES" :key="one.value" :value="one.value" size="small">{{
          one.title
        }}</v-btn></v-btn-toggle
      >
      <p v-if="condition.is" class="said">{{ $t('rules.passIf', { is: conditionInWords(condition.is) }) }}</p>
      <p v-else-if="condition.why" role="alert" class="why">{{ condition.why }}.</p>
    </template>
    <v-text-field v-model="title" :label="$t('rules.ruleTitle')" :placeholder="suggested" persistent-placeholder />
    <div class="acts">
      <v-btn variant="flat" :disabled="!condition.is" @click="make">{{ $t('rules.addRule') }}</v-btn><v-btn
        :disabled="!condition.is || !bench.rule"
        @click="join(condition.is)"
        >{{ $t('rules.addToTheCurrentRule') }}</v-btn
      >
    </div>
    <details>
      <summary>{{ $t('rules.pasteABlockAccessList') }}</summary>
      <div class="paste">
        <v-textarea v-model="pasted" :label="$t('rules.pastedText')" rows="4" spellcheck="false" class="code" />
        <v-radio-group v-model="pastedAs" inline :label="$t('common.type')"
          ><v-radio value="block" :label="$t('rules.blockOrAccessList')" /><v-radio
            value="prefixes"
            :label="$t('rules.prefixesInTheFormOf')"
        /></v-radio-group>
        <div class="acts">
          <v-btn :disabled="pasted.trim() === ''" @click="paste('new')">{{
            $t('rules.addRuleFromPastedText')
          }}</v-btn><v-btn :disabled="pasted.trim() === '' || !bench.rule" @click="paste('hand')">{{
            $t('rules.addToTheCurrentRule')
          }}</v-btn>
        </div>
      </div>
    </details>
  </div>
</template>

<style scoped>
.cite {
  display: grid;
  gap: 8px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.lines {
  height: 264px;
  overflow: auto;
}
.line {
  height: 20px;
  line-height: 20px;
  white-space: pre;
  cursor: pointer;
  padding-right: 10px;
}
.line:hover {
  background: rgba(var(--v-theme-brass), 0.1);
}
.line[aria-selected='true'] {
  background: rgb(var(--v-theme-brass-fill));
}
.lines:focus-visible .at {
  outline: 1px dotted rgb(var(--v-theme-primary));
  outline-offset: -1px;
}
.no {
  display: inline-block;
  width: 46px;
  padding-right: 10px;
  text-align: right;
  color: rgb(var(--v-theme-quiet));
}
.group {
  display: grid;
  gap: 4px;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
}
.said {
  font-family: var(--serif);
  overflow-wrap: anywhere;
}
.why {
  color: rgb(var(--v-theme-fail));
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
summary {
  cursor: pointer;
  color: rgb(var(--v-theme-primary));
  min-height: 24px;
}
.paste {
  display: grid;
  gap: 8px;
  padding-top: 8px;
}
.code :deep(textarea) {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>

<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { Condition } from '@jurybox/core/rules'
import { conditionInWords } from '@jurybox/core/rules'
import { computed } from 'vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useDialects } from '../stores/dialects.ts'
import { useRuleBench } from '../stores/rule-bench.ts'

/** The rule in hand as a person would say it. Each sentence leads to the fields that make it. */
const bench = useRuleBench()
const emit = defineEmits<{ form: [] }>()
type Loose = Record<string, unknown>
const rule = computed<Loose>(() => bench.rule ?? {})
const bodies = computed(() => [
  rule.value,
  ...(Array.isArray(rule.value['also']) ? (rule.value['also'] as Loose[]) : []),
])
const dialects = useDialects()
void dialects.load()
const dialectsOf = (body: Loose): string =>
  [body['dialects'] ?? dialects.byDefault]
    .flat()
    .map((id) => dialects.nameOf(String(id)))
    .join(', ')
const branchesOf = (body: Loose): Loose[] => (Array.isArray(body['decide']) ? (body['decide'] as Loose[]) : [])
function subjectOf(body: Loose): string {
  const each = body['each'] as Loose | undefined
  if (!each) return t('rules.theDevice')
  const of = (value: unknown): string =>
    [value]
      .flat()
      .map((one) => `‹${String(one)}›`)
      .join(' or ')
  if ('block' in each) return t('rules.eachBlockOf', { each: of(each['block']) })
  return 'lines' in each
    ? t('rules.theLinesBy', { each: of(each['lines']), each2: String(each['by']) })
    : t('rules.eachIn', { each: String(each['as']), each2: String(each['model']) })
}
function remedyOf(body: Loose): string[] {
  const remedy = body['remedy'] as Loose | undefined
  if (!remedy) return []
  if ('words' in remedy)
    return [remedy['words'], ...Object.values((remedy['byDialect'] as Loose | undefined) ?? {})].map(String)
  const said =
    (key: string, word: string) =>
    (edit: Loose): string[] =>
      Array.isArray(edit[key])
        ? [`${word} ${(edit[key] as unknown[]).map((line) => `‹${String(line)}›`).join(', ')}`]
        : []
  return (Array.isArray(remedy['edits']) ? (remedy['edits'] as Loose[]) : []).flatMap((edit) => [
    ...said('remove', t('rules.remove'))(edit),
    ...said('add', t('rules.addLine'))(edit),
  ])
}
/** Half a condition has no words yet. */
function wordsOf(condition: unknown): string {
  return condition === undefined || condition === null ? '…' : conditionInWords(condition as Condition)
}
</script>

<template>
  <div class="words">
    <h3>
      {{ rule['title'] }} <SeverityNotches v-if="typeof rule['severity'] === 'string'" :severity="rule['severity']" />
    </h3>
    <p>{{ rule['statement'] }}</p>
    <section v-for="(body, b) in bodies" :key="b" class="panel body">
      <p>
        {{ $t('rules.onDevicesOfDialect') }} <b>{{ dialectsOf(body) }}</b><template v-if="b === 0 && rule['scope']"
          >{{ ' ' }}{{ $t('rules.thatMatch') }} <code>{{ rule['scope'] }}</code></template
        >, <b>{{ subjectOf(body) }}</b> {{ $t('rules.isJudged') }}
      </p>
      <p v-if="body['nothing']">
        {{ $t('rules.ifThereIsNoneThen') }} <VerdictMark :outcome="String((body['nothing'] as Loose)['outcome'])" />,
        “{{ (body['nothing'] as Loose)['note'] }}”
      </p>
      <ol>
        <li v-for="(branch, i) in branchesOf(body)" :key="i">
          <template v-if="branch['when'] !== undefined">{{
            $t('rules.ifBranch', { branch: wordsOf(branch['when']) })
          }}</template><template v-else>{{ $t('rules.otherwiseThen') }}</template>
          <VerdictMark :outcome="String(branch['outcome'])" class="outcome" />, “{{ branch['note'] }}”
        </li>
      </ol>
      <p v-if="remedyOf(body).length > 0">{{ $t('rules.remediationText', { body: remedyOf(body).join('; ') }) }}</p>
    </section>
    <v-btn size="small" @click="emit('form')">{{ $t('rules.editInTheForm') }}</v-btn>
  </div>
</template>

<style scoped>
.words {
  display: grid;
  gap: 10px;
  justify-items: start;
}
.body {
  padding: 10px 14px;
  display: grid;
  gap: 6px;
  width: 100%;
}
.body ol {
  margin: 0;
  padding-left: 20px;
  display: grid;
  gap: 6px;
  overflow-wrap: anywhere;
}
.words :deep(.mark) {
  vertical-align: -2px;
}
.outcome {
  margin-left: 6px;
}
.words h3 {
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>

<script setup lang="ts">
import { t } from '../messages/index.ts'
import { mdiArrowDown, mdiArrowUp, mdiClose, mdiPlus } from '@mdi/js'
import { computed } from 'vue'
import { OUTCOMES, OUTCOME_TITLES } from '../shared/outcomes.ts'
import ScopeForm from '../shared/ScopeForm.vue'
import MemberNote from '../shared/MemberNote.vue'
import { useDialects } from '../stores/dialects.ts'
import { useRuleBench } from '../stores/rule-bench.ts'
import ConditionForm from './ConditionForm.vue'
import LazyField from './LazyField.vue'

/** The rule in hand as fields. Every change is a change of the text. */
const bench = useRuleBench()
type Loose = Record<string, unknown>
const dialects = useDialects()
void dialects.load()
const dialectChoices = computed(() => dialects.all.map(({ id }) => ({ value: id, title: dialects.nameOf(id) })))
const outcomes = OUTCOMES.map((value) => ({ value, title: OUTCOME_TITLES[value] ?? value }))
const rule = computed<Loose>(() => bench.rule ?? {})
/** Who is in, by what the rule answered: the branches are those of its scope. */
const tried = computed(() => {
  const devices = bench.trial?.rules.find(({ id }) => id === bench.ruleId)?.devices
  if (!devices) return null
  const names = (of: (branch: string) => boolean): string[] =>
    devices.filter(({ branch }) => of(branch)).map(({ device }) => device)
  return {
    inside: names((branch) => branch !== 'out-of-scope' && branch !== 'scope'),
    undecided: names((branch) => branch === 'scope'),
    of: devices.length,
  }
})
const profiles = computed(() =>
  (Array.isArray(bench.parsed.data?.['profiles']) ? (bench.parsed.data['profiles'] as Loose[]) : []).map(
    ({ id, title }) => ({ value: String(id), title: String(title) }),
  ),
)
const listOf = (value: unknown): Loose[] => (Array.isArray(value) ? (value as Loose[]) : [])
const branches = computed(() => listOf(rule.value['decide']))
const branchChoices = computed(() => [
  { value: '', title: t('rules.anyBranch') },
  ...branches.value.map(({ id }) => ({ value: String(id), title: String(id) })),
])
const examples = computed(() => listOf(rule.value['examples']))
const each = computed(() => (rule.value['each'] ?? null) as Loose | null)
const eachKind = computed(() =>
  each.value === null ? 'device' : 'block' in each.value ? 'block' : 'lines' in each.value ? 'lines' : 'model',
)
const SUBJECTS = [
  { value: 'device', title: t('rules.theDevice') },
  { value: 'block', title: t('rules.eachBlock') },
  { value: 'lines', title: t('rules.eachGroupOfLines') },
  { value: 'model', title: t('rules.eachEntryOfTheDevice') },
]
const STARTS: Readonly<Record<string, Loose>> = {
  block: { block: 'interface <name>' },
  lines: { lines: 'username <user> ...', by: 'user' },
  model: { model: 'system.users', as: 'user', name: 'user.name' },
}
function turnEach(kind: string): void {
  bench.change(['each'], STARTS[kind])
  bench.change(
    ['nothing'],
    kind === 'device'
      ? undefined
      : (rule.value['nothing'] ?? { outcome: 'notapplicable', note: t('rules.nonePresent') }),
  )
}
const optional = (text: string): string | undefined => (text.trim() === '' ? undefined : text)
const lines = (text: string): string[] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
const oneOrMore = (text: string): string | string[] => (lines(text).length === 1 ? (lines(text)[0] ?? '') : lines(text))

function addBranch(): void {
  bench.change(
    ['decide'],
    [
      ...branches.value.slice(0, -1),
      { id: `case-${branches.value.length}`, when: 'ip domain name *', outcome: 'pass', note: t('rules.asRequired') },
      ...branches.value.slice(-1),
    ],
  )
}
function move(at: number, by: number): void {
  const moved = [...branches.value]
  const [one] = moved.splice(at, 1)
  if (one) moved.splice(at + by, 0, one)
  bench.change(['decide'], moved)
}
const remedy = computed(() => (rule.value['remedy'] ?? null) as Loose | null)
const remedyKind = computed(() => (remedy.value === null ? 'none' : 'words' in remedy.value ? 'words' : 'edits'))
const REMEDIES = [
  { value: 'none', title: t('common.none') },
  { value: 'edits', title: t('rules.lines') },
  { value: 'words', title: t('rules.wordsOnlyNoSafeCommand') },
]
const edit = computed(() => listOf(remedy.value?.['edits'])[0] ?? {})
function turnRemedy(kind: string): void {
  bench.change(
    ['remedy'],
    kind === 'none'
      ? undefined
      : kind === 'words'
        ? { words: t('rules.whatToDoAndWho') }
        : { edits: [{ add: ['ip domain name example.net'] }] },
  )
}
function setEdit(key: 'add' | 'remove', text: string): void {
  bench.change(['remedy', 'edits', 0, key], lines(text).length === 0 ? undefined : lines(text))
}
const wrongOf = (name: unknown): string =>
  bench.trial?.examples.find((one) => one.rule === bench.ruleId && one.name === name)?.wrong.join('; ') ?? ''
const addExample = (): void =>
  bench.change(
    ['examples'],
    [...examples.value, { name: `case ${examples.value.length + 1}`, config: 'hostname example\n', is: 'fail' }],
  )
</script>

<template>
  <div class="form">
    <LazyField :label="$t('common.title')" :value="rule['title']" @set="bench.change(['title'], $event)" />
    <LazyField
      :label="$t('rules.statementTheRequirementAndIts')"
      :value="rule['statement']"
      lines
      @set="bench.change(['statement'], $event)"
    />
    <div class="two">
      <LazyField :label="$t('rules.id')" :value="rule['id']" mono @set="bench.change(['id'], $event)" />
      <LazyField :label="$t('common.topic')" :value="rule['topic']" @set="bench.change(['topic'], $event)" />
      <v-select
        :label="$t('common.severity')"
        :items="['high', 'medium', 'low', 'info']"
        :model-value="String(rule['severity'] ?? '')"
        @update:model-value="bench.change(['severity'], $event)"
      />
      <v-select
        :label="$t('rules.smallestProfile')"
        :items="profiles"
        :model-value="String(rule['profile'] ?? '')"
        @update:model-value="bench.change(['profile'], $event)"
      />
    </div>
    <h3>{{ $t('rules.scope') }}</h3>
    <v-select
      :label="$t('rules.dialects')"
      multiple
      :items="dialectChoices"
      :model-value="[rule['dialects'] ?? dialects.byDefault].flat()"
      @update:model-value="bench.change(['dialects'], $event)"
    />
    <ScopeForm
      :model-value="String(rule['scope'] ?? '')"
      :label="$t('rules.onlyDevicesThatMatchExpression')"
      :preview="false"
      hint='device.site == "north"'
      @update:model-value="bench.change(['scope'], optional($event))"
    />
    <MemberNote
      v-if="rule['scope'] !== undefined && tried"
      :inside="tried.inside"
      :undecided="tried.undecided"
      :of="tried.of"
    />
    <v-select :label="$t('rules.judge')" :items="SUBJECTS" :model-value="eachKind" @update:model-value="turnEach" />
    <template v-if="each">
      <LazyField
        v-if="eachKind === 'block'"
        :label="$t('rules.block')"
        :value="each['block']"
        lines
        mono
        @set="bench.change(['each', 'block'], oneOrMore($event))"
      />
      <div v-else-if="eachKind === 'lines'" class="two">
        <LazyField
          :label="$t('common.lines')"
          :value="each['lines']"
          lines
          mono
          @set="bench.change(['each', 'lines'], oneOrMore($event))"
        /><LazyField
          :label="$t('rules.groupBy')"
          :value="each['by']"
          mono
          @set="bench.change(['each', 'by'], $event)"
        />
      </div>
      <div v-else class="two">
        <LazyField
          :label="$t('rules.listInTheDeviceModel')"
          :value="each['model']"
          mono
          @set="bench.change(['each', 'model'], $event)"
        /><LazyField
          :label="$t('rules.variableName')"
          :value="each['as']"
          mono
          @set="bench.change(['each', 'as'], $event)"
        />
      </div>
      <div class="two">
        <v-select
          :label="$t('rules.ifThereIsNone')"
          :items="outcomes"
          :model-value="(rule['nothing'] as Loose | undefined)?.['outcome']"
          @update:model-value="bench.change(['nothing', 'outcome'], $event)"
        />
        <LazyField
          :label="$t('common.note')"
          :value="(rule['nothing'] as Loose | undefined)?.['note']"
          @set="bench.change(['nothing', 'note'], $event)"
        />
      </div>
    </template>

    <h3>{{ $t('rules.branchesTheFirstThatMatches') }}</h3>
    <fieldset v-for="(branch, i) in branches" :key="i" class="panel branch">
      <legend>{{ i === branches.length - 1 ? $t('rules.otherwise') : $t('rules.branch', { i: i + 1 }) }}</legend>
      <ConditionForm
        v-if="i < branches.length - 1"
        :condition="branch['when']"
        :label="$t('rules.if')"
        @set="bench.change(['decide', i, 'when'], $event)"
      />
      <div class="two">
        <v-select
          :label="$t('common.outcome')"
          :items="outcomes"
          :model-value="branch['outcome']"
          @update:model-value="bench.change(['decide', i, 'outcome'], $event)"
        />
        <LazyField
          :label="$t('rules.branchId')"
          :value="branch['id']"
          mono
          @set="bench.change(['decide', i, 'id'], $event)"
        />
      </div>
      <LazyField
        :label="$t('common.note')"
        :value="branch['note']"
        lines
        @set="bench.change(['decide', i, 'note'], $event)"
      />
      <div v-if="i < branches.length - 1" class="acts">
        <v-btn
          :icon="mdiArrowUp"
          size="small"
          variant="text"
          :disabled="i === 0"
          :aria-label="$t('rules.moveUp')"
          @click="move(i, -1)"
        />
        <v-btn
          :icon="mdiArrowDown"
          size="small"
          variant="text"
          :disabled="i >= branches.length - 2"
          :aria-label="$t('rules.moveDown')"
          @click="move(i, 1)"
        />
        <v-btn
          :icon="mdiClose"
          size="small"
          variant="text"
          :disabled="branches.length < 3"
          :aria-label="$t('rules.deleteBranch')"
          @click="bench.change(['decide', i], undefined)"
        />
      </div>
    </fieldset>
    <div>
      <v-btn size="small" :prepend-icon="mdiPlus" @click="addBranch">{{ $t('rules.addBranch') }}</v-btn>
    </div>

    <h3>{{ $t('rules.remediation') }}</h3>
    <v-select :label="$t('common.type')" :items="REMEDIES" :model-value="remedyKind" @update:model-value="turnRemedy" />
    <LazyField
      v-if="remedyKind === 'words'"
      :label="$t('rules.words')"
      :value="remedy?.['words']"
      lines
      @set="bench.change(['remedy', 'words'], $event)"
    />
    <template v-if="remedyKind === 'edits'">
      <LazyField
        :label="$t('rules.linesToRemove')"
        :value="edit['remove']"
        lines
        mono
        @set="setEdit('remove', $event)"
      />
      <LazyField :label="$t('rules.linesToAdd')" :value="edit['add']" lines mono @set="setEdit('add', $event)" />
      <p v-if="listOf(remedy?.['edits']).length > 1" class="quiet">{{ $t('rules.moreEditsAreShownUnder') }}</p>
    </template>

    <h3>{{ $t('rules.examplesTriedOnEveryChange') }}</h3>
    <fieldset v-for="(example, i) in examples" :key="i" class="panel branch">
      <legend>
        {{ example['name'] }}<span v-if="wrongOf(example['name'])" class="wrong">: {{ wrongOf(example['name']) }}</span>
      </legend>
      <div class="two">
        <LazyField
          :label="$t('common.name')"
          :value="example['name']"
          @set="bench.change(['examples', i, 'name'], $event)"
        /><v-select
          :label="$t('rules.expectedOutcome')"
          :items="outcomes"
          :model-value="example['is']"
          @update:model-value="bench.change(['examples', i, 'is'], $event)"
        /><v-select
          :label="$t('rules.expectedBranch')"
          :items="branchChoices"
          :model-value="String(example['branch'] ?? '')"
          @update:model-value="bench.change(['examples', i, 'branch'], $event || undefined)"
        />
      </div>
      <LazyField
        :label="$t('rules.listing')"
        :value="example['config']"
        lines
        mono
        @set="bench.change(['examples', i, 'config'], $event)"
      />
      <div class="acts">
        <v-btn
          :icon="mdiClose"
          size="small"
          variant="text"
          :aria-label="$t('rules.deleteExample')"
          @click="bench.change(['examples', i], undefined)"
        />
      </div>
    </fieldset>
    <div>
      <v-btn size="small" :prepend-icon="mdiPlus" @click="addExample">{{ $t('rules.addExample') }}</v-btn>
    </div>
    <p v-if="listOf(rule['also']).length > 0" class="quiet">
      {{ $t('rules.variantsForOtherDialectsAre') }}
    </p>
  </div>
</template>

<style scoped>
.form {
  display: grid;
  gap: 10px;
}
.form h3 {
  margin-top: 8px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.branch {
  padding: 8px 12px 10px;
  display: grid;
  gap: 8px;
  margin: 0;
  min-width: 0;
}
.branch legend {
  font-weight: 600;
  padding: 0 4px;
}
.acts {
  text-align: right;
}
.wrong {
  color: rgb(var(--v-theme-fail));
  font-weight: 400;
}
</style>

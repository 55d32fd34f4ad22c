<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp, mdiClose, mdiPlus } from '@mdi/js'
import { computed } from 'vue'
import { OUTCOMES, OUTCOME_TITLES } from '../shared/outcomes.ts'
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
const examples = computed(() => listOf(rule.value['examples']))
const each = computed(() => (rule.value['each'] ?? null) as Loose | null)
const eachKind = computed(() =>
  each.value === null ? 'device' : 'block' in each.value ? 'block' : 'lines' in each.value ? 'lines' : 'model',
)
const SUBJECTS = [
  { value: 'device', title: 'the device' },
  { value: 'block', title: 'each block' },
  { value: 'lines', title: 'each group of lines' },
  { value: 'model', title: 'each entry of the device model' },
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
      : (rule.value['nothing'] ?? { outcome: 'notapplicable', note: 'There is nothing of the kind.' }),
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
      { id: `case-${branches.value.length}`, when: 'ip domain name *', outcome: 'pass', note: 'It is as it must be.' },
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
  { value: 'none', title: 'none' },
  { value: 'edits', title: 'lines' },
  { value: 'words', title: 'words only, where no command is safe' },
]
const edit = computed(() => listOf(remedy.value?.['edits'])[0] ?? {})
function turnRemedy(kind: string): void {
  bench.change(
    ['remedy'],
    kind === 'none'
      ? undefined
      : kind === 'words'
        ? { words: 'What has to be done, by whom.' }
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
    <LazyField label="Title" :value="rule['title']" @set="bench.change(['title'], $event)" />
    <LazyField
      label="Statement: what is asked, and why"
      :value="rule['statement']"
      lines
      @set="bench.change(['statement'], $event)"
    />
    <div class="two">
      <LazyField label="Id" :value="rule['id']" mono @set="bench.change(['id'], $event)" />
      <LazyField label="Topic" :value="rule['topic']" @set="bench.change(['topic'], $event)" />
      <v-select
        label="Severity"
        :items="['high', 'medium', 'low', 'info']"
        :model-value="String(rule['severity'] ?? '')"
        @update:model-value="bench.change(['severity'], $event)"
      />
      <v-select
        label="Smallest profile"
        :items="profiles"
        :model-value="String(rule['profile'] ?? '')"
        @update:model-value="bench.change(['profile'], $event)"
      />
    </div>
    <h3>Whom it asks</h3>
    <v-select
      label="Devices that write"
      multiple
      :items="dialectChoices"
      :model-value="[rule['dialects'] ?? dialects.byDefault].flat()"
      @update:model-value="bench.change(['dialects'], $event)"
    />
    <LazyField
      label="Only devices for which (expression)"
      hint='device.site == "north"'
      :value="rule['scope']"
      mono
      @set="bench.change(['scope'], optional($event))"
    />
    <MemberNote
      v-if="rule['scope'] !== undefined && tried"
      :inside="tried.inside"
      :undecided="tried.undecided"
      :of="tried.of"
    />
    <v-select label="Judged is" :items="SUBJECTS" :model-value="eachKind" @update:model-value="turnEach" />
    <template v-if="each">
      <LazyField
        v-if="eachKind === 'block'"
        label="Block"
        :value="each['block']"
        lines
        mono
        @set="bench.change(['each', 'block'], oneOrMore($event))"
      />
      <div v-else-if="eachKind === 'lines'" class="two">
        <LazyField
          label="Lines"
          :value="each['lines']"
          lines
          mono
          @set="bench.change(['each', 'lines'], oneOrMore($event))"
        /><LazyField label="Grouped by" :value="each['by']" mono @set="bench.change(['each', 'by'], $event)" />
      </div>
      <div v-else class="two">
        <LazyField
          label="List of the model"
          :value="each['model']"
          mono
          @set="bench.change(['each', 'model'], $event)"
        /><LazyField label="Known as" :value="each['as']" mono @set="bench.change(['each', 'as'], $event)" />
      </div>
      <div class="two">
        <v-select
          label="Where there is none"
          :items="outcomes"
          :model-value="(rule['nothing'] as Loose | undefined)?.['outcome']"
          @update:model-value="bench.change(['nothing', 'outcome'], $event)"
        />
        <LazyField
          label="Note"
          :value="(rule['nothing'] as Loose | undefined)?.['note']"
          @set="bench.change(['nothing', 'note'], $event)"
        />
      </div>
    </template>

    <h3>How it decides: the first case that holds</h3>
    <fieldset v-for="(branch, i) in branches" :key="i" class="panel branch">
      <legend>{{ i === branches.length - 1 ? 'Otherwise' : `Case ${i + 1}` }}</legend>
      <ConditionForm
        v-if="i < branches.length - 1"
        :condition="branch['when']"
        label="If"
        @set="bench.change(['decide', i, 'when'], $event)"
      />
      <div class="two">
        <v-select
          label="Outcome"
          :items="outcomes"
          :model-value="branch['outcome']"
          @update:model-value="bench.change(['decide', i, 'outcome'], $event)"
        />
        <LazyField
          label="Name of the case"
          :value="branch['id']"
          mono
          @set="bench.change(['decide', i, 'id'], $event)"
        />
      </div>
      <LazyField label="Note" :value="branch['note']" lines @set="bench.change(['decide', i, 'note'], $event)" />
      <div v-if="i < branches.length - 1" class="acts">
        <v-btn
          :icon="mdiArrowUp"
          size="small"
          variant="text"
          :disabled="i === 0"
          aria-label="Earlier"
          @click="move(i, -1)"
        />
        <v-btn
          :icon="mdiArrowDown"
          size="small"
          variant="text"
          :disabled="i >= branches.length - 2"
          aria-label="Later"
          @click="move(i, 1)"
        />
        <v-btn
          :icon="mdiClose"
          size="small"
          variant="text"
          :disabled="branches.length < 3"
          aria-label="Remove this case"
          @click="bench.change(['decide', i], undefined)"
        />
      </div>
    </fieldset>
    <div><v-btn size="small" :prepend-icon="mdiPlus" @click="addBranch">One more case</v-btn></div>

    <h3>Remedy</h3>
    <v-select label="Given as" :items="REMEDIES" :model-value="remedyKind" @update:model-value="turnRemedy" />
    <LazyField
      v-if="remedyKind === 'words'"
      label="Words"
      :value="remedy?.['words']"
      lines
      @set="bench.change(['remedy', 'words'], $event)"
    />
    <template v-if="remedyKind === 'edits'">
      <LazyField label="Lines that come out" :value="edit['remove']" lines mono @set="setEdit('remove', $event)" />
      <LazyField label="Lines that go in" :value="edit['add']" lines mono @set="setEdit('add', $event)" />
      <p v-if="listOf(remedy?.['edits']).length > 1" class="quiet">There are more edits; they stand in the YAML.</p>
    </template>

    <h3>Examples, tried with every change</h3>
    <fieldset v-for="(example, i) in examples" :key="i" class="panel branch">
      <legend>
        {{ example['name'] }}<span v-if="wrongOf(example['name'])" class="wrong">: {{ wrongOf(example['name']) }}</span>
      </legend>
      <div class="two">
        <LazyField
          label="Name"
          :value="example['name']"
          @set="bench.change(['examples', i, 'name'], $event)"
        /><v-select
          label="Must be"
          :items="outcomes"
          :model-value="example['is']"
          @update:model-value="bench.change(['examples', i, 'is'], $event)"
        />
      </div>
      <LazyField
        label="Listing"
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
          aria-label="Remove this example"
          @click="bench.change(['examples', i], undefined)"
        />
      </div>
    </fieldset>
    <div><v-btn size="small" :prepend-icon="mdiPlus" @click="addExample">One more example</v-btn></div>
    <p v-if="listOf(rule['also']).length > 0" class="quiet">
      The same question is put to other dialects as well; that part stands in the YAML.
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

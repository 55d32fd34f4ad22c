<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { listLabels } from '@jurybox/api/labels'
import { listDevices } from '@jurybox/api/devices'
import { listStandings } from '@jurybox/api/estate'
import { computed, onMounted, ref, watch } from 'vue'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import { useEngagement } from '../stores/engagement.ts'
import ProblemNote from './ProblemNote.vue'
import ScopeMembers from './ScopeMembers.vue'
import { useAttempt } from './attempt.ts'
import { ATTRIBUTES, operatorsOf, readScope, writeScope, type Operator, type ScopeForm } from './scope-form.ts'

/** A scope as conditions beside its expression, and who is in, out and undecidable while it is written. */
const props = withDefaults(defineProps<{ label: string; disabled?: boolean; preview?: boolean; hint?: string }>(), {
  preview: true,
  hint: '',
})
const text = defineModel<string>({ default: '' })
const engagement = useEngagement()
const { problem, attempt } = useAttempt()

interface Row {
  attribute: string
  operator: Operator
  values: string[]
}
const join = ref<ScopeForm['join']>('&&')
const rows = ref<Row[]>([])
/** The expression says more than the form can show. */
const isTextOnly = ref(false)
watch(
  text,
  (written) => {
    // What the form wrote itself is shown already, with conditions that are not whole yet.
    if (written === writeScope({ join: join.value, terms: rows.value })) return
    const form = readScope(written)
    isTextOnly.value = form === null
    if (!form) return
    join.value = form.join
    rows.value = form.terms.map((term) => ({ ...term, values: [...term.values] }))
  },
  { immediate: true },
)
const write = (): void => void (text.value = writeScope({ join: join.value, terms: rows.value }))
function setAttribute(row: Row, attribute: string): void {
  row.attribute = attribute
  const [first] = operatorsOf(attribute)
  if (first && !operatorsOf(attribute).includes(row.operator)) row.operator = first
  row.values = []
  write()
}
function setValues(row: Row, values: string | string[] | null): void {
  row.values = [values ?? []].flat().map(String)
  write()
}
function remove(at: number): void {
  rows.value = rows.value.filter((_, i) => i !== at)
  write()
}
const add = (): void => void (rows.value = [...rows.value, { attribute: 'site', operator: 'is', values: [] }])

/* What there is to choose from, as of B */
const labels = ref<string[]>([])
const known = ref<Record<string, string[]>>({})
onMounted(() =>
  attempt(async () => {
    const query = { snapshot: engagement.b?.id }
    const [all, devices, standings] = await Promise.all([
      call(listLabels),
      call(listDevices, { query }),
      call(listStandings, { query }).catch(() => []),
    ])
    labels.value = [...all.defined, ...all.undefined].map(({ name }) => name)
    const found: Record<string, Set<string>> = {}
    const note = (attribute: string, value: unknown): void => {
      if (value !== null && value !== undefined && value !== '') (found[attribute] ??= new Set()).add(String(value))
    }
    for (const { name, dialect, facts } of devices.devices) {
      note('name', name)
      note('dialect', dialect)
      note('site', facts.site)
      note('sites', facts.site)
      note('role', facts.role)
      for (const [label, value] of Object.entries(facts.labels ?? {})) note(`labels.${label}`, value)
    }
    for (const { os, model, version, approved, groups } of standings) {
      note('os', os)
      note('model', model)
      note('version', version)
      note('approved', approved)
      for (const group of groups) note('groups', group)
    }
    known.value = Object.fromEntries(Object.entries(found).map(([name, values]) => [name, [...values].sort()]))
  }),
)
const ATTRIBUTE_TITLES: Readonly<Record<string, string>> = {
  name: t('common.name'),
  site: t('shared.site'),
  sites: t('shared.sites'),
  role: t('common.role'),
  model: t('common.model'),
  os: t('shared.operatingSystem'),
  version: t('shared.version'),
  dialect: t('shared.dialect'),
  approved: t('shared.approval'),
  groups: t('common.groups'),
}
const OPERATOR_TITLES: Readonly<Record<Operator, string>> = {
  is: t('shared.is'),
  'is-not': t('shared.isNot'),
  'one-of': t('shared.oneOf'),
  starts: t('shared.startsWith'),
  contains: t('shared.contains'),
  has: t('shared.include'),
  'has-not': t('shared.doNotInclude'),
}
const attributes = computed(() => [
  ...ATTRIBUTES.map((value) => ({ value: value as string, title: ATTRIBUTE_TITLES[value] ?? value })),
  ...labels.value.map((label) => ({
    value: `labels.${label}`,
    title: t('shared.label', { name: label.replaceAll('_', ' ') }),
  })),
])
const JOINS = [
  { value: '&&', title: t('shared.allConditions') },
  { value: '||', title: t('shared.anyCondition') },
]
const operators = (attribute: string) =>
  operatorsOf(attribute).map((value) => ({ value, title: OPERATOR_TITLES[value] }))
</script>

<template>
  <div class="scope" role="group" :aria-label="props.label">
    <ProblemNote :text="problem" />
    <p v-if="isTextOnly" class="quiet" role="status">{{ $t('shared.textOnly') }}</p>
    <template v-else>
      <v-select
        v-if="rows.length > 1"
        v-model="join"
        :items="JOINS"
        :label="$t('shared.devicesMatch')"
        :disabled="disabled"
        class="join"
        @update:model-value="write"
      />
      <div v-for="(row, i) in rows" :key="i" class="row">
        <v-select
          :model-value="row.attribute"
          :items="attributes"
          :label="$t('shared.attribute')"
          :disabled="disabled"
          @update:model-value="setAttribute(row, $event)"
        />
        <v-select
          v-model="row.operator"
          :items="operators(row.attribute)"
          :label="$t('shared.condition')"
          :disabled="disabled"
          @update:model-value="write"
        />
        <v-combobox
          :model-value="row.operator === 'one-of' ? row.values : (row.values[0] ?? '')"
          :items="known[row.attribute] ?? []"
          :multiple="row.operator === 'one-of'"
          :chips="row.operator === 'one-of'"
          :label="$t('shared.value')"
          :disabled="disabled"
          @update:model-value="setValues(row, $event)"
        />
        <v-btn
          v-if="!disabled"
          :icon="mdiClose"
          size="small"
          variant="text"
          :aria-label="$t('shared.deleteCondition', { n: i + 1 })"
          @click="remove(i)"
        />
      </div>
      <div v-if="!disabled">
        <v-btn size="small" variant="text" :prepend-icon="mdiPlus" @click="add">{{ $t('shared.addCondition') }}</v-btn>
      </div>
    </template>
    <v-textarea
      v-model="text"
      :label="props.label"
      :disabled="disabled"
      :placeholder="hint"
      rows="1"
      auto-grow
      spellcheck="false"
      class="code"
    />
    <ScopeMembers v-if="preview" :text="text" />
  </div>
</template>

<style scoped>
.scope {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
  width: 100%;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1.4fr) 36px;
  gap: 8px;
  align-items: center;
}
.join {
  max-width: 260px;
}
.code :deep(textarea) {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>

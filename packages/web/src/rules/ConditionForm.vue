<script setup lang="ts">
import { t } from '../messages/index.ts'
import { mdiClose, mdiPlus } from '@mdi/js'
import { parse, stringify } from 'yaml'
import { computed, ref } from 'vue'
import LazyField from './LazyField.vue'
import { CONDITION_FORMS, type FormField } from '@jurybox/core/rules'
import { fieldOf, formOf, withField } from './condition-form.ts'

/** One condition as fields; what has no fields is written as YAML. */
const props = withDefaults(defineProps<{ condition: unknown; removable?: boolean; label?: string }>(), {
  removable: false,
  label: t('rules.condition'),
})
const emit = defineEmits<{ set: [condition: unknown]; remove: [] }>()
const kind = computed(() => formOf(props.condition))
const kinds = [
  ...CONDITION_FORMS.map(({ key, title }) => ({ value: key, title })),
  { value: 'other', title: t('rules.asYaml') },
]
const wrong = ref('')

function turn(key: string): void {
  const next = CONDITION_FORMS.find((one) => one.key === key)
  // What stands is kept where the new kind can hold it.
  if (next && ['all', 'any', 'none'].includes(key))
    emit('set', {
      [key]: ['all', 'any', 'none'].includes(kind.value?.key ?? '')
        ? fieldOf(props.condition, [kind.value?.key ?? ''])
        : [props.condition],
    })
  else if (next && ['line', 'absent'].includes(key) && ['line', 'absent'].includes(kind.value?.key ?? ''))
    emit(
      'set',
      withField(
        withField(props.condition, [kind.value?.key ?? ''], undefined),
        [key],
        fieldOf(props.condition, [kind.value?.key ?? '']),
      ),
    )
  else if (next) emit('set', next.start)
}
/** The value of a field by what was written in it; undefined where an optional one was left empty. */
function valueOf(field: FormField, text: string): unknown {
  if (text.trim() === '' && field.optional) return undefined
  const lines = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
  switch (field.as) {
    case 'number':
      return text.trim() === '' ? undefined : Number(text)
    case 'lines':
      return lines
    case 'patterns':
      return lines.length === 1 ? lines[0] : lines
    case 'listing':
      return text
        .split('\n')
        .map((line) => line.trimEnd())
        .filter(Boolean)
        .join('\n')
    default:
      return text.trim()
  }
}
function set(field: FormField, text: string): void {
  emit('set', withField(props.condition, field.path, valueOf(field, text)))
}
const partsOf = (field: FormField): unknown[] => [fieldOf(props.condition, field.path) ?? []].flat()
function setPart(field: FormField, at: number, part: unknown): void {
  const parts = partsOf(field)
  emit(
    'set',
    withField(
      props.condition,
      field.path,
      part === undefined ? parts.filter((_, i) => i !== at) : parts.map((one, i) => (i === at ? part : one)),
    ),
  )
}
function setYaml(text: string): void {
  try {
    emit('set', parse(text) as unknown)
    wrong.value = ''
  } catch (error) {
    wrong.value = error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error)
  }
}
</script>

<template>
  <div class="condition">
    <div class="head">
      <v-select
        :model-value="kind?.key ?? 'other'"
        :items="kinds"
        :label="label"
        class="kind"
        @update:model-value="turn"
      />
      <v-btn
        v-if="removable"
        :icon="mdiClose"
        size="small"
        variant="text"
        :aria-label="$t('rules.deleteCondition')"
        @click="emit('remove')"
      />
    </div>
    <template v-for="field in kind?.fields ?? []" :key="field.path.join('.')">
      <div v-if="field.as === 'conditions'" class="parts">
        <ConditionForm
          v-for="(part, i) in partsOf(field)"
          :key="i"
          :condition="part"
          :removable="partsOf(field).length > 1"
          @set="setPart(field, i, $event)"
          @remove="setPart(field, i, undefined)"
        />
        <v-btn
          size="small"
          variant="text"
          :prepend-icon="mdiPlus"
          @click="emit('set', withField(condition, field.path, [...partsOf(field), 'ip domain name *']))"
          >{{ $t('rules.add') }}</v-btn
        >
      </div>
      <div v-else-if="field.as === 'condition'" class="parts">
        <ConditionForm
          :condition="fieldOf(condition, field.path)"
          :label="field.title || $t('rules.condition')"
          @set="emit('set', withField(condition, field.path, $event))"
        />
      </div>
      <v-checkbox
        v-else-if="field.as === 'flag'"
        :label="field.title"
        :model-value="fieldOf(condition, field.path) === true"
        @update:model-value="emit('set', withField(condition, field.path, $event ? true : undefined))"
      />
      <v-select
        v-else-if="field.as === 'choice'"
        :label="field.title"
        :items="[...(field.choices ?? [])]"
        :model-value="String(fieldOf(condition, field.path) ?? '')"
        @update:model-value="emit('set', withField(condition, field.path, $event))"
      />
      <LazyField
        v-else
        :label="field.title"
        :hint="field.hint ?? ''"
        :value="fieldOf(condition, field.path)"
        :lines="['patterns', 'lines', 'listing'].includes(field.as)"
        :number="field.as === 'number'"
        mono
        @set="set(field, $event)"
      />
    </template>
    <template v-if="!kind">
      <LazyField :label="$t('rules.conditionAsYaml')" :value="stringify(condition)" lines mono @set="setYaml" />
      <p v-if="wrong" role="alert" class="wrong">{{ wrong }}</p>
    </template>
  </div>
</template>

<style scoped>
.condition {
  display: grid;
  gap: 8px;
}
.head {
  display: flex;
  gap: 4px;
  align-items: center;
}
.kind {
  flex: 1;
}
.parts {
  display: grid;
  gap: 8px;
  border-left: 2px solid rgb(var(--v-theme-rule));
  padding-left: 10px;
}
.wrong {
  color: rgb(var(--v-theme-fail));
}
</style>

<script setup lang="ts">
/** A field whose value counts when it is left, or when Enter is pressed in a single line: half a word is no edit. */
const props = withDefaults(
  defineProps<{ label: string; value?: unknown; lines?: boolean; number?: boolean; hint?: string; mono?: boolean }>(),
  { value: undefined, lines: false, number: false, hint: '', mono: false },
)
const emit = defineEmits<{ set: [value: string] }>()
function onChange(event: Event): void {
  const { value } = event.target as HTMLInputElement
  if (value !== shown(props.value)) emit('set', value)
}
function shown(value: unknown): string {
  return value === undefined || value === null ? '' : Array.isArray(value) ? value.join('\n') : String(value)
}
</script>

<template>
  <v-textarea
    v-if="lines"
    :label="label"
    :model-value="shown(value)"
    :placeholder="hint"
    :persistent-placeholder="hint !== ''"
    :class="{ code: mono }"
    rows="1"
    auto-grow
    max-rows="14"
    spellcheck="false"
    @change="onChange"
  />
  <v-text-field
    v-else
    :label="label"
    :model-value="shown(value)"
    :placeholder="hint"
    :persistent-placeholder="hint !== ''"
    :class="{ code: mono }"
    :type="number ? 'number' : 'text'"
    spellcheck="false"
    @change="onChange"
  />
</template>

<style scoped>
.code :deep(input),
.code :deep(textarea) {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>

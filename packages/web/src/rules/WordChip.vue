<script setup lang="ts">
import type { CitedWord } from '@jurybox/core/authoring'
import { computed, ref, watch } from 'vue'

/** One word of a cited line, and what may stand in its place. */
const props = defineProps<{ word: CitedWord }>()
const emit = defineEmits<{ use: [use: Pick<CitedWord, 'use' | 'name'>] }>()
const open = ref(false)
const name = ref('')
watch(open, () => (name.value = props.word.name))
const shown = computed(
  () =>
    ({ same: props.word.text, any: '*', named: `<${props.word.name}>`, value: `= ${props.word.name}` })[props.word.use],
)
const known = computed(() => /^[a-z][a-z0-9_]*$/.test(name.value))
function use(how: CitedWord['use']): void {
  emit('use', { use: how, name: how === 'named' || how === 'value' ? name.value : '' })
  open.value = false
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: activator }"
      ><button
        type="button"
        class="chip mono"
        :class="word.use"
        v-bind="activator"
        :aria-label="`${word.text}: ${shown}`"
      >
        {{ shown }}
      </button></template
    >
    <v-card class="ways">
      <v-btn variant="text" size="small" :disabled="word.text.startsWith('‹')" @click="use('same')"
        >{{ $t('rules.thisWord') }} <code>{{ word.text }}</code></v-btn
      >
      <v-btn variant="text" size="small" @click="use('any')">{{ $t('rules.anyWord') }}</v-btn>
      <v-text-field v-model="name" :label="$t('common.name')" :hint="$t('rules.lowerCaseDigitsAnd')" persistent-hint />
      <v-btn variant="text" size="small" :disabled="!known" @click="use('named')">{{
        $t('rules.anyWordKnownAsIn', { name: name || '…' })
      }}</v-btn>
      <v-btn variant="text" size="small" :disabled="!known || word.text.startsWith('‹')" @click="use('value')">{{
        $t('rules.theBenchmarksValueByDefault', { name: name || '…', text: word.text })
      }}</v-btn>
    </v-card>
  </v-menu>
</template>

<style scoped>
.chip {
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 3px;
  padding: 1px 6px;
  min-height: 24px;
  cursor: pointer;
  background: rgb(var(--v-theme-surface));
}
.chip.any,
.chip.named,
.chip.value {
  border-style: dashed;
  border-color: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-primary));
}
.ways {
  display: grid;
  gap: 6px;
  padding: 10px;
  justify-items: start;
  min-width: 300px;
}
.ways :deep(.v-input) {
  width: 100%;
}
</style>

<script setup lang="ts">
import type { LineRange } from '@jurybox/api/traffic'
import { useExhibit } from '../stores/exhibit.ts'

/** Lines that something rests on: each opens the record there. */
defineProps<{ exhibits: readonly LineRange[] }>()
const exhibit = useExhibit()
const shown = (all: readonly LineRange[]): readonly LineRange[] => all.slice(0, 12)
</script>

<template>
  <span v-if="exhibits.length > 0" class="lines">
    <button
      v-for="(one, i) in shown(exhibits)"
      :key="i"
      type="button"
      class="as-link mono"
      @click="exhibit.revealLines(exhibits.filter(({ record }) => record === one.record))"
    >
      {{ one.device }}&#8239;:&#8239;{{ one.from }}<template v-if="one.to > one.from">–{{ one.to }}</template>
    </button>
    <span v-if="exhibits.length > 12" class="quiet">{{ $t('common.andMore', { n: exhibits.length - 12 }) }}</span>
  </span>
</template>

<style scoped>
.lines {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}
.mono {
  font-family: var(--mono);
  font-size: 12px;
}
</style>

<script setup lang="ts">
import type { Outcome } from '@jurybox/api/outcomes'
import { computed } from 'vue'
import { OUTCOMES, OUTCOME_TITLES } from './outcomes.ts'

/** The outcomes of one device or rule in proportion; the numbers stand beside it. */
const props = defineProps<{ counts: Partial<Record<Outcome, number>> }>()
const total = computed(() => Object.values(props.counts).reduce((sum, count) => sum + count, 0))
const parts = computed(() => {
  let x = 0
  return OUTCOMES.flatMap((outcome) => {
    const count = props.counts[outcome] ?? 0
    if (count === 0) return []
    const width = (count / total.value) * 100
    const part = { outcome, x, width, count }
    x += width
    return [part]
  })
})
const label = computed(() => parts.value.map(({ outcome, count }) => `${count} ${OUTCOME_TITLES[outcome]}`).join(', '))
</script>

<template>
  <svg v-if="total > 0" class="bar" viewBox="0 0 100 10" preserveAspectRatio="none" role="img" :aria-label="label">
    <title>{{ label }}</title>
    <rect
      v-for="part in parts"
      :key="part.outcome"
      :x="part.x"
      y="0"
      :width="part.width"
      height="10"
      :class="part.outcome"
    />
  </svg>
  <span v-else class="quiet">{{ $t('common.notJudged') }}</span>
</template>

<style scoped>
.bar {
  display: block;
  width: 100%;
  min-width: 70px;
  height: 10px;
  margin-top: 5px;
  border: var(--hair);
}
.fail {
  fill: rgb(var(--v-theme-fail));
}
.unknown,
.error {
  fill: rgb(var(--v-theme-unknown));
}
.pass {
  fill: rgb(var(--v-theme-pass));
  opacity: 0.35;
}
.notapplicable,
.notchecked {
  fill: transparent;
}
</style>

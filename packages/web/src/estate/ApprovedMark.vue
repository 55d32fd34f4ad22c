<script setup lang="ts">
import type { StandingRow } from '@jurybox/api/estate'
import { computed } from 'vue'
import { APPROVED_WORDS } from './approved-words.ts'

/** Whether the software of a device is approved: a shape, and the word. */
const props = defineProps<{ standing: StandingRow['approved'] | undefined; why?: string }>()
const word = computed(() => (props.standing ? APPROVED_WORDS[props.standing] : ''))
</script>

<template>
  <span v-if="standing" class="mark" :class="standing" :title="why">
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
      <path v-if="standing === 'on'" d="M2 6.5 5 9.5 10 3" class="tick" />
      <rect v-else-if="standing === 'off'" x="2" y="2" width="8" height="8" class="full" />
      <path v-else-if="standing === 'unknown'" d="M6 1 11 6 6 11 1 6Z" class="line" />
      <path v-else d="M3 6H9" class="line" />
    </svg>
    {{ word }}
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  white-space: nowrap;
}
path {
  fill: none;
  stroke: currentColor;
  stroke-width: 2;
}
.full {
  fill: currentColor;
}
svg {
  flex: none;
}
.on svg {
  color: rgb(var(--v-theme-pass));
}
.off svg {
  color: rgb(var(--v-theme-fail));
}
.unknown svg {
  color: rgb(var(--v-theme-unknown));
}
.none,
.none svg {
  color: rgb(var(--v-theme-quiet));
}
</style>

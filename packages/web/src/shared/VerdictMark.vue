<script setup lang="ts">
import { t } from '../messages/index.ts'
import { computed } from 'vue'
import { OUTCOME_TITLES } from './outcomes.ts'

/** The shape of an outcome; the word stands beside it, or is there for those who cannot see the shape. */
const props = withDefaults(defineProps<{ outcome: string; word?: boolean; size?: number; waived?: boolean }>(), {
  word: true,
  size: 12,
  waived: false,
})
const title = computed(
  () => `${OUTCOME_TITLES[props.outcome] ?? props.outcome}${props.waived ? t('shared.waived') : ''}`,
)
/** A waiver changes the shape, never the word of the outcome. */
const shape = computed(() => (props.waived ? 'waived' : props.outcome))
</script>

<template>
  <span class="mark" :class="shape">
    <svg :width="size" :height="size" viewBox="0 0 12 12" aria-hidden="true">
      <circle v-if="shape === 'pass'" cx="6" cy="6" r="4.4" fill="none" stroke="currentColor" stroke-width="1.8" />
      <rect v-else-if="shape === 'fail'" x="1" y="1" width="10" height="10" fill="currentColor" />
      <g v-else-if="shape === 'unknown'">
        <path d="M6 .8 11.2 6 6 11.2.8 6z" fill="none" stroke="currentColor" stroke-width="1.4" />
        <path d="M6 .8 6 11.2.8 6z" fill="currentColor" />
      </g>
      <g v-else-if="shape === 'error'" fill="none" stroke="currentColor" stroke-width="1.4">
        <rect x="1" y="1" width="10" height="10" />
        <path d="M3.4 3.4l5.2 5.2M8.6 3.4l-5.2 5.2" />
      </g>
      <circle
        v-else-if="shape === 'waived'"
        cx="6"
        cy="6"
        r="4.4"
        fill="none"
        stroke="currentColor"
        stroke-width="1.6"
        stroke-dasharray="2.4 1.6"
      />
      <path
        v-else-if="shape === 'notchecked'"
        d="M2.6 6h.01M6 6h.01M9.4 6h.01"
        stroke="currentColor"
        stroke-width="2"
        stroke-linecap="round"
      />
      <path v-else d="M3 6h6" stroke="currentColor" stroke-width="1.6" />
    </svg>
    <span :class="{ sr: !word }">{{ title }}</span>
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
}
.mark svg {
  flex: none;
}
.pass svg {
  color: rgb(var(--v-theme-pass));
}
.fail svg {
  color: rgb(var(--v-theme-fail));
}
.unknown svg {
  color: rgb(var(--v-theme-unknown));
}
.waived svg {
  color: rgb(var(--v-theme-waived));
}
.notapplicable svg,
.notchecked svg,
.notselected svg {
  color: rgb(var(--v-theme-quiet));
}
</style>

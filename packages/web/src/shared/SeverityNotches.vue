<script setup lang="ts">
import { computed } from 'vue'

/** Severity as a bar of one to four notches, never a colour. */
const props = defineProps<{ severity: string }>()
const notches = computed(() => ({ info: 1, low: 2, medium: 3, high: 4 })[props.severity] ?? 0)
</script>

<template>
  <span class="severity">
    <svg width="19" height="10" viewBox="0 0 19 10" aria-hidden="true">
      <rect
        v-for="i in 4"
        :key="i"
        :x="(i - 1) * 5"
        y="0.5"
        width="3.4"
        height="9"
        :class="i <= notches ? 'on' : 'off'"
      />
    </svg>
    <span>{{ severity }}</span>
  </span>
</template>

<style scoped>
.severity {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
}
.on {
  fill: rgb(var(--v-theme-on-surface));
}
.off {
  fill: none;
  stroke: rgb(var(--v-theme-quiet));
  stroke-width: 0.8;
}
</style>

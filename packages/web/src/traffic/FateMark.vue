<script setup lang="ts">
import FateGlyph from './FateGlyph.vue'

/** What becomes of packets: a shape, and the word. */
defineProps<{ fate: string }>()
</script>

<template>
  <span class="fate">
    <svg width="18" height="12" viewBox="0 0 18 12" aria-hidden="true"><FateGlyph :fate="fate" /></svg>
    <span>{{ fate }}</span>
  </span>
</template>

<style scoped>
.fate {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
}
svg {
  flex: none;
}
</style>

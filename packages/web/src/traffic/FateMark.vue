<script setup lang="ts">
/** What becomes of packets: a shape, and the word. */
defineProps<{ fate: string }>()
</script>

<template>
  <span class="fate" :class="fate">
    <svg width="18" height="12" viewBox="0 0 18 12" aria-hidden="true" fill="none" stroke="currentColor" stroke-width="1.6">
      <template v-if="fate === 'arrives'"><path d="M1 6h8M6.4 3 9.4 6 6.4 9" /><circle cx="14" cy="6" r="2.6" fill="currentColor" stroke="none" /></template>
      <template v-else-if="fate === 'leaves'"><path d="M8 1.5H2v9h6" /><path d="M6 6h10M13 3l3 3-3 3" /></template>
      <template v-else-if="fate === 'stopped'"><path d="M1 6h9" /><path d="M13 1v10" stroke-width="3" /></template>
      <template v-else-if="fate === 'circles'"><path d="M14 6a5 4.4 0 1 1-3-4" /><path d="M8.6 3.2 11.4 2l.2 3" /></template>
      <template v-else><path d="M1 6h5" /><path d="M12 1 17 6 12 11 7 6z" /><path d="M12 1 12 11 7 6z" fill="currentColor" stroke="none" /></template>
    </svg>
    <span>{{ fate }}</span>
  </span>
</template>

<style scoped>
.fate { display: inline-flex; align-items: center; gap: 6px; white-space: nowrap; }
svg { flex: none; }
.arrives svg, .leaves svg { color: rgb(var(--v-theme-pass)); }
.stopped svg, .circles svg { color: rgb(var(--v-theme-fail)); }
.undecided svg { color: rgb(var(--v-theme-unknown)); }
</style>

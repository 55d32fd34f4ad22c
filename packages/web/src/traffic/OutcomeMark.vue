<script setup lang="ts">
/** Whether an expectation holds: the shapes of verdicts, in words of its own. */
defineProps<{ outcome: 'met' | 'violated' | 'undecided' }>()
</script>

<template>
  <span class="mark" :class="outcome">
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
      <circle v-if="outcome === 'met'" cx="6" cy="6" r="4.4" fill="none" stroke="currentColor" stroke-width="1.8" />
      <rect v-else-if="outcome === 'violated'" x="1" y="1" width="10" height="10" fill="currentColor" />
      <g v-else>
        <path d="M6 .8 11.2 6 6 11.2.8 6z" fill="none" stroke="currentColor" stroke-width="1.4" />
        <path d="M6 .8 6 11.2.8 6z" fill="currentColor" />
      </g>
    </svg>
    <span>{{ outcome }}</span>
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
}
.met svg {
  color: rgb(var(--v-theme-pass));
}
.violated svg {
  color: rgb(var(--v-theme-fail));
}
.undecided svg {
  color: rgb(var(--v-theme-unknown));
}
</style>

<script setup lang="ts">
/** What went wrong, announced to those who cannot see it. */
defineProps<{ text: string }>()
</script>

<template>
  <p v-if="text" class="problem" role="alert">
    <strong>{{ $t('shared.error') }}</strong> {{ text }}
  </p>
</template>

<style scoped>
.problem {
  border: 1px solid rgb(var(--v-theme-fail));
  border-left-width: 4px;
  border-radius: 3px;
  background: rgb(var(--v-theme-surface));
  padding: 8px 12px;
  margin: 8px 0;
}
</style>

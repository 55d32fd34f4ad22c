<script setup lang="ts">
/** How far the reading of the estate is; it happens once for records that were not read yet. */
defineProps<{ reading: { done: number; total: number } | null }>()
const emit = defineEmits<{ stop: [] }>()
</script>

<template>
  <div v-if="reading" class="reading panel" role="status">
    <span>Reading the estate: {{ reading.done }} of {{ reading.total }} devices</span>
    <v-progress-linear :model-value="(100 * reading.done) / Math.max(1, reading.total)" color="primary" :aria-label="`${reading.done} of ${reading.total} devices`" />
    <v-btn size="small" variant="text" @click="emit('stop')">Do not wait</v-btn>
  </div>
</template>

<style scoped>
.reading { display: flex; align-items: center; gap: 14px; padding: 6px 14px; margin-bottom: 10px; white-space: nowrap; }
</style>

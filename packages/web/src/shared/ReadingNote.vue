<script setup lang="ts">
import type { Progress } from './polling.ts'

/**
 * How far the reading of the estate is, which happens once for records that were not read yet; or how far a long answer
 * is.
 */
defineProps<{ reading: Progress | null }>()
const emit = defineEmits<{ stop: [] }>()
</script>

<template>
  <div v-if="reading" class="reading panel" role="status">
    <span
      >{{ reading.of ? $t('shared.working') : $t('shared.parsingTheEstate')
      }}<template v-if="reading.total > 1 || !reading.of">{{
        $t('shared.of', {
          done: reading.done,
          total: reading.total,
          reading: reading.of ?? $t('common.devicesOnly', 2),
        })
      }}</template></span
    >
    <v-progress-linear
      :model-value="(100 * reading.done) / Math.max(1, reading.total)"
      :indeterminate="reading.total === 1"
      color="primary"
      :aria-label="
        $t('common.someOfAll', {
          shown: reading.done,
          all: `${reading.total} ${reading.of ?? $t('common.devicesOnly', 2)}`,
        })
      "
    />
    <v-btn size="small" variant="text" @click="emit('stop')">{{
      reading.of ? $t('common.stop') : $t('shared.stopWaiting')
    }}</v-btn>
  </div>
</template>

<style scoped>
.reading {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 6px 14px;
  margin-bottom: 10px;
  white-space: nowrap;
}
</style>

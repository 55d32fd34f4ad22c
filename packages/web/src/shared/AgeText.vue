<script setup lang="ts">
import { t } from '../messages/index.ts'
import { computed } from 'vue'
import { absoluteTime, relativeTime } from './time.ts'

/** A time as its age, with the absolute time and where it comes from on hover. */
const props = defineProps<{ at: string | null; source?: string }>()
const SOURCES: Readonly<Record<string, string>> = {
  listing: t('shared.statedByTheRecordItself'),
  stated: t('shared.givenAtImport'),
  unknown: t('shared.sourceUnknown'),
}
const title = computed(() =>
  props.at === null
    ? t('shared.captureTimeUnknown')
    : `${absoluteTime(props.at)}${props.source ? `, ${SOURCES[props.source] ?? props.source}` : ''}`,
)
</script>

<template>
  <time :datetime="at ?? undefined" :title="title" class="age">{{
    at === null ? $t('shared.timeUnknown') : relativeTime(at)
  }}</time>
</template>

<style scoped>
.age {
  white-space: nowrap;
}
/* Paper does not grow older with the day: it shows the time itself. */
@media print {
  .age {
    display: inline-block;
    min-width: 110px;
    font-size: 0;
  }
  .age::after {
    content: attr(title);
    font-size: 13px;
  }
}
</style>

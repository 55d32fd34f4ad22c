<script setup lang="ts">
import { computed } from 'vue'
import { absoluteTime, relativeTime } from './time.ts'

/** A time as its age, with the absolute time and where it comes from on hover. */
const props = defineProps<{ at: string | null; source?: string }>()
const SOURCES: Readonly<Record<string, string>> = {
  listing: 'stated by the listing itself',
  stated: 'as given when it was brought in',
  unknown: 'of unknown source',
}
const title = computed(() =>
  props.at === null
    ? 'The time of capture is not known'
    : `${absoluteTime(props.at)}${props.source ? `, ${SOURCES[props.source] ?? props.source}` : ''}`,
)
</script>

<template>
  <time :datetime="at ?? undefined" :title="title" class="age">{{
    at === null ? 'time not known' : relativeTime(at)
  }}</time>
</template>

<style scoped>
.age {
  white-space: nowrap;
}
</style>

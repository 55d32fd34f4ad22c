<script setup lang="ts">
import SidesHead from '../shared/SidesHead.vue'

/** Traffic from its sides: what is expected, what people ask, what is odd about filters. */
defineProps<{ note: string }>()
const SIDES = [
  { path: 'traffic', title: 'Expectations' },
  { path: 'traffic/ask', title: 'Ask' },
  { path: 'traffic/filters', title: 'Filters' },
]
</script>

<template>
  <SidesHead title="Traffic" :note="note" :sides="SIDES"><slot /></SidesHead>
</template>

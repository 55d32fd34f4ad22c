<script setup lang="ts">
import SidesHead from '../shared/SidesHead.vue'

/**
 * Traffic from its sides: what is expected, what people ask, what changed, what gets through, what is odd about filters
 * and about how devices fit together.
 */
defineProps<{ note: string }>()
const SIDES = [
  { path: 'traffic', title: 'Expectations' },
  { path: 'traffic/ask', title: 'Ask' },
  { path: 'traffic/changes', title: 'Changes' },
  { path: 'traffic/functions', title: 'Functions' },
  { path: 'traffic/filters', title: 'Filters' },
  { path: 'traffic/network', title: 'Network' },
]
</script>

<template>
  <SidesHead title="Traffic" :note="note" :sides="SIDES"><slot /></SidesHead>
</template>

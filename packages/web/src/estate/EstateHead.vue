<script setup lang="ts">
import SidesHead from '../shared/SidesHead.vue'

/** The estate from its sides: devices, map, tables, and what people say of devices. */
defineProps<{ note: string }>()
const SIDES = [
  { path: 'estate', title: 'Devices' },
  { path: 'estate/map', title: 'Map' },
  { path: 'estate/tables', title: 'Tables' },
  { path: 'estate/groups', title: 'Groups' },
  { path: 'estate/labels', title: 'Labels and sites' },
  { path: 'estate/versions', title: 'Approved versions' },
]
</script>

<template>
  <SidesHead title="Estate" :note="note" :sides="SIDES"><slot /></SidesHead>
</template>

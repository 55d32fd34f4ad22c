<script setup lang="ts">
import { t } from '../messages/index.ts'
import SidesHead from '../shared/SidesHead.vue'

/** Changes from their sides: between two snapshots, in windows, against references, from what was approved. */
defineProps<{ note: string }>()
const SIDES = [{ path: 'changes', title: t('changes.overview') }]
</script>

<template>
  <SidesHead :title="$t('frame.changes')" :note="note" :sides="SIDES"><slot /></SidesHead>
</template>

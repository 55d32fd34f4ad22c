<script setup lang="ts">
import { t } from '../messages/index.ts'
import SidesHead from '../shared/SidesHead.vue'

/** Reports: to read and download, and evidence that others can verify. */
defineProps<{ note: string }>()
const SIDES = [
  { path: 'reports', title: t('reports.report') },
  { path: 'reports/evidence', title: t('reports.evidencePacks') },
]
</script>

<template>
  <SidesHead :title="$t('reports.reports')" :note="note" :sides="SIDES"><slot /></SidesHead>
</template>

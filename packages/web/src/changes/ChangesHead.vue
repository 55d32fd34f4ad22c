<script setup lang="ts">
import { t } from '../messages/index.ts'
import SidesHead from '../shared/SidesHead.vue'

/** Changes: between two snapshots, by checks, in windows, against references, from approved states. */
defineProps<{ note: string }>()
const SIDES = [
  { path: 'changes', title: t('changes.overview') },
  { path: 'changes/checks', title: t('changes.checks') },
  { path: 'changes/windows', title: t('changes.windows') },
  { path: 'changes/references', title: t('changes.references') },
  { path: 'changes/drift', title: t('changes.drift') },
]
</script>

<template>
  <SidesHead :title="$t('frame.changes')" :note="note" :sides="SIDES"><slot /></SidesHead>
</template>

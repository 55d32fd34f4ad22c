<script setup lang="ts">
import { t } from '../messages/index.ts'
import SidesHead from '../shared/SidesHead.vue'

/** The estate from its sides: devices, map, tables, and what people say of devices. */
defineProps<{ note: string }>()
const SIDES = [
  { path: 'estate', title: t('common.devices') },
  { path: 'estate/map', title: t('estate.map') },
  { path: 'estate/tables', title: t('estate.tables') },
  { path: 'estate/groups', title: t('common.groups') },
  { path: 'estate/labels', title: t('estate.labelsAndSites') },
  { path: 'estate/versions', title: t('estate.approvedVersions') },
]
</script>

<template>
  <SidesHead :title="$t('estate.estate')" :note="note" :sides="SIDES"><slot /></SidesHead>
</template>

<script setup lang="ts">
import { t } from '../messages/index.ts'
import SidesHead from '../shared/SidesHead.vue'

/** The time line of the engagement, and its trends. */
defineProps<{ note: string }>()
const SIDES = [
  { path: 'chronicle', title: t('chronicle.timeLine') },
  { path: 'chronicle/trends', title: t('chronicle.trends') },
]
</script>

<template>
  <SidesHead :title="$t('chronicle.title')" :note="note" :sides="SIDES"><slot /></SidesHead>
</template>

<script setup lang="ts">
import { t } from '../messages/index.ts'
import EmptyPage from '../shared/EmptyPage.vue'
import { useEngagement } from '../stores/engagement.ts'
import SidesHead from '../shared/SidesHead.vue'

/**
 * Traffic from its sides: what is expected, what people ask, what changed, what gets through, what is odd about filters
 * and about how devices fit together.
 */
defineProps<{ note: string }>()
const engagement = useEngagement()
const SIDES = [
  { path: 'traffic', title: t('traffic.expectations') },
  { path: 'traffic/ask', title: t('traffic.ask') },
  { path: 'traffic/changes', title: t('traffic.changes') },
  { path: 'traffic/functions', title: t('traffic.functions') },
  { path: 'traffic/filters', title: t('common.filters') },
  { path: 'traffic/network', title: t('traffic.network') },
]
</script>

<template>
  <SidesHead :title="$t('traffic.traffic')" :note="note" :sides="SIDES"><slot /></SidesHead>
  <EmptyPage
    v-if="engagement.snapshots.length === 0"
    :title="$t('traffic.noSnapshotsYet')"
    :text="$t('traffic.trafficNeedsASnapshot')"
  >
    <v-btn variant="flat" :to="`/e/${engagement.id}/snapshots`">{{ $t('common.importConfigurations') }}</v-btn>
  </EmptyPage>
</template>

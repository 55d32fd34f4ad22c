<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { MapDevice, MapLink } from '@jurybox/api/estate'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import DataSheet from '../shared/DataSheet.vue'
import type { Column } from '../shared/columns.ts'
import { useEngagement } from '../stores/engagement.ts'
import { STANDINGS } from './map-graph.ts'

/** The map as a table: each link with what its ends say of each other. */
const props = defineProps<{ links: readonly MapLink[]; devices: readonly MapDevice[] }>()
const engagement = useEngagement()
const router = useRouter()
interface Row extends MapLink {
  id: number
}
const rows = computed<Row[]>(() => props.links.map((link, id) => ({ ...link, id })))
const columns: Column<Row>[] = [
  { key: 'a', title: t('common.device'), value: ({ a }) => a.device },
  { key: 'aport', title: t('estate.interface'), value: ({ a }) => a.port ?? '' },
  { key: 'b', title: t('estate.otherEnd'), value: ({ b }) => b.device },
  { key: 'bport', title: t('estate.itsInterface'), value: ({ b }) => b.port ?? '' },
  { key: 'standing', title: t('estate.stateTab'), value: ({ standing }) => STANDINGS[standing].title },
  { key: 'note', title: t('common.evidence'), value: ({ note }) => note },
]
/** At the line that tells of the link. */
function open({ a, b }: Row): void {
  const end = a.at ? a : b
  const device = props.devices.find(({ name }) => name === end.device)
  if (!device) return
  const query = end.at ? `?tab=state&record=${end.at.record}&line=${end.at.from}` : ''
  void router.push(`/e/${engagement.id}/estate/${device.id}${query}`)
}
</script>

<template>
  <DataSheet
    name="links"
    :label="$t('estate.links')"
    :one="$t('estate.oneLink')"
    :rows="rows"
    :columns="columns"
    height="max(300px, 100vh - 250px)"
    @open="open"
  />
</template>

<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import type { DeviceRow } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import DataSheet, { type Column } from '../shared/DataSheet.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import VerdictBar from '../shared/VerdictBar.vue'
import { useEngagement } from '../stores/engagement.ts'

const engagement = useEngagement()
const router = useRouter()
const rows = ref<DeviceRow[]>([])
const loaded = ref(false)
const problem = ref('')

async function load(): Promise<void> {
  try {
    rows.value = (await api.get<{ devices: DeviceRow[] }>(`${engagement.base}/devices`, { snapshot: engagement.b?.id })).devices
    problem.value = ''
  } catch (error) {
    problem.value = wordsOf(error)
  } finally {
    loaded.value = true
  }
}
watch([() => engagement.b?.id, () => engagement.audit?.id], load, { immediate: true })

const labelsOf = (row: DeviceRow): string => Object.entries(row.facts.labels ?? {}).map(([name, value]) => (value === true || value === 'true' ? name.replaceAll('_', ' ') : `${name.replaceAll('_', ' ')}: ${String(value)}`)).join(', ')
const columns: Column<DeviceRow>[] = [
  { key: 'name', title: 'Device', value: (row) => row.name },
  { key: 'site', title: 'Site', value: (row) => row.facts.site ?? '' },
  { key: 'role', title: 'Role', value: (row) => row.facts.role ?? '' },
  { key: 'model', title: 'Model', value: (row) => row.facts.model ?? '', hidden: true },
  { key: 'version', title: 'Version', value: (row) => [row.facts.os, row.facts.version].filter(Boolean).join(' ') },
  { key: 'labels', title: 'Labels', value: labelsOf },
  { key: 'dialect', title: 'Dialect', value: (row) => row.dialect, hidden: true },
  { key: 'lines', title: 'Lines', value: (row) => row.lines, numeric: true, hidden: true },
  { key: 'unread', title: 'Unread', value: (row) => row.unread, numeric: true },
  { key: 'taken', title: 'Record', value: (row) => row.takenAt ?? '' },
  { key: 'fail', title: 'Fail', value: (row) => row.counts.fail ?? 0, numeric: true },
  { key: 'verdicts', title: 'Verdicts', value: (row) => Object.values(row.counts).reduce((sum, count) => sum + count, 0), width: '120px', noFilter: true },
]
const sites = computed(() => new Set(rows.value.map((row) => row.facts.site ?? '')).size)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>Estate</h1>
        <p v-if="rows.length > 0" class="quiet">{{ rows.length }} devices at {{ sites }} sites, as of “{{ engagement.b?.title }}”</p>
      </div>
      <v-btn v-if="rows.length > 0 && engagement.may.bringIn" to="snapshots">Bring devices in</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <EmptyPage v-if="loaded && rows.length === 0 && !problem" title="No devices yet" text="The estate is made of the devices whose configurations have been brought in. Drop files, a folder or a zip to begin.">
      <v-btn v-if="engagement.may.bringIn" variant="flat" to="snapshots">Bring devices in</v-btn>
      <v-btn v-if="engagement.may.manage" to="set-up">Set up collecting</v-btn>
    </EmptyPage>
    <DataSheet v-else-if="loaded && rows.length > 0" name="estate" label="devices" :rows="rows" :columns="columns" height="calc(100vh - 210px)" @open="(row) => router.push(`estate/${row.id}`)">
      <template #name="{ row }"><router-link :to="`estate/${row.id}`" tabindex="-1" @click.stop>{{ row.name }}</router-link></template>
      <template #unread="{ row }"><span :title="row.whole ? undefined : 'The record is not whole'">{{ row.unread }}{{ row.whole ? '' : ' · not whole' }}</span></template>
      <template #taken="{ row }"><AgeText :at="row.takenAt" :source="row.timeSource" /><span v-if="row.carried" class="quiet"> carried over</span></template>
      <template #labels="{ row }"><span class="labels" :title="labelsOf(row)">{{ labelsOf(row) }}</span></template>
      <template #verdicts="{ row }"><VerdictBar :counts="row.counts" /></template>
    </DataSheet>
  </div>
</template>

<style scoped>
.labels { display: block; max-width: 200px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>

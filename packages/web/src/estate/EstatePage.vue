<script setup lang="ts">
import { t } from '../messages/index.ts'
import { type DeviceRow, listDevices } from '@jurybox/api/devices'
import { type StandingRow, listStandings } from '@jurybox/api/estate'
import { listGroups } from '@jurybox/api/groups'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import AgeText from '../shared/AgeText.vue'
import DataSheet from '../shared/DataSheet.vue'
import type { Column } from '../shared/columns.ts'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import VerdictBar from '../shared/VerdictBar.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import ApprovedMark from './ApprovedMark.vue'
import { APPROVED_WORDS } from './approved-words.ts'
import EstateHead from './EstateHead.vue'
import LabelDialog from './LabelDialog.vue'

/** A device with the standing of its version, once that is known. */
type EstateRow = DeviceRow & { standing?: StandingRow }

/** All devices, or those of a group. */
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const selected = ref<(number | string)[]>([])
const labelling = ref(false)

const group = computed({
  get: () => String(route.query['group'] ?? ''),
  set: (title: string | null) =>
    void router.push({
      query: title
        ? { ...route.query, group: title }
        : Object.fromEntries(Object.entries(route.query).filter(([key]) => key !== 'group')),
    }),
})
const ofSnapshot = () => ({ query: { snapshot: engagement.b?.id } })
const { data: list, problem, load: loadDevices } = useQuery(listDevices, ofSnapshot)
const { data: said, problem: unsaid, reading, stop, load: loadStandings } = useQuery(listStandings, ofSnapshot)
async function load(): Promise<void> {
  await Promise.all([loadDevices(), loadStandings()])
}
watch(
  () => engagement.audit?.id,
  () => void load(),
)
const devices = computed(() => list.value?.devices ?? [])
const standing = computed(() => new Map((said.value ?? []).map((one) => [one.id, one])))
const named = computed(() => [...new Set((said.value ?? []).flatMap((one) => one.groups))])
/** A group without members is asked for where it is the one that is shown. */
const { data: saved, problem: unlisted } = useQuery(listGroups, () =>
  said.value && group.value !== '' && !named.value.includes(group.value) ? {} : null,
)
const groups = computed(() => [...new Set([...named.value, ...(saved.value ?? []).map(({ title }) => title)])].sort())
const rows = computed<EstateRow[]>(() =>
  devices.value
    .map((device) => ({ ...device, standing: standing.value.get(device.id) }))
    .filter((row) => group.value === '' || row.standing?.groups.includes(group.value)),
)
const labelsOf = (row: EstateRow): string =>
  Object.entries(row.facts.labels ?? {})
    .map(([name, value]) =>
      value === true
        ? name.replaceAll('_', ' ')
        : `${name.replaceAll('_', ' ')}: ${value === false ? 'no' : String(value)}`,
    )
    .join(', ')
const columns = computed<Column<EstateRow>[]>(() => [
  { key: 'name', title: t('common.device'), value: (row) => row.name },
  { key: 'site', title: t('estate.site'), value: (row) => row.facts.site ?? '' },
  { key: 'role', title: t('common.role'), value: (row) => row.facts.role ?? '' },
  {
    key: 'model',
    title: t('common.model'),
    value: (row) => row.standing?.model ?? row.facts.model ?? '',
    hidden: true,
  },
  {
    key: 'version',
    title: t('estate.version'),
    value: (row) => [row.facts.os, row.standing?.version ?? row.facts.version].filter(Boolean).join(' '),
  },
  {
    key: 'approved',
    title: t('estate.approved'),
    value: (row) => (row.standing ? APPROVED_WORDS[row.standing.approved] : ''),
    hidden: ![...standing.value.values()].some(({ approved }) => approved !== 'none'),
  },
  { key: 'labels', title: t('estate.labels'), value: labelsOf },
  { key: 'groups', title: t('common.groups'), value: (row) => row.standing?.groups.join(', ') ?? '', hidden: true },
  { key: 'serial', title: t('estate.serialNumber'), value: (row) => row.standing?.serial ?? '', hidden: true },
  { key: 'dialect', title: t('estate.dialect'), value: (row) => row.dialect, hidden: true },
  { key: 'lines', title: t('common.lines'), value: (row) => row.lines, numeric: true, hidden: true },
  { key: 'unread', title: t('estate.unparsed'), value: (row) => row.unread, numeric: true },
  { key: 'taken', title: t('common.record'), value: (row) => row.takenAt ?? '' },
  { key: 'changed', title: t('estate.unchangedSince'), value: (row) => row.changedAt ?? '', hidden: true },
  { key: 'fail', title: t('estate.fail'), value: (row) => row.counts.fail ?? 0, numeric: true },
  {
    key: 'verdicts',
    title: t('common.verdicts'),
    value: (row) => Object.values(row.counts).reduce((sum, count) => sum + count, 0),
    width: '120px',
    noFilter: true,
  },
])
const sites = computed(() => new Set(rows.value.map((row) => row.facts.site ?? '')).size)
const chosen = computed(() =>
  rows.value
    .filter(({ id }) => selected.value.includes(id))
    .map(({ id, name, facts }) => ({ id, name, labels: facts.labels ?? {} })),
)
async function labelled(): Promise<void> {
  labelling.value = false
  selected.value = []
  await load()
}
</script>

<template>
  <div class="page">
    <EstateHead
      :note="
        devices.length > 0
          ? $t('estate.devicesAtSitesAsOf', { rows: rows.length, sites, title: engagement.b?.title })
          : ''
      "
    >
      <v-btn v-if="chosen.length > 0 && engagement.may.describe" @click="labelling = true">{{
        $t('estate.setLabelOn', { chosen: chosen.length })
      }}</v-btn>
      <v-select
        v-if="groups.length > 0"
        :model-value="group || null"
        :items="groups"
        :label="$t('estate.group')"
        clearable
        hide-details
        class="group"
        @update:model-value="group = $event"
      />
      <v-btn v-if="devices.length > 0 && engagement.may.import" to="snapshots">{{
        $t('common.importConfigurations')
      }}</v-btn>
    </EstateHead>
    <ProblemNote :text="problem || unsaid || unlisted" />
    <ReadingNote :reading="reading" @stop="stop" />
    <EmptyPage
      v-if="list && devices.length === 0 && !problem"
      :title="$t('estate.noDevicesYet')"
      :text="$t('estate.devicesAppearHereOnceTheir')"
    >
      <v-btn v-if="engagement.may.import" variant="flat" to="snapshots">{{ $t('common.importConfigurations') }}</v-btn>
      <v-btn v-if="engagement.may.manage" to="set-up">{{ $t('estate.connectToDevices') }}</v-btn>
    </EmptyPage>
    <DataSheet
      v-else-if="devices.length > 0"
      v-model:selected="selected"
      name="estate"
      :label="$t('estate.devices')"
      :one="$t('estate.singleDevice')"
      :rows="rows"
      :columns="columns"
      :selectable="engagement.may.describe"
      height="max(300px, 100vh - 250px)"
      @open="(row) => router.push(`estate/${row.id}`)"
    >
      <template #name="{ row }"
        ><router-link :to="`estate/${row.id}`" tabindex="-1" class="whole" @click.stop>{{
          row.name
        }}</router-link></template
      >
      <template #version="{ row }"
        ><span class="whole">{{
          [row.facts.os, row.standing?.version ?? row.facts.version].filter(Boolean).join(' ')
        }}</span></template
      >
      <template #approved="{ row }"
        ><ApprovedMark :standing="row.standing?.approved" :why="row.standing?.why"
      /></template>
      <template #unread="{ row }"
        ><span :title="row.whole ? undefined : $t('estate.theRecordIsIncomplete')"
          >{{ row.unread }}{{ row.whole ? '' : $t('estate.incomplete') }}</span
        ></template
      >
      <template #taken="{ row }"
        ><AgeText :at="row.takenAt" :source="row.timeSource" /><span v-if="row.down" class="down" :title="row.down"
          >{{ ' ' }}{{ $t('estate.notReached') }}</span
        ><span v-else-if="row.carried" class="quiet">{{ ' ' }}{{ $t('estate.carriedOver') }}</span></template
      >
      <template #changed="{ row }"><AgeText :at="row.changedAt" /></template>
      <template #labels="{ row }"
        ><span class="labels" :title="labelsOf(row)">{{ labelsOf(row) }}</span></template
      >
      <template #groups="{ row }"
        ><span class="labels" :title="row.standing?.groups.join(', ')">{{
          row.standing?.groups.join(', ')
        }}</span></template
      >
      <template #verdicts="{ row }"><VerdictBar :counts="row.counts" /></template>
    </DataSheet>
    <LabelDialog v-if="labelling" :devices="chosen" @done="labelled" @left="labelling = false" />
  </div>
</template>

<style scoped>
.whole {
  white-space: nowrap;
}
.labels {
  display: block;
  max-width: 130px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media print {
  .labels {
    min-width: 170px;
  }
}
.group {
  max-width: 230px;
  min-width: 200px;
}
.down {
  color: rgb(var(--v-theme-fail));
}
</style>

<script setup lang="ts">
import { t } from '../messages/index.ts'
import { type TableView, getEstateTable } from '@jurybox/api/estate'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import DataSheet from '../shared/DataSheet.vue'
import type { Column } from '../shared/columns.ts'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import EstateHead from './EstateHead.vue'
import { lineWords } from '../shared/words.ts'

/** Tables over all devices; each row opens the lines that it stands on. */
const engagement = useEngagement()
const exhibit = useExhibit()
const route = useRoute()
const router = useRouter()
const opened = ref<Row | null>(null)
type Row = TableView['rows'][number]
const TABLES = [
  { id: 'subnets', title: t('estate.subnets') },
  { id: 'vlans', title: t('estate.vLANs') },
  { id: 'redundancy', title: t('estate.redundancyGroups') },
  { id: 'versions', title: t('estate.versions') },
  { id: 'models', title: t('estate.models') },
  { id: 'end-ports', title: t('estate.edgePorts') },
]
const table = computed({
  get: () => TABLES.find(({ id }) => id === route.query['table'])?.id ?? 'subnets',
  set: (id: string) => void router.push({ query: { table: id } }),
})
const {
  data: view,
  problem,
  reading,
  stop,
} = useQuery(getEstateTable, () => ({ params: { table: table.value }, query: { snapshot: engagement.b?.id } }))
watch([table, () => engagement.b?.id], () => (opened.value = null))
const columns = computed<Column<Row>[]>(() => [
  ...(view.value?.columns ?? []).map(({ key, title, numeric }): Column<Row> => ({
    key,
    title,
    numeric: numeric ?? false,
    value: (row) => row.values[key] ?? '',
    hidden:
      view.value?.rows.every((row) => row.values[key] === view.value?.rows[0]?.values[key]) === true &&
      (view.value?.rows.length ?? 0) > 1,
  })),
  ...(table.value === 'end-ports'
    ? []
    : [
        {
          key: 'who',
          title: t('estate.where'),
          value: (row: Row) => [...new Set(row.members.map(({ device }) => device))].join(', '),
        },
      ]),
])
/** What the row is about, without what it counts. */
const titleOf = ({ values }: Row): string =>
  Object.entries(values)
    .filter(([key, value]) => key !== 'devices' && key !== 'places' && value !== '')
    .map(([, value]) => value)
    .join(' · ')
async function open(row: Row): Promise<void> {
  opened.value = row
  const [first] = row.members.filter(({ at }) => at !== null)
  if (first) await show(first)
}
async function show({ at }: Row['members'][number]): Promise<void> {
  if (!at) return
  await exhibit.reveal(at.record, [{ from: at.from, to: at.to, absent: false }])
}
</script>

<template>
  <div class="page">
    <EstateHead :note="$t('estate.allDevicesAsOfEach', { title: engagement.b?.title ?? '' })" />
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <div class="choice" role="group" :aria-label="$t('estate.table')">
      <v-btn
        v-for="{ id, title } in TABLES"
        :key="id"
        size="small"
        :variant="id === table ? 'flat' : 'outlined'"
        :aria-pressed="id === table"
        @click="table = id"
        >{{ title }}</v-btn
      >
    </div>
    <EmptyPage
      v-if="view && view.rows.length === 0"
      :title="$t('estate.noEntries')"
      :text="$t('estate.noRecordOfThisSnapshot')"
    />
    <DataSheet
      v-else-if="view"
      :key="table"
      :name="table"
      :label="(TABLES.find(({ id }) => id === table)?.title ?? '').toLowerCase().replace('vlans', 'VLANs')"
      :rows="view.rows"
      :columns="columns"
      height="max(300px, 100vh - 420px)"
      @open="open"
    >
      <template #who="{ row }"
        ><span class="who" :title="[...new Set(row.members.map(({ device }) => device))].join(', ')">{{
          [...new Set(row.members.map(({ device }) => device))].join(', ')
        }}</span></template
      >
    </DataSheet>
    <section v-if="opened" class="panel members" aria-live="polite">
      <h2>{{ titleOf(opened) }}</h2>
      <ul>
        <li v-for="(member, i) in opened.members" :key="i">
          <button v-if="member.at" type="button" class="as-link" @click="show(member)">
            {{ member.device }}</button><router-link
            v-else
            :to="`/e/${engagement.id}/estate/${member.deviceId ?? 0}`"
            >{{ member.device }}</router-link
          >{{ ' ' }} <span>{{ member.what }}</span>{{ ' '
          }}<span class="quiet">{{ member.at ? lineWords(member.at.from) : $t('estate.fromDeviceFacts') }}</span>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.choice {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 10px;
}
.members {
  margin-top: 12px;
  padding: 10px 14px;
  max-height: 180px;
  overflow: auto;
}
.members li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 7px;
  align-items: baseline;
  break-inside: avoid;
}
.members ul {
  list-style: none;
  columns: 2;
  margin: 4px 0 0;
  padding: 0;
}
.who {
  display: block;
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>

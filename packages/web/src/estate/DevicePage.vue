<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import { downloadRecord } from '@jurybox/api/archive'
import { getDevice, getDeviceModel, getDeviceState, listDeviceVerdicts, setDialect } from '@jurybox/api/devices'
import type { DeviceLabel } from '@jurybox/api/labels'
import { computed, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call, addressOf } from '../api/client.ts'
import { absoluteTime } from '../shared/time.ts'
import ProbePanel from '../collect/ProbePanel.vue'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { OUTCOMES } from '../shared/outcomes.ts'
import { useDialects } from '../stores/dialects.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import HistoryList from './HistoryList.vue'
import ModelTables from './ModelTables.vue'
import { provideOrigins, sayingsOf } from './model-context.ts'
import SecurityTables from './SecurityTables.vue'
import StateTables from './StateTables.vue'

/** One device: its facts, verdicts, what its configuration says by parts, and its records. */
const route = useRoute()
const router = useRouter()
const engagement = useEngagement()
const exhibit = useExhibit()
/** The device of the address; null while another page is on its way. */
const asked = () => {
  const id = route.params['device']
  return id === undefined ? null : { params: { device: Number(id) }, query: { snapshot: engagement.b?.id } }
}
/** Four answers: none of one device beside those of another. */
const AFRESH = { afresh: true }
const read = useQuery(getDevice, asked, AFRESH)
const judged = useQuery(listDeviceVerdicts, asked, AFRESH)
const said = useQuery(getDeviceModel, asked, AFRESH)
const seen = useQuery(getDeviceState, asked, AFRESH)
const { data: device, attempt } = read
const { data: model } = said
const { data: state } = seen
const verdicts = computed(() => judged.data.value ?? [])
const answers = [read, judged, said, seen]
const problem = computed(() => answers.map((one) => one.problem.value).find(Boolean) ?? '')
/** Which tabs there are is told by all four. */
const complete = computed(() => answers.every(({ data }) => data.value !== null))
provideOrigins(model)
watch(model, (now) => {
  if (!now) return
  exhibit.sayings = sayingsOf(now)
  const wanted = Number(route.query['record']) || now.record
  const line = Number(route.query['line'])
  if (wanted) void exhibit.show(wanted, line > 0 ? [{ from: line, to: line, absent: false }] : [])
})
const tab = computed({
  get: () => String(route.query['tab'] ?? 'verdicts'),
  set: (tab) => void router.push({ query: { ...route.query, tab } }),
})
const sorted = computed(() =>
  verdicts.value.toSorted((a, b) => OUTCOMES.indexOf(a.outcome) - OUTCOMES.indexOf(b.outcome)),
)

const dialects = useDialects()
void dialects.load()
/** How sure it is that the configuration is in this dialect. */
const confidence = computed(() => {
  const looks = model.value?.looksLike
  if (looks === undefined) return ''
  if (looks?.dialect !== device.value?.dialect) return t('estate.setByAPerson')
  return t('estate.matched', { round: Math.round((looks?.share ?? 0) * 100) })
})
/** The records stay as they are; only how they are read changes, for the next audit too. */
async function readAs(dialect: string): Promise<void> {
  const wanted = { params: { device: Number(route.params['device']) }, body: { dialect } }
  if (!(await attempt(() => call(setDialect, wanted)))) return
  exhibit.clear()
  await Promise.all([judged.load(), said.load(), seen.load()])
}
const parts = computed(() => {
  const m = model.value?.model
  if (!m) return []
  return [
    { part: 'system', title: t('estate.system') },
    { part: 'interfaces', title: t('estate.interfaces', { interfaces: m.interfaces.length }) },
    { part: 'users', title: t('estate.access', { terminals: m.system.users.length + m.system.terminals.length }) },
    { part: 'lists', title: t('estate.accessLists', { accessLists: m.accessLists.length }) },
    {
      part: 'routes',
      title: t('estate.routes', {
        m: m.staticRoutes.length + m.ospf.length + m.bgp.reduce((sum, one) => sum + one.neighbours.length, 0),
      }),
    },
    {
      part: 'security',
      title: t('estate.security', {
        macsec:
          m.zones.length +
          m.zonePolicies.length +
          m.nat.length +
          m.ikeProposals.length +
          m.espProposals.length +
          m.ipsecPolicies.length +
          m.ipsecPeers.length +
          m.trustPoints.length +
          m.macsec.length,
      }),
    },
    { part: 'unread', title: t('estate.unparsedModel', { model: model.value?.unread.length ?? 0 }) },
  ]
})
/** What the configuration says is one side of the device; its parts are chosen below. */
const side = computed({
  get: () => (parts.value.some(({ part }) => part === tab.value) ? 'configuration' : tab.value),
  set: (chosen) => (tab.value = chosen === 'configuration' ? 'system' : chosen),
})
const facts = computed(() => {
  const f = device.value?.facts
  if (!f) return []
  return (
    [
      [t('estate.site'), f.site],
      [t('common.role'), f.role],
      [t('common.model'), f.model],
      [t('estate.software'), [f.os, f.version ?? model.value?.model.system.version].filter(Boolean).join(' ')],
      [t('estate.managementAddress'), f.managementAddress],
    ] as const
  ).filter(([, value]) => value)
})
/** Who set a label, and when. */
function setBy({ how, by, at }: DeviceLabel): string {
  if (how === 'snapshot') return t('estate.fromASnapshot')
  const who =
    how === 'rule'
      ? t('estate.setByAFactRule')
      : how === 'list'
        ? t('estate.fromAListImportedBy', { by })
        : t('estate.setBy', { by })
  return at === null ? who : `${who}, ${absoluteTime(at)}`
}
const verdictColumns: Column<(typeof sorted.value)[number]>[] = [
  { key: 'outcome', title: t('common.outcome'), value: ({ outcome }) => outcome, width: '130px' },
  { key: 'severity', title: t('common.severity'), value: ({ severity }) => severity, width: '100px' },
  { key: 'rule', title: t('common.rule'), value: ({ title, note }) => `${title}: ${note}`, raw: ({ rule }) => rule },
]
type HeldRecord = NonNullable<typeof device.value>['records'][number]
const recordColumns: Column<HeldRecord>[] = [
  { key: 'record', title: t('common.record'), value: ({ title }) => title, raw: ({ path }) => path },
  { key: 'lines', title: t('common.lines'), value: ({ lineCount }) => lineCount, numeric: true },
  { key: 'unread', title: t('estate.unparsed'), value: ({ unread }) => unread, numeric: true },
  { key: 'captured', title: t('common.captured'), value: ({ takenAt }) => takenAt ?? '' },
]
</script>

<template>
  <div class="page">
    <EmptyPage v-if="problem && !device" whole :title="$t('estate.deviceCannotBeShown')" :text="problem">
      <v-btn variant="flat" :to="`/e/${engagement.id}/estate`">{{ $t('estate.goToEstate') }}</v-btn>
    </EmptyPage>
    <ProblemNote v-else :text="problem" />
    <template v-if="device && complete">
      <div class="page-head">
        <div class="grow">
          <p class="quiet">
            <router-link to="../estate">{{ $t('estate.estate') }}</router-link> ▸
          </p>
          <h1>{{ device.name }}</h1>
        </div>
        <v-btn
          v-if="engagement.a"
          variant="text"
          :to="{ path: `/e/${engagement.id}/changes/device`, query: { device: device.name } }"
          >{{ $t('frame.changes') }}</v-btn
        >
        <v-btn variant="text" :to="{ path: `/e/${engagement.id}/chronicle`, query: { device: device.name } }">{{
          $t('frame.chronicle')
        }}</v-btn>
      </div>
      <dl class="facts panel">
        <div v-for="[name, value] in facts" :key="name">
          <dt class="quiet">{{ name }}</dt>
          <dd>{{ value }}</dd>
        </div>
        <div v-for="one in device.labels" :key="one.label">
          <dt class="quiet">{{ one.label.replaceAll('_', ' ') }}</dt>
          <dd :title="setBy(one)">
            {{ typeof one.value === 'boolean' ? (one.value ? 'yes' : 'no') : one.value
            }}<span class="sr">, {{ setBy(one) }}</span>
          </dd>
        </div>
        <div>
          <dt class="quiet">{{ $t('estate.dialect') }}</dt>
          <dd v-if="!engagement.may.import">{{ dialects.nameOf(device.dialect) }}</dd>
          <dd v-else>
            <v-menu>
              <template #activator="{ props: menu }"
                ><button type="button" class="as-link" v-bind="menu" :title="$t('estate.parseInAnotherDialect')">
                  {{ dialects.nameOf(device.dialect) }}
                </button></template
              >
              <v-list density="compact">
                <v-list-item
                  v-for="one in dialects.all"
                  :key="one.id"
                  :active="one.id === device.dialect"
                  :title="one.title"
                  :subtitle="one.id"
                  @click="readAs(one.id)"
                />
              </v-list>
            </v-menu>
            <span class="quiet sure">{{ confidence }}</span>
          </dd>
        </div>
      </dl>
      <v-tabs v-model="side" density="compact" class="sides" :show-arrows="false">
        <v-tab value="verdicts">{{ $t('estate.verdicts', { verdicts: verdicts.length }) }}</v-tab>
        <v-tab v-if="parts.length > 0" value="configuration">{{ $t('estate.configuration') }}</v-tab>
        <v-tab v-if="state && state.records.length > 0" value="state">{{
          $t('estate.state', { records: state.records.length })
        }}</v-tab>
        <v-tab value="records">{{ $t('estate.records', { records: device.records.length }) }}</v-tab>
        <v-tab value="history">{{ $t('estate.history') }}</v-tab>
      </v-tabs>
      <nav v-if="side === 'configuration'" class="parts" :aria-label="$t('estate.configuration')">
        <router-link
          v-for="{ part, title } in parts"
          :key="part"
          :to="{ query: { ...route.query, tab: part } }"
          :aria-current="part === tab ? 'true' : undefined"
          >{{ title }}</router-link
        >
      </nav>
      <div v-if="tab === 'records' && engagement.may.collect" class="panel ask">
        <ProbePanel :device="device.name" />
      </div>
      <div class="panel">
        <DataTable
          v-if="tab === 'verdicts'"
          name="verdicts"
          :label="$t('common.verdicts')"
          :rows="sorted"
          :columns="verdictColumns"
          :empty="$t('estate.noAuditOfThisSnapshot')"
        >
          <template #outcome="{ row: verdict }"><VerdictMark :outcome="verdict.outcome" /></template>
          <template #severity="{ row: verdict }"><SeverityNotches :severity="verdict.severity" /></template>
          <template #rule="{ row: verdict }">
            <router-link :to="`/e/${engagement.id}/verdicts/${verdict.auditId}/${verdict.id}`">{{
              verdict.title
            }}</router-link>
            <div class="quiet">{{ verdict.note }}</div>
          </template>
        </DataTable>
        <StateTables v-else-if="tab === 'state' && state" :view="state" />
        <SecurityTables v-else-if="tab === 'security' && model" :view="model" />
        <ModelTables v-else-if="model && parts.some(({ part }) => part === tab)" :part="tab" :view="model" />
        <HistoryList v-else-if="tab === 'history'" :device="device.id" />
        <DataTable v-else name="records" :label="$t('common.record')" :rows="device.records" :columns="recordColumns">
          <template #record="{ row: record }">
            <button type="button" class="as-link" @click="exhibit.show(record.id)">{{ record.title }}</button>
            <div class="quiet">
              {{ record.path }} ·
              <a
                :href="addressOf(downloadRecord, { params: { record: record.id } })"
                download
                :aria-label="$t('estate.downloadMasked', { record: record.title })"
                >{{ $t('estate.downloadMaskedRecords') }}</a
              >
            </div>
          </template>
          <template #captured="{ row: record }">
            <AgeText :at="record.takenAt" :source="record.timeSource" /><span v-if="record.carried" class="quiet"
              >{{ ' ' }}{{ $t('estate.carriedOver') }}</span
            >
          </template>
        </DataTable>
      </div>
    </template>
  </div>
</template>

<style scoped>
.sure {
  margin-left: 6px;
}
.ask {
  margin-bottom: 10px;
}
.sides {
  height: 34px !important;
}
.sides :deep(.v-tab) {
  min-width: 0;
  padding: 0 11px;
  height: 34px;
}
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  padding: 6px 12px;
}
.parts a {
  min-height: 24px;
  color: rgb(var(--v-theme-on-surface));
  text-decoration: none;
}
.parts a[aria-current] {
  font-weight: 600;
  color: rgb(var(--v-theme-primary));
  text-decoration: underline;
  text-underline-offset: 4px;
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 28px;
  padding: 10px 14px;
  margin: 0 0 12px;
}
.facts dt {
  font-size: 12.5px;
}
.facts dd {
  margin: 0;
}
</style>

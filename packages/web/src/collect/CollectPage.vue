<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { useConfirm } from '../stores/confirm.ts'
import { counted, t } from '../messages/index.ts'
import type { ResponseOf } from '@jurybox/api/endpoint'
import {
  type ConnectionRow,
  deleteConnection,
  deleteHostKey,
  listConnections,
  listCredentials,
  setConnectRanges,
  startCollection,
  testConnection,
} from '@jurybox/api/collecting'
import type { DeviceResult, JobView } from '@jurybox/api/jobs'
import { computed, ref, watch } from 'vue'
import { call } from '../api/client.ts'
import { useAskedAction } from '../shared/asked-action.ts'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'
import AlertList from './AlertList.vue'
import CredentialList from './CredentialList.vue'
import ConnectionDialog from './ConnectionDialog.vue'
import ScheduleList from './ScheduleList.vue'
import { absoluteTime } from '../shared/time.ts'
import { useDialects } from '../stores/dialects.ts'

const confirm = useConfirm()

/** Devices that records are fetched from, how each is reached, and how far the last collection came on it. */
const engagement = useEngagement()
const dialects = useDialects()
void dialects.load()
const jobs = useJobs()
const { data: view, problem, load: loadConnections, attempt } = useQuery(listConnections, () => ({}))
const { data: credentials, problem: unlisted, load: loadCredentials } = useQuery(listCredentials, () => ({}))
const load = () => Promise.all([loadConnections(), loadCredentials()])
const chosen = ref(new Set<string>())
const opened = ref<string | null>(null)
const ranges = ref('')
const editing = ref<ConnectionRow | 'new' | null>(null)
useAskedAction('add-devices', () => engagement.may.manage && (editing.value = 'new'))

const savedRanges = computed(() => view.value?.connectRanges.join(', ') ?? '')
watch(savedRanges, (saved) => (ranges.value = saved))
const collections = computed(() => jobs.jobs.filter(({ kind }) => kind === 'collect'))
const running = computed<JobView | null>(() => collections.value.find(({ state }) => state === 'running') ?? null)
watch(running, (now, before) => {
  if (before && !now) void load()
})
/** What became of each device when it was asked last. */
const results = computed(() => {
  const found = new Map<string, DeviceResult & { at: string }>()
  for (const job of collections.value.toReversed())
    for (const result of job.params.results ?? [])
      found.set(result.device, { ...result, at: job.finishedAt ?? job.createdAt })
  return found
})
const missing = computed(() =>
  [...results.value.values()]
    .filter(({ ok, device }) => !ok && view.value?.devices.some((one) => one.device === device))
    .map(({ device }) => device),
)
const shown = computed(() => (opened.value === null ? null : (results.value.get(opened.value) ?? null)))
/** How far a device came: steps that were done, the one at which it stopped, those that were not come to. */
function stateOf(step: string, at: string | null): 'done' | 'stopped' | 'open' {
  const order = view.value?.steps.map((one) => one.step) ?? []
  if (at === null) return 'done'
  return order.indexOf(step) < order.indexOf(at) ? 'done' : step === at ? 'stopped' : 'open'
}

/* A dry test of one device */
const testing = ref<string | null>(null)
const tested = ref<(ResponseOf<typeof testConnection> & { device: string }) | null>(null)
const RUNG_CLASSES = { passed: 'done', failed: 'stopped', 'not-reached': 'open' } as const
const RUNG_WORDS = {
  passed: t('collect.passed'),
  failed: t('collect.failedHere'),
  'not-reached': t('collect.notReached'),
} as const
async function test(device: string): Promise<void> {
  testing.value = device
  await attempt(async () => {
    tested.value = { device, ...(await call(testConnection, { params: { name: device } })) }
  })
  testing.value = null
}

const collect = (devices: readonly string[] | null) =>
  attempt(async () => {
    const title = t('collect.collectedUtc', { at: absoluteTime(new Date().toISOString()) })
    jobs.hear(await call(startCollection, { body: { devices, title } }))
    chosen.value = new Set()
  })
const keepRanges = () =>
  attempt(() => call(setConnectRanges, { body: { ranges: ranges.value.split(/[\s,;]+/).filter(Boolean) } }))
const remove = async (device: string): Promise<void> => {
  const question = {
    title: t('collect.removeFromCollection', { device }),
    text: t('collect.recordsAreKept'),
    action: t('collect.removeDevice'),
  }
  if (await confirm.ask(question)) await attempt(() => call(deleteConnection, { params: { name: device } }))
}
const forgetKey = (device: string): Promise<void> =>
  confirm.deletion(
    t('collect.kindHostKey'),
    device,
    () => attempt(() => call(deleteHostKey, { params: { name: device } })),
    t('collect.nextKeyIsAccepted'),
  )
function choose(device: string): void {
  const next = new Set(chosen.value)
  if (!next.delete(device)) next.add(device)
  chosen.value = next
}
function resultOf(device: string): string {
  const result = results.value.get(device)
  if (!result) return t('common.never')
  return result.ok ? counted('collect.records', result.records) : t('collect.stoppedAt', { step: result.step })
}
const columns: Column<NonNullable<typeof view.value>['devices'][number]>[] = [
  { key: 'select', title: t('collect.select'), value: () => '', acts: true },
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'address', title: t('collect.address'), value: ({ address, port }) => `${address}:${port}`, mono: true },
  { key: 'key', title: t('collect.hostKey'), value: ({ hostKey }) => hostKey ?? '' },
  { key: 'last', title: t('collect.lastCollection'), value: ({ device }) => resultOf(device) },
  { key: 'actions', title: t('common.actions'), value: () => '', acts: true },
]
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <p class="quiet">
          <router-link to="../snapshots">{{ $t('common.snapshots') }}</router-link> ▸
        </p>
        <h1>{{ $t('collect.collection') }}</h1>
        <p class="quiet">
          {{ $t('collect.collectsConfigurationsAndStatesOver') }}
        </p>
      </div>
      <template v-if="view && view.devices.length > 0 && engagement.may.collect">
        <v-btn v-if="running" @click="attempt(() => jobs.stop(running as JobView))">{{
          $t('collect.stopOf', { done: running.done, total: running.total })
        }}</v-btn>
        <template v-else>
          <v-btn v-if="missing.length > 0 && chosen.size === 0" @click="collect(missing)">{{
            $t('collect.retryFailed', { missing: missing.length })
          }}</v-btn>
          <v-btn v-if="chosen.size > 0" @click="collect([...chosen])">{{
            $t('collect.collectFromSelected', { chosen: chosen.size })
          }}</v-btn>
          <v-btn variant="flat" @click="collect(null)">{{
            $t('collect.collectFromAll', { devices: view.devices.length })
          }}</v-btn>
        </template>
      </template>
    </div>
    <ProblemNote :text="problem || unlisted" />
    <v-progress-linear
      v-if="running"
      :model-value="(100 * running.done) / Math.max(1, running.total)"
      color="primary"
      :aria-label="$t('collect.ofDevices', { done: running.done, total: running.total })"
    />
    <div v-if="view" class="layout">
      <EmptyPage
        v-if="view.devices.length === 0"
        :title="$t('collect.noConnectionsYet')"
        :text="$t('collect.addTheDevicesWithTheir')"
        ><v-btn v-if="engagement.may.manage" variant="flat" @click="editing = 'new'">{{
          $t('collect.addDevices')
        }}</v-btn></EmptyPage
      >
      <section v-else class="panel list">
        <DataTable
          name="connections"
          :label="$t('common.devices')"
          :rows="view.devices"
          :columns="columns"
          :row-key="({ device }) => device"
          :row-class="({ device }) => ({ here: opened === device })"
        >
          <template #select="{ row: device }">
            <input
              type="checkbox"
              :checked="chosen.has(device.device)"
              :aria-label="$t('collect.selectDevice', { device: device.device })"
              @change="choose(device.device)"
            />
          </template>
          <template #device="{ row: device }">
            {{ device.device }}
            <div class="quiet">
              {{ dialects.nameOf(device.dialect)
              }}<template v-if="device.netconfPort">{{ $t('collect.netconf') }}</template
              ><template v-if="device.snmpPort">{{ $t('collect.snmp') }}</template
              ><template v-if="device.old">{{ $t('collect.deprecatedAlgorithmsAllowed') }}</template>
            </div>
          </template>
          <template #key="{ row: device }">
            <code v-if="device.hostKey" :title="$t('collect.sha256', { hostKey: device.hostKey })"
              >{{ device.hostKey.slice(0, 10) }}…</code
            ><span v-else class="quiet">{{ $t('collect.notRecorded') }}</span>
          </template>
          <template #last="{ row: device }">
            <template v-if="results.get(device.device)">
              <button type="button" class="as-link" @click="opened = device.device">
                {{ resultOf(device.device) }}
              </button>
              <div class="quiet"><AgeText :at="results.get(device.device)?.at ?? ''" /></div>
            </template>
            <span v-else class="quiet">{{ $t('common.never') }}</span>
          </template>
          <template #actions="{ row: device }">
            <div class="acts">
              <v-btn
                v-if="engagement.may.collect"
                size="small"
                variant="text"
                :loading="testing === device.device"
                @click="test(device.device)"
                >{{ $t('collect.testDevice') }}</v-btn
              >
              <template v-if="engagement.may.manage">
                <v-btn size="small" variant="text" @click="editing = device">{{ $t('common.edit') }}</v-btn>
                <v-btn
                  v-if="results.get(device.device)?.step === 'key' && device.hostKey"
                  size="small"
                  variant="text"
                  @click="forgetKey(device.device)"
                  >{{ $t('collect.deleteHostKey') }}</v-btn
                >
                <v-btn size="small" variant="text" @click="remove(device.device)">{{ $t('common.remove') }}</v-btn>
              </template>
            </div>
          </template>
        </DataTable>
        <p v-if="engagement.may.manage" class="add">
          <v-btn size="small" @click="editing = 'new'">{{ $t('collect.addDevices') }}</v-btn>
        </p>
      </section>
      <aside class="side">
        <section v-if="tested" class="panel block" aria-live="polite">
          <h2>{{ $t('collect.testOf', { device: tested.device }) }}</h2>
          <p class="quiet">{{ $t('collect.nothingWasKept', { took: (tested.took / 1000).toFixed(1) }) }}</p>
          <ol class="ladder">
            <li v-for="one in tested.steps" :key="one.step" :class="RUNG_CLASSES[one.state]">
              <span class="rung" aria-hidden="true" />{{ one.title
              }}<span class="sr">: {{ RUNG_WORDS[one.state] }}</span>
              <p v-if="one.reason" class="reason">{{ one.reason }}</p>
            </li>
            <li v-for="one in tested.beside" :key="one.what" :class="one.ok ? 'done' : 'stopped'">
              <span class="rung" aria-hidden="true" />{{ one.what
              }}<span class="sr">: {{ one.ok ? RUNG_WORDS.passed : RUNG_WORDS.failed }}</span>
              <p v-if="one.reason" class="reason">{{ one.reason }}</p>
            </li>
          </ol>
        </section>
        <section v-if="shown" class="panel block" aria-live="polite">
          <h2>{{ shown.device }}</h2>
          <p class="quiet">
            {{
              shown.ok
                ? $t('collect.complete', { records: shown.records, shown: shown.records === 1 ? 'record' : 'records' })
                : $t('collect.steps')
            }}, <AgeText :at="shown.at" />
          </p>
          <ol class="ladder">
            <li v-for="{ step, title } in view.steps" :key="step" :class="stateOf(step, shown.step)">
              <span class="rung" aria-hidden="true" />{{ title
              }}<span class="sr"
                >:
                {{
                  { done: 'done', stopped: $t('collect.failedHere'), open: $t('collect.notReached') }[
                    stateOf(step, shown.step)
                  ]
                }}</span
              >
            </li>
          </ol>
          <p v-if="shown.reason" class="reason">{{ shown.reason }}</p>
          <p v-for="one in shown.without ?? []" :key="one" class="reason">{{ one }}</p>
        </section>
        <CredentialList :credentials="credentials ?? []" @changed="load" />
        <section v-if="engagement.may.manage || view.connectRanges.length > 0" class="panel block">
          <h2>{{ $t('collect.portCheck') }}</h2>
          <p class="quiet">
            {{ $t('collect.withinThesePrefixesACollection') }}
          </p>
          <form class="ranges" @submit.prevent="keepRanges">
            <v-text-field
              v-model="ranges"
              :label="$t('collect.prefixesSeparatedByCommasEmpty')"
              :readonly="!engagement.may.manage"
              class="code"
            /><v-btn v-if="engagement.may.manage" type="submit" size="small" :disabled="ranges === savedRanges">{{
              $t('collect.savePrefixes')
            }}</v-btn>
          </form>
        </section>
        <ScheduleList />
        <AlertList />
      </aside>
    </div>
    <ConnectionDialog
      v-if="editing && view"
      :reach="editing === 'new' ? null : editing"
      :dialects="view.dialects"
      @done="((editing = null), load())"
      @left="editing = null"
    />
  </div>
</template>

<style scoped>
.layout {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 16px;
  align-items: start;
  margin-top: 8px;
}
.list {
  overflow-x: auto;
}
.side {
  display: grid;
  gap: 16px;
  grid-template-columns: minmax(0, 1fr);
}
.block {
  padding: 14px 16px;
}
.ranges {
  display: grid;
  gap: 8px;
  justify-items: start;
  margin-top: 8px;
}
.ranges > :first-child {
  width: 100%;
}
.code :deep(input) {
  font-family: var(--mono);
}
.here td {
  background: rgb(var(--v-theme-brass-fill));
}
.acts {
  text-align: right;
  white-space: nowrap;
}
.add {
  padding: 10px;
}
.ladder {
  list-style: none;
  margin: 10px 0 0;
  padding: 0;
}
.ladder li {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 3px 0;
}
.rung {
  width: 22px;
  border-top: 3px solid rgb(var(--v-theme-pass));
  flex: none;
}
.ladder .stopped {
  font-weight: 600;
  color: rgb(var(--v-theme-fail));
}
.ladder .stopped .rung {
  border-top: 3px dashed rgb(var(--v-theme-fail));
}
.ladder .open {
  color: rgb(var(--v-theme-quiet));
}
.ladder .open .rung {
  border-top: 1px dotted rgb(var(--v-theme-quiet));
}
.reason {
  margin-top: 8px;
  border-left: 3px solid rgb(var(--v-theme-fail));
  padding-left: 10px;
  overflow-wrap: anywhere;
}
@media (max-width: 1000px) {
  .layout {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

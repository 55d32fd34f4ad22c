<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { CredentialRow, DeviceResult, JobView, ConnectionRow, ConnectionsView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'
import AlertList from './AlertList.vue'
import CredentialList from './CredentialList.vue'
import ConnectionDialog from './ConnectionDialog.vue'
import ScheduleList from './ScheduleList.vue'

/** Devices that records are fetched from, how each is reached, and how far the last collection came on it. */
const engagement = useEngagement()
const jobs = useJobs()
const view = ref<ConnectionsView | null>(null)
const credentials = ref<CredentialRow[]>([])
const { problem, attempt } = useAttempt(() => load())
const chosen = ref(new Set<string>())
const opened = ref<string | null>(null)
const ranges = ref('')
const editing = ref<ConnectionRow | 'new' | null>(null)

async function load(): Promise<void> {
  try {
    ;[view.value, credentials.value] = await Promise.all([
      api.get<ConnectionsView>(`${engagement.base}/reach`),
      api.get<CredentialRow[]>(`${engagement.base}/credentials`),
    ])
    ranges.value = view.value.connectRanges.join(', ')
    problem.value = ''
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)
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

const collect = (devices: readonly string[] | null) =>
  attempt(async () => {
    const title = `Collected ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`
    jobs.hear(await api.post<JobView>(`${engagement.base}/collections`, { devices, title }))
    chosen.value = new Set()
  })
const keepRanges = () =>
  attempt(() => api.put(`${engagement.base}/connect-ranges`, { ranges: ranges.value.split(/[\s,;]+/).filter(Boolean) }))
const remove = (device: string) => attempt(() => api.delete(`${engagement.base}/reach/${encodeURIComponent(device)}`))
const forgetKey = (device: string) =>
  attempt(() => api.post(`${engagement.base}/reach/${encodeURIComponent(device)}/forget-key`))
function choose(device: string): void {
  const next = new Set(chosen.value)
  if (!next.delete(device)) next.add(device)
  chosen.value = next
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <p class="quiet"><router-link to="../snapshots">Snapshots</router-link> ▸</p>
        <h1>Collecting</h1>
        <p class="quiet">
          Records are fetched over SSH, NETCONF and SNMP; what comes is frozen as a snapshot. Nothing is changed on a
          device.
        </p>
      </div>
      <template v-if="view && view.devices.length > 0 && engagement.may.collect">
        <v-btn v-if="running" @click="attempt(() => jobs.stop(running as JobView))"
          >Stop ({{ running.done }} of {{ running.total }})</v-btn
        >
        <template v-else>
          <v-btn v-if="missing.length > 0 && chosen.size === 0" @click="collect(missing)"
            >Again from the {{ missing.length }} missing</v-btn
          >
          <v-btn v-if="chosen.size > 0" @click="collect([...chosen])">Collect from {{ chosen.size }} chosen</v-btn>
          <v-btn variant="flat" @click="collect(null)">Collect from all {{ view.devices.length }}</v-btn>
        </template>
      </template>
    </div>
    <ProblemNote :text="problem" />
    <v-progress-linear
      v-if="running"
      :model-value="(100 * running.done) / Math.max(1, running.total)"
      color="primary"
      :aria-label="`${running.done} of ${running.total} devices`"
    />
    <EmptyPage
      v-if="view && view.devices.length === 0"
      title="No device is reached yet"
      text="Say by which address and port devices answer, and add a credential."
      ><v-btn v-if="engagement.may.manage" variant="flat" @click="editing = 'new'">Add devices</v-btn></EmptyPage
    >
    <div v-else-if="view" class="layout">
      <section class="panel list">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col"><span class="sr">Chosen</span></th>
              <th scope="col">Device</th>
              <th scope="col">Reached at</th>
              <th scope="col">Host key</th>
              <th scope="col">Last collection</th>
              <th scope="col"><span class="sr">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="device in view.devices" :key="device.device" :class="{ here: opened === device.device }">
              <td>
                <input
                  type="checkbox"
                  :checked="chosen.has(device.device)"
                  :aria-label="`Choose ${device.device}`"
                  @change="choose(device.device)"
                />
              </td>
              <td>
                {{ device.device }}
                <div class="quiet">
                  {{ device.dialect }}<template v-if="device.netconfPort">, NETCONF</template
                  ><template v-if="device.snmpPort">, SNMP</template
                  ><template v-if="device.old">, old algorithms allowed</template>
                </div>
              </td>
              <td class="mono">{{ device.address }}:{{ device.port }}</td>
              <td>
                <code v-if="device.hostKey" :title="`SHA-256 ${device.hostKey}`"
                  >{{ device.hostKey.slice(0, 10) }}…</code
                ><span v-else class="quiet">not seen yet</span>
              </td>
              <td>
                <template v-if="results.get(device.device)">
                  <button type="button" class="as-link" @click="opened = device.device">
                    {{
                      results.get(device.device)?.ok
                        ? `${results.get(device.device)?.records} ${results.get(device.device)?.records === 1 ? 'record' : 'records'}`
                        : `stopped: ${results.get(device.device)?.step}`
                    }}
                  </button>
                  <div class="quiet"><AgeText :at="results.get(device.device)?.at ?? ''" /></div>
                </template>
                <span v-else class="quiet">never</span>
              </td>
              <td class="acts">
                <template v-if="engagement.may.manage">
                  <v-btn size="small" variant="text" @click="editing = device">Change</v-btn>
                  <v-btn
                    v-if="results.get(device.device)?.step === 'key' && device.hostKey"
                    size="small"
                    variant="text"
                    @click="forgetKey(device.device)"
                    >Let the key go</v-btn
                  >
                  <v-btn size="small" variant="text" @click="remove(device.device)">Remove</v-btn>
                </template>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="engagement.may.manage" class="add"><v-btn size="small" @click="editing = 'new'">Add devices</v-btn></p>
      </section>
      <aside class="side">
        <section v-if="shown" class="panel block" aria-live="polite">
          <h2>{{ shown.device }}</h2>
          <p class="quiet">
            {{
              shown.ok
                ? `All steps, ${shown.records} ${shown.records === 1 ? 'record' : 'records'}`
                : 'How far it came'
            }}, <AgeText :at="shown.at" />
          </p>
          <ol class="ladder">
            <li v-for="{ step, title } in view.steps" :key="step" :class="stateOf(step, shown.step)">
              <span class="rung" aria-hidden="true" />{{ title
              }}<span class="sr"
                >: {{ { done: 'done', stopped: 'stopped here', open: 'not come to' }[stateOf(step, shown.step)] }}</span
              >
            </li>
          </ol>
          <p v-if="shown.reason" class="reason">{{ shown.reason }}</p>
          <p v-for="one in shown.without ?? []" :key="one" class="reason">{{ one }}</p>
        </section>
        <CredentialList :credentials="credentials" @changed="load" />
        <section v-if="engagement.may.manage || view.connectRanges.length > 0" class="panel block">
          <h2>What answers</h2>
          <p class="quiet">
            Within these prefixes a collection tries ports 22, 23, 80 and 443 of management addresses, one connect each:
            what is switched off must not answer.
          </p>
          <form class="ranges" @submit.prevent="keepRanges">
            <v-text-field
              v-model="ranges"
              label="Prefixes, with commas; none: nowhere"
              :readonly="!engagement.may.manage"
              class="code"
            /><v-btn
              v-if="engagement.may.manage"
              type="submit"
              size="small"
              :disabled="ranges === view.connectRanges.join(', ')"
              >Keep prefixes</v-btn
            >
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

<script setup lang="ts">
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { api } from '../api/client.ts'
import type { DiscoveryView, SightingRow } from '../api/estate-types.ts'
import type { JobView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'
import RangesPanel from './RangesPanel.vue'

/** Looks for devices, and lets a person look over what was found before it joins the estate. */
const engagement = useEngagement()
const jobs = useJobs()
const view = ref<DiscoveryView | null>(null)
const { problem, attempt } = useAttempt(() => load())
const form = reactive({ first: '', hops: 8, range: '', port: 22, snmpPort: '', otherKeys: false })
const tries = ref<number | null>(null)
const agreed = ref(false)
const chosen = ref(new Set<number>())
const came = ref<{ device: string; ok: boolean; what: string }[]>([])
const taken = ref<string[]>([])

async function load(): Promise<void> {
  view.value = await api.get<DiscoveryView>(`${engagement.base}/discovery`)
  chosen.value = new Set(
    [...chosen.value].filter((id) => view.value?.sightings.some((one) => one.id === id && one.state === 'waiting')),
  )
  const last = view.value.last?.params.plan
  if (!last && form.port === 22) form.port = view.value.port
  if (last && form.first === '' && form.range === '')
    Object.assign(form, {
      first: last.first.join(', '),
      hops: last.hops,
      range: last.range ?? '',
      port: last.port,
      snmpPort: last.snmpPort === null ? '' : String(last.snmpPort),
    })
}
onMounted(() => attempt(async () => undefined))
const running = computed<JobView | null>(
  () => jobs.jobs.find(({ kind, state }) => kind === 'discover' && state === 'running') ?? null,
)
watch(running, (now, before) => {
  if (before && !now) void attempt(async () => undefined)
})
const plan = computed(() => ({
  first: form.first.split(/[\s,;]+/).filter(Boolean),
  hops: Number(form.hops),
  range: form.range.trim() || null,
  port: Number(form.port),
  snmpPort: form.snmpPort.trim() === '' ? null : Number(form.snmpPort),
  otherKeys: form.otherKeys,
}))
watch(
  () => form.range,
  () => {
    tries.value = null
    agreed.value = false
  },
)
/** A range is counted first: whoever agrees knows to how many. */
const look = () =>
  attempt(async () => {
    came.value = []
    taken.value = []
    const { tries: counted } = await api.post<{ tries: number }>(`${engagement.base}/discoveries/tries`, plan.value)
    tries.value = counted
    if (counted > 0 && !agreed.value) return
    jobs.hear(
      await api.post<JobView>(`${engagement.base}/discoveries`, {
        plan: plan.value,
        confirmed: counted > 0 ? counted : null,
      }),
    )
  })

const KINDS: readonly { kind: SightingRow['kind']; title: string; means: string; take: string }[] = [
  {
    kind: 'appeared',
    title: 'New',
    means: 'No device of the estate has its serial number, name or addresses.',
    take: 'Let them join',
  },
  {
    kind: 'replaced',
    title: 'Replaced',
    means: 'Other hardware stands in the place of a device: it keeps the name and the history.',
    take: 'It is the replacement',
  },
  {
    kind: 'moved',
    title: 'Moved',
    means: 'The same hardware is reached or connected elsewhere.',
    take: 'It has moved',
  },
  {
    kind: 'duplicate',
    title: 'Perhaps known',
    means: 'It shares a serial number, a name or an address with a device under another name.',
    take: 'It is the same',
  },
  {
    kind: 'vanished',
    title: 'Vanished',
    means: 'It was looked for and not found. Its records stay, whatever is decided.',
    take: 'Collect from it no more',
  },
  { kind: 'known', title: 'As before', means: 'Found where it was.', take: '' },
]
const parts = computed(() =>
  KINDS.map((kind) => ({
    ...kind,
    rows: (view.value?.sightings ?? []).filter((one) => one.kind === kind.kind),
  })).filter(({ rows }) => rows.length > 0),
)
const waiting = (rows: readonly SightingRow[]): SightingRow[] => rows.filter(({ state }) => state === 'waiting')
const of = (rows: readonly SightingRow[]): SightingRow[] => {
  const some = waiting(rows).filter(({ id }) => chosen.value.has(id))
  return some.length > 0 ? some : waiting(rows)
}
const decide = (rows: readonly SightingRow[], decision: 'take' | 'apart' | 'leave') =>
  attempt(async () => {
    const some = of(rows)
    came.value = (
      await api.post<{ came: typeof came.value }>(`${engagement.base}/discovery/decide`, {
        sightings: some.map(({ id }) => id),
        decision,
      })
    ).came
    if (decision !== 'leave')
      taken.value = [
        ...new Set([
          ...taken.value,
          ...some
            .filter(({ kind }) => kind === 'appeared' || kind === 'replaced' || decision === 'apart')
            .filter((one) => came.value.some(({ device, ok }) => ok && device === one.device))
            .map((one) => (decision === 'apart' ? (one.found?.name ?? one.device) : one.device)),
        ]),
      ]
  })
const collect = () =>
  attempt(async () => {
    jobs.hear(
      await api.post<JobView>(`${engagement.base}/collections`, {
        devices: taken.value,
        title: `Joined ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`,
      }),
    )
    taken.value = []
  })
function choose(id: number): void {
  const next = new Set(chosen.value)
  if (!next.delete(id)) next.add(id)
  chosen.value = next
}
const STATES = { waiting: 'to be looked over', taken: 'taken', left: 'left as it is' }
const ready = computed(
  () =>
    (plan.value.first.length > 0 || plan.value.range !== null) &&
    (tries.value === null || tries.value === 0 || agreed.value),
)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <p class="quiet"><router-link to="../snapshots">Snapshots</router-link> ▸</p>
        <h1>Discovery</h1>
        <p class="quiet">
          From a first device by its neighbours, and in a range that a lead allowed. Nothing joins the estate before
          somebody has looked it over.
        </p>
      </div>
      <v-btn v-if="taken.length > 0 && engagement.may.collect" variant="flat" @click="collect"
        >Collect from the {{ taken.length }} that joined</v-btn
      >
    </div>
    <ProblemNote :text="problem" />
    <div v-if="running" class="panel run" role="status">
      <span>{{ running.message }}: {{ running.done }} of {{ running.total }} addresses so far</span
      ><v-progress-linear
        :model-value="(100 * running.done) / Math.max(1, running.total)"
        color="primary"
        :aria-label="`${running.done} of ${running.total} addresses`"
      /><v-btn size="small" @click="attempt(() => jobs.stop(running as JobView))">Stop</v-btn>
    </div>
    <div v-if="view" class="layout">
      <div class="column">
        <section v-if="came.length > 0" class="panel block" role="status">
          <h2>What came of it</h2>
          <p v-for="one in came" :key="one.device" :class="{ bad: !one.ok }">{{ one.device }}: {{ one.what }}</p>
        </section>
        <p v-if="!view.last && !running" class="quiet">Nobody has looked yet.</p>
        <section v-for="part in parts" :key="part.kind" class="panel block">
          <div class="head">
            <div>
              <h2>{{ part.title }} ({{ part.rows.length }})</h2>
              <p class="quiet">{{ part.means }}</p>
            </div>
            <div v-if="engagement.may.collect && waiting(part.rows).length > 0" class="acts">
              <v-btn size="small" variant="flat" @click="decide(part.rows, 'take')"
                >{{ part.take }} ({{ of(part.rows).length }})</v-btn
              >
              <v-btn v-if="part.kind === 'duplicate'" size="small" @click="decide(part.rows, 'apart')"
                >Another device</v-btn
              >
              <v-btn size="small" variant="text" @click="decide(part.rows, 'leave')">Leave</v-btn>
            </div>
          </div>
          <table class="rows">
            <tbody>
              <tr v-for="one in part.rows" :key="one.id">
                <td class="pick">
                  <input
                    v-if="one.state === 'waiting'"
                    type="checkbox"
                    :checked="chosen.has(one.id)"
                    :aria-label="`Choose ${one.device}`"
                    @change="choose(one.id)"
                  />
                </td>
                <td>
                  <b>{{ one.found?.name ?? one.device }}</b><template v-if="one.found && one.found.name !== one.device">
                    → {{ one.device }}</template
                  >
                  <div class="quiet">{{ one.why }}</div>
                </td>
                <td v-if="one.found">
                  {{ [one.found.model, one.found.version].filter(Boolean).join(', ') || one.found.dialect }}
                  <div class="quiet">{{ one.found.serial ? `serial ${one.found.serial}` : 'no serial number' }}</div>
                </td>
                <td v-else />
                <td v-if="one.found">
                  <span class="mono where">{{ one.found.reachedAt }}</span>
                  <div class="quiet">
                    {{
                      one.found.neighbourOf.length > 0
                        ? `seen by ${one.found.neighbourOf.join(', ')}`
                        : 'seen by no neighbour'
                    }}
                  </div>
                </td>
                <td v-else />
                <td class="quiet state">
                  {{ one.kind === 'known' ? '' : STATES[one.state] }}<template v-if="one.by"> by {{ one.by }}</template>
                </td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="view.last?.params.tried && view.last.params.tried.length > 0" class="panel block">
          <details>
            <summary>{{ view.last.params.tried.length }} that could not be followed</summary>
            <ul>
              <li v-for="(one, i) in view.last.params.tried" :key="i">
                <span class="mono">{{ one.address }}</span> {{ one.device }} <span class="quiet">{{ one.reason }}</span>
              </li>
            </ul>
          </details>
        </section>
      </div>
      <aside class="column">
        <section v-if="engagement.may.collect" class="panel block">
          <h2>Look for devices</h2>
          <form class="form" @submit.prevent="look">
            <v-text-field
              v-model="form.first"
              label="First devices, their addresses"
              class="code"
              persistent-placeholder
              placeholder="10.40.255.1"
            />
            <v-text-field v-model="form.hops" label="Links to follow from there" type="number" min="0" max="32" />
            <v-text-field
              v-model="form.range"
              label="A range to try, or nothing"
              class="code"
              persistent-placeholder
              placeholder="10.40.255.0/26"
            />
            <div class="two">
              <v-text-field v-model="form.port" label="SSH port" type="number" /><v-text-field
                v-model="form.snmpPort"
                label="SNMP port, for serials"
                type="number"
              />
            </div>
            <v-checkbox
              v-model="form.otherKeys"
              label="Log in also where a host key has changed, as after a replacement"
            />
            <v-checkbox
              v-if="tries"
              v-model="agreed"
              :label="`${tries} addresses of ${form.range} are tried, one after the other. I have asked who has to be asked.`"
            />
            <v-btn type="submit" variant="flat" :disabled="!ready || running !== null">{{
              form.range.trim() && tries === null ? 'Count the addresses' : 'Look'
            }}</v-btn>
          </form>
          <p v-if="view.last" class="quiet">
            Last <AgeText :at="view.last.finishedAt ?? view.last.createdAt" />: {{ view.last.message }}
          </p>
        </section>
        <RangesPanel
          :ranges="view.ranges"
          :translations="view.translations"
          @changed="attempt(async () => undefined)"
        />
      </aside>
    </div>
  </div>
</template>

<style scoped>
.layout {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 16px;
  align-items: start;
}
.column {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1fr);
}
.block {
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}
.head {
  display: flex;
  justify-content: space-between;
  gap: 14px;
  align-items: flex-start;
  flex-wrap: wrap;
}
.acts {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.form {
  display: grid;
  gap: 10px;
  justify-items: start;
}
.form > * {
  width: 100%;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.code :deep(input) {
  font-family: var(--mono);
  font-size: 12.5px;
}
.run {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 8px 14px;
  margin-bottom: 12px;
  white-space: nowrap;
}
.pick {
  width: 28px;
}
.pick input {
  width: 16px;
  height: 16px;
  margin: 4px 0;
  accent-color: rgb(var(--v-theme-primary));
}
td {
  overflow-wrap: anywhere;
}
.state,
.where {
  white-space: nowrap;
}
.bad {
  color: rgb(var(--v-theme-fail));
}
summary {
  cursor: pointer;
  min-height: 24px;
}
@media (max-width: 1000px) {
  .layout {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

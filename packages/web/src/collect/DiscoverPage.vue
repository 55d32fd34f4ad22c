<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import {
  type SightingRow,
  countDiscoveryTries,
  decideSightings,
  getDiscovery,
  startDiscovery,
} from '@jurybox/api/discovery'
import { listSites } from '@jurybox/api/labels'
import { grouped } from '@jurybox/core/syntax'
import { startCollection } from '@jurybox/api/collecting'
import type { JobView } from '@jurybox/api/jobs'
import { computed, reactive, ref, watch } from 'vue'
import { call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'
import RangesPanel from './RangesPanel.vue'
import { absoluteTime } from '../shared/time.ts'
import { useDialects } from '../stores/dialects.ts'

/** Looks for devices, and lets a person look over what was found before it joins the estate. */
const engagement = useEngagement()
const dialects = useDialects()
void dialects.load()
const jobs = useJobs()
const {
  data: view,
  problem,
  fields,
  load,
  attempt,
} = useQuery(
  getDiscovery,
  () => ({}),
  // A device that was added can bring its site along.
  { changed: () => loadSites() },
)
const { data: sites, problem: unlisted, load: loadSites } = useQuery(listSites, () => ({}))
const form = reactive({ first: '', hops: 8, range: '', port: 22, snmpPort: '', otherKeys: false })
const tries = ref<number | null>(null)
const agreed = ref(false)
const chosen = ref(new Set<number>())
const came = ref<{ device: string; ok: boolean; what: string }[]>([])
const taken = ref<string[]>([])
/** Site and role of devices that are added. */
const facts = reactive<{ site: string | null; role: string }>({ site: null, role: '' })
/** What is suggested alike for all that would be added. */
const suggested = (rows: readonly SightingRow[], fact: 'site' | 'role'): string => {
  const all = new Set(of(rows).map((row) => row.suggested[fact]))
  return all.size === 1 ? ([...all][0] ?? '') : ''
}

watch(view, (now) => {
  if (!now) return
  chosen.value = new Set(
    [...chosen.value].filter((id) => now.sightings.some((one) => one.id === id && one.state === 'waiting')),
  )
  const last = now.last?.params.plan
  if (!last && form.port === 22) form.port = now.port
  if (last && form.first === '' && form.range === '')
    Object.assign(form, {
      first: last.first.join(', '),
      hops: last.hops,
      range: last.range ?? '',
      port: last.port,
      snmpPort: last.snmpPort === null ? '' : String(last.snmpPort),
    })
})
const running = computed<JobView | null>(
  () => jobs.jobs.find(({ kind, state }) => kind === 'discover' && state === 'running') ?? null,
)
watch(running, (now, before) => {
  if (before && !now) void load()
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
    const { tries: counted } = await call(countDiscoveryTries, { body: plan.value })
    tries.value = counted
    if (counted > 0 && !agreed.value) return
    jobs.hear(await call(startDiscovery, { body: { plan: plan.value, confirmed: counted > 0 ? counted : null } }))
  })

const KINDS: readonly { kind: SightingRow['kind']; title: string; means: string; take: string }[] = [
  {
    kind: 'appeared',
    title: t('collect.new'),
    means: t('collect.noDeviceInTheInventory'),
    take: t('collect.addToInventory'),
  },
  {
    kind: 'replaced',
    title: t('collect.replaced'),
    means: t('collect.otherHardwareIsInPlace'),
    take: t('collect.acceptReplacement'),
  },
  {
    kind: 'moved',
    title: t('collect.moved'),
    means: t('collect.theSameHardwareIsReached'),
    take: t('collect.acceptMove'),
  },
  {
    kind: 'duplicate',
    title: t('collect.possibleDuplicate'),
    means: t('collect.itSharesASerialNumber'),
    take: t('collect.mergeWithThatDevice'),
  },
  {
    kind: 'vanished',
    title: t('collect.vanished'),
    means: t('collect.itWasNotFoundAny'),
    take: t('collect.removeFromCollection'),
  },
  { kind: 'known', title: t('collect.unchanged'), means: t('collect.foundAtTheSamePlace'), take: '' },
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
    // Devices with another suggestion are decided with their own.
    const said: typeof came.value = []
    for (const [key, alike] of grouped(some, ({ suggested: own }) => JSON.stringify(own))) {
      const own = JSON.parse(key) as SightingRow['suggested']
      const [site, role] = [facts.site?.trim() || own.site, facts.role.trim() || own.role]
      const body = {
        sightings: alike.map(({ id }) => id),
        decision,
        facts: { ...(site ? { site } : {}), ...(role ? { role } : {}) },
      }
      said.push(...(await call(decideSightings, { body })).came)
    }
    came.value = said
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
      await call(startCollection, {
        body: { devices: taken.value, title: t('collect.addedUtc', { at: absoluteTime(new Date().toISOString()) }) },
      }),
    )
    taken.value = []
  })
function choose(id: number): void {
  const next = new Set(chosen.value)
  if (!next.delete(id)) next.add(id)
  chosen.value = next
}
const STATES = { waiting: t('collect.toDecide'), taken: t('collect.accepted'), left: t('collect.dismissed') }
const ready = computed(
  () =>
    (plan.value.first.length > 0 || plan.value.range !== null) &&
    (tries.value === null || tries.value === 0 || agreed.value),
)
type Found = (typeof parts.value)[number]['rows'][number]
const modelOf = ({ found }: Found): string =>
  found ? [found.model, found.version].filter(Boolean).join(', ') || dialects.nameOf(found.dialect) : ''
const columns: Column<Found>[] = [
  { key: 'pick', title: t('collect.select'), value: () => '', acts: true, width: '34px' },
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'model', title: t('common.model'), value: modelOf },
  { key: 'where', title: t('collect.address'), value: ({ found }) => found?.reachedAt ?? '' },
  {
    key: 'state',
    title: t('common.state'),
    value: ({ kind, state }) => (kind === 'known' ? '' : STATES[state]),
    quiet: true,
  },
]
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <p class="quiet">
          <router-link to="../snapshots">{{ $t('common.snapshots') }}</router-link> ▸
        </p>
        <h1>{{ $t('collect.discovery') }}</h1>
        <p class="quiet">
          {{ $t('collect.findsDevicesFromTheNeighbours') }}
        </p>
      </div>
      <v-btn v-if="taken.length > 0 && engagement.may.collect" variant="flat" @click="collect">{{
        $t('collect.collectFromAdded', { taken: taken.length })
      }}</v-btn>
    </div>
    <ProblemNote :text="problem || unlisted" />
    <div v-if="running" class="panel run" role="status">
      <span>{{
        $t('collect.ofAddresses', { message: running.message, done: running.done, total: running.total })
      }}</span><v-progress-linear
        :model-value="(100 * running.done) / Math.max(1, running.total)"
        color="primary"
        :aria-label="$t('collect.addressesDone', { done: running.done, total: running.total })"
      /><v-btn size="small" @click="attempt(() => jobs.stop(running as JobView))">{{ $t('common.stop') }}</v-btn>
    </div>
    <div v-if="view" class="layout">
      <div class="column">
        <section v-if="came.length > 0" class="panel block" role="status">
          <h2>{{ $t('common.result') }}</h2>
          <p v-for="one in came" :key="one.device" :class="{ bad: !one.ok }">{{ one.device }}: {{ one.what }}</p>
        </section>
        <p v-if="!view.last && !running" class="quiet">{{ $t('collect.noDiscoveryYet') }}</p>
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
              <v-btn v-if="part.kind === 'duplicate'" size="small" @click="decide(part.rows, 'apart')">{{
                $t('collect.addAsAnotherDevice')
              }}</v-btn>
              <v-btn size="small" variant="text" @click="decide(part.rows, 'leave')">{{ $t('collect.dismiss') }}</v-btn>
            </div>
          </div>
          <div v-if="part.kind === 'appeared' && engagement.may.collect && waiting(part.rows).length > 0" class="facts">
            <v-combobox
              v-model="facts.site"
              :error-messages="fields['site']"
              :items="(sites ?? []).map(({ name }) => name)"
              :label="$t('collect.site')"
              :placeholder="suggested(part.rows, 'site')"
              persistent-placeholder
            />
            <v-text-field
              v-model="facts.role"
              :error-messages="fields['role']"
              :label="$t('common.role')"
              :placeholder="suggested(part.rows, 'role')"
              persistent-placeholder
            />
            <p class="quiet wide">{{ $t('collect.siteAndRole') }}</p>
          </div>
          <DataTable headless name="discovered" :label="part.title" :rows="part.rows" :columns="columns">
            <template #pick="{ row: one }">
              <input
                v-if="one.state === 'waiting'"
                type="checkbox"
                :checked="chosen.has(one.id)"
                :aria-label="$t('collect.choose', { device: one.device })"
                @change="choose(one.id)"
              />
            </template>
            <template #device="{ row: one }">
              <b>{{ one.found?.name ?? one.device }}</b><template v-if="one.found && one.found.name !== one.device"
                >{{ ' ' }}→ {{ one.device }}</template
              >
              <div class="quiet">{{ one.why }}</div>
            </template>
            <template #model="{ row: one }">
              <template v-if="one.found">
                {{ modelOf(one) }}
                <div class="quiet">
                  {{ one.found.serial ? `serial ${one.found.serial}` : $t('collect.noSerialNumber') }}
                </div>
              </template>
            </template>
            <template #where="{ row: one }">
              <template v-if="one.found">
                <span class="mono where">{{ one.found.reachedAt }}</span>
                <div class="quiet">
                  {{
                    one.found.neighbourOf.length > 0
                      ? $t('collect.seenBy', { neighbourOf: one.found.neighbourOf.join(', ') })
                      : $t('collect.seenByNoNeighbour')
                  }}
                </div>
              </template>
            </template>
            <template #state="{ row: one }">
              {{ one.kind === 'known' ? '' : STATES[one.state]
              }}<template v-if="one.by">{{ ' ' }}{{ $t('collect.by', { by: one.by }) }}</template>
            </template>
          </DataTable>
        </section>
        <section v-if="view.last?.params.tried && view.last.params.tried.length > 0" class="panel block">
          <details>
            <summary>{{ $t('collect.addressesThatCouldNotBe', { tried: view.last.params.tried.length }) }}</summary>
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
          <h2>{{ $t('collect.discoverDevices') }}</h2>
          <form class="form" @submit.prevent="look">
            <v-text-field
              v-model="form.first"
              :error-messages="fields['first']"
              :label="$t('collect.addressesOfFirstDevices')"
              class="code"
              persistent-placeholder
              placeholder="10.40.255.1"
            />
            <v-text-field
              v-model="form.hops"
              :error-messages="fields['hops']"
              :label="$t('collect.mostHopsFromThere')"
              type="number"
              min="0"
              max="32"
            />
            <v-text-field
              v-model="form.range"
              :error-messages="fields['range']"
              :label="$t('collect.scanRangeOptional')"
              class="code"
              persistent-placeholder
              placeholder="10.40.255.0/26"
            />
            <div class="two">
              <v-text-field
                v-model="form.port"
                :error-messages="fields['port']"
                :label="$t('collect.sshPort')"
                type="number"
              /><v-text-field
                v-model="form.snmpPort"
                :error-messages="fields['snmpPort']"
                :label="$t('collect.snmpPortForSerialNumbers')"
                type="number"
              />
            </div>
            <v-checkbox v-model="form.otherKeys" :label="$t('collect.logInEvenIfA')" />
            <v-checkbox
              v-if="tries"
              v-model="agreed"
              :label="$t('collect.addressesOfWillBeTried', { tries, range: form.range })"
            />
            <v-btn type="submit" variant="flat" :disabled="!ready || running !== null">{{
              form.range.trim() && tries === null ? $t('collect.countAddresses') : $t('collect.startDiscovery')
            }}</v-btn>
          </form>
          <p v-if="view.last" class="quiet">
            {{ $t('collect.lastReview') }} <AgeText :at="view.last.finishedAt ?? view.last.createdAt" />:
            {{ view.last.message }}
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
.facts {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.wide {
  grid-column: 1 / -1;
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

<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { StillReading, api, wordsOf } from '../api/client.ts'
import type { BenchmarkRow, JobView } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'

/** Chooses benchmarks and a profile, starts the audit, and shows how far it is. */
const open = defineModel<boolean>({ required: true })
const engagement = useEngagement()
const jobs = useJobs()
const router = useRouter()
const benchmarks = ref<BenchmarkRow[]>([])
const chosen = ref<string[]>([])
const profiles = ref<Record<string, string>>({})
const jobId = ref<number | null>(null)
const problem = ref('')

/* What it is limited to */
interface StandingRow {
  name: string
  model: string | null
  groups: string[]
}
const standing = ref<StandingRow[]>([])
const limitBy = ref<'all' | 'group' | 'model' | 'devices'>('all')
const group = ref<string | null>(null)
const model = ref<string | null>(null)
const devices = ref<string[]>([])
const groups = computed(() => [...new Set(standing.value.flatMap((row) => row.groups))].sort())
const models = computed(() => [...new Set(standing.value.flatMap((row) => row.model ?? []))].sort())
const WAYS = computed(() => [
  { value: 'all', title: 'All devices' },
  ...(groups.value.length > 0 ? [{ value: 'group', title: 'Devices of a group' }] : []),
  ...(models.value.length > 0 ? [{ value: 'model', title: 'Devices of a model' }] : []),
  { value: 'devices', title: 'Chosen devices' },
])
const limit = computed(() =>
  limitBy.value === 'group'
    ? { group: group.value }
    : limitBy.value === 'model'
      ? { model: model.value }
      : limitBy.value === 'devices'
        ? { devices: devices.value }
        : null,
)
const inside = computed(() => {
  if (limitBy.value === 'group')
    return standing.value.filter((row) => group.value !== null && row.groups.includes(group.value))
  if (limitBy.value === 'model') return standing.value.filter((row) => row.model === model.value)
  return limitBy.value === 'devices'
    ? standing.value.filter(({ name }) => devices.value.includes(name))
    : standing.value
})
const startedAt = ref(0)
const job = computed<JobView | null>(() => jobs.jobs.find((known) => known.id === jobId.value) ?? null)
const share = computed(() => (job.value && job.value.total > 0 ? (job.value.done / job.value.total) * 100 : 0))
const pace = computed(() => {
  if (!job.value || job.value.done === 0) return ''
  const seconds = (Date.now() - startedAt.value) / 1000
  const rate = job.value.done / Math.max(seconds, 0.001)
  return `${rate.toFixed(rate < 10 ? 1 : 0)} devices a second, about ${Math.ceil((job.value.total - job.value.done) / rate)} s left`
})

/** The next step is where the focus goes when the work is done. */
const onward = ref<{ $el: HTMLElement } | null>(null)
watch(
  () => job.value?.state,
  async (state) => {
    if (state !== 'done') return
    await nextTick()
    onward.value?.$el.focus()
  },
)

watch(open, async (isOpen) => {
  if (!isOpen) return
  problem.value = ''
  jobId.value = null
  // Before anything is waited for: what is chosen meanwhile stays chosen.
  limitBy.value = 'all'
  try {
    benchmarks.value = await api.get<BenchmarkRow[]>(`${engagement.base}/benchmarks`)
    // As the last audit was run, as far as there still is what it was run by.
    const last =
      engagement.audits
        .at(-1)
        ?.choices.filter((choice) => benchmarks.value.some(({ id }) => id === choice.benchmark)) ?? []
    chosen.value =
      last.length > 0 ? last.map(({ benchmark }) => benchmark) : benchmarks.value.slice(0, 1).map(({ id }) => id)
    profiles.value = Object.fromEntries(
      benchmarks.value.map(({ id, profile }) => [
        id,
        last.find(({ benchmark }) => benchmark === id)?.profile ?? profile,
      ]),
    )
    standing.value = await api
      .get<StandingRow[]>(`${engagement.base}/estate/standing`, { snapshot: engagement.b?.id })
      .catch(async (error: unknown) => {
        // Groups and models are known once the estate is read; devices are known now.
        if (!(error instanceof StillReading)) throw error
        const { devices } = await api.get<{ devices: { name: string }[] }>(`${engagement.base}/devices`, {
          snapshot: engagement.b?.id,
        })
        return devices.map(({ name }) => ({ name, model: null, groups: [] }))
      })
  } catch (error) {
    problem.value = wordsOf(error)
  }
})

async function run(): Promise<void> {
  problem.value = ''
  try {
    startedAt.value = Date.now()
    const started = await api.post<JobView>(`${engagement.base}/audits`, {
      snapshotId: engagement.b?.id,
      choices: chosen.value.map((benchmark) => ({ benchmark, profile: profiles.value[benchmark] })),
      limit: limit.value,
    })
    jobId.value = started.id
    if (!jobs.jobs.some((known) => known.id === started.id)) jobs.hear(started)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
async function stop(): Promise<void> {
  if (!job.value) return
  try {
    await jobs.stop(job.value)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
async function toVerdicts(): Promise<void> {
  await engagement.refresh()
  const ran = Number(job.value?.params['auditId'])
  engagement.chosenAudit = engagement.audits.some(({ id }) => id === ran) ? ran : null
  open.value = false
  await router.push(`/e/${engagement.id}/verdicts`)
}
</script>

<template>
  <v-dialog v-model="open" :persistent="job?.state === 'running'" aria-label="Run an audit">
    <v-card class="run">
      <h2>Run an audit</h2>
      <p class="quiet">
        Judges “{{ engagement.b?.title }}”{{ engagement.b ? ` of ${absoluteTime(engagement.b.takenAt)}` : '' }}. Stored
        records are read; no device is contacted.
      </p>
      <template v-if="!job">
        <div v-for="benchmark in benchmarks" :key="benchmark.id" class="choice">
          <v-checkbox v-model="chosen" :value="benchmark.id" :label="`${benchmark.title} ${benchmark.version}`" />
          <v-select
            v-model="profiles[benchmark.id]"
            :items="
              benchmark.profiles.map((profile) => ({ value: profile.id, title: `${profile.id}: ${profile.title}` }))
            "
            label="Profile"
          />
        </div>
        <div class="choice">
          <v-select v-model="limitBy" :items="WAYS" label="Devices" />
          <v-select v-if="limitBy === 'group'" v-model="group" :items="groups" label="Group" />
          <v-select v-else-if="limitBy === 'model'" v-model="model" :items="models" label="Model" />
          <v-autocomplete
            v-else-if="limitBy === 'devices'"
            v-model="devices"
            :items="standing.map(({ name }) => name)"
            label="Devices"
            multiple
            chips
            closable-chips
          />
        </div>
        <p v-if="limitBy !== 'all'" class="quiet" role="status">
          {{ inside.length }} of {{ standing.length }} devices{{
            inside.length > 0
              ? `: ${inside
                  .slice(0, 8)
                  .map(({ name }) => name)
                  .join(', ')}${inside.length > 8 ? ' …' : ''}`
              : ''
          }}
        </p>
        <ProblemNote :text="problem" />
        <div class="end">
          <v-btn variant="text" @click="open = false">Cancel</v-btn>
          <v-btn
            variant="flat"
            :disabled="chosen.length === 0 || !engagement.b || (limitBy !== 'all' && inside.length === 0)"
            @click="run"
            >Run audit</v-btn
          >
        </div>
      </template>
      <template v-else>
        <v-progress-linear
          :model-value="share"
          height="8"
          color="primary"
          rounded="0"
          :aria-label="`${job.done} of ${job.total} devices`"
        />
        <p role="status">
          {{ job.done }} of {{ job.total }} devices. {{ job.state === 'running' ? pace : job.message }}
        </p>
        <ProblemNote :text="problem" />
        <div class="end">
          <v-btn v-if="job.state === 'running'" @click="stop">Stop</v-btn>
          <v-btn v-else variant="text" @click="open = false">Close</v-btn>
          <v-btn v-if="job.state === 'done'" ref="onward" variant="flat" @click="toVerdicts">Read the verdicts</v-btn>
        </div>
      </template>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.run {
  padding: 20px 24px;
  display: grid;
  gap: 12px;
}
.choice {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-items: center;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>

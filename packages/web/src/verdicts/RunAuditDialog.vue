<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { BodyOf } from '@jurybox/api/endpoint'
import type { ResponseOf } from '@jurybox/api/endpoint'
import { type BenchmarkRow, listBenchmarks, listFrameworks } from '@jurybox/api/benchmarks'
import { listStandings } from '@jurybox/api/estate'
import { listDevices } from '@jurybox/api/devices'
import { STRATA } from '@jurybox/api/audit-limit'
import { runAudit } from '@jurybox/api/audits'
import type { JobView } from '@jurybox/api/jobs'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { StillReading, wordsOf, call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import ActionButton from '../shared/ActionButton.vue'

/** Chooses benchmarks and a profile, starts the audit, and shows how far it is. */
const open = defineModel<boolean>({ required: true })
const engagement = useEngagement()
const jobs = useJobs()
const router = useRouter()
const benchmarks = ref<BenchmarkRow[]>([])
const chosen = ref<string[]>([])
const profiles = ref<Record<string, string>>({})
/** A framework in the place of benchmarks; null: benchmarks. */
const framework = ref<string | null>(null)
const frameworks = ref<ResponseOf<typeof listFrameworks>>([])
const AUDIT_FOR = computed(() => [
  { value: null, title: t('verdicts.wholeBenchmarks') },
  ...frameworks.value.map(({ id, title, rules, questions }) => ({
    value: id,
    title: t('verdicts.frameworkWith', { title, rules, questions }),
  })),
])
const jobId = ref<number | null>(null)
const problem = ref('')

/* What it is limited to */
interface StandingRow {
  name: string
  model: string | null
  groups: string[]
}
const standing = ref<StandingRow[]>([])
const limitBy = ref<'all' | 'group' | 'model' | 'devices' | 'sample'>('all')
const group = ref<string | null>(null)
const model = ref<string | null>(null)
const devices = ref<string[]>([])
const sampleSize = ref('5')
const seed = ref(new Date().toISOString().slice(0, 10))
const sampleGroup = ref<string | null>(null)
const strata = ref<(typeof STRATA)[number][]>([...STRATA])
const STRATA_TITLES = { model: t('common.model'), site: t('estate.site') } as const
const groups = computed(() => [...new Set(standing.value.flatMap((row) => row.groups))].sort())
const models = computed(() => [...new Set(standing.value.flatMap((row) => row.model ?? []))].sort())
const WAYS = computed(() => [
  { value: 'all', title: t('verdicts.allDevices') },
  ...(groups.value.length > 0 ? [{ value: 'group', title: t('verdicts.devicesOfAGroup') }] : []),
  ...(models.value.length > 0 ? [{ value: 'model', title: t('verdicts.devicesOfAModel') }] : []),
  { value: 'devices', title: t('verdicts.selectedDevices') },
  { value: 'sample', title: t('verdicts.sampleOfDevices') },
])
const limit = computed((): BodyOf<typeof runAudit>['limit'] =>
  limitBy.value === 'group'
    ? { group: group.value ?? '' }
    : limitBy.value === 'model'
      ? { model: model.value ?? '' }
      : limitBy.value === 'devices'
        ? { devices: devices.value }
        : limitBy.value === 'sample'
          ? {
              sample: {
                size: Math.max(1, Math.round(Number(sampleSize.value))),
                seed: seed.value,
                by: strata.value,
                ...(sampleGroup.value === null ? {} : { group: sampleGroup.value }),
              },
            }
          : null,
)
const inside = computed(() => {
  if (limitBy.value === 'group')
    return standing.value.filter((row) => group.value !== null && row.groups.includes(group.value))
  // Which of them are drawn is found by the server, as anybody can from the seed.
  if (limitBy.value === 'sample') {
    const of = sampleGroup.value
    return of === null ? standing.value : standing.value.filter((row) => row.groups.includes(of))
  }
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
  return t('verdicts.devicesASecondAboutS', {
    rate: rate.toFixed(rate < 10 ? 1 : 0),
    rate2: Math.ceil((job.value.total - job.value.done) / rate),
  })
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
  framework.value = null
  try {
    const [shelf, all] = await Promise.all([call(listBenchmarks), call(listFrameworks)])
    benchmarks.value = shelf
    // Nothing is judged for a framework that no rule and no question speaks to.
    frameworks.value = all.filter(({ rules, questions }) => rules + questions > 0)
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
    standing.value = await call(listStandings, { query: { snapshot: engagement.b?.id } }).catch(
      async (error: unknown) => {
        // Groups and models are known once the estate is read; devices are known now.
        if (!(error instanceof StillReading)) throw error
        const { devices } = await call(listDevices, { query: { snapshot: engagement.b?.id } })
        return devices.map(({ name }) => ({ name, model: null, groups: [] }))
      },
    )
  } catch (error) {
    problem.value = wordsOf(error)
  }
})

async function run(): Promise<void> {
  const snapshotId = engagement.b?.id
  if (snapshotId === undefined) return
  problem.value = ''
  try {
    startedAt.value = Date.now()
    const started = await call(runAudit, {
      body: {
        snapshotId,
        framework: framework.value,
        choices:
          framework.value === null
            ? chosen.value.map((benchmark) => ({ benchmark, profile: profiles.value[benchmark] }))
            : [],
        limit: limit.value,
      },
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
  <ModalDialog v-model="open" :persistent="job?.state === 'running'" :title="$t('common.runAudit')">
    <div class="run">
      <p class="quiet">
        {{
          $t('verdicts.auditsFromStoredRecordsNo', {
            title: engagement.b?.title,
            at: engagement.b ? ` (${absoluteTime(engagement.b.takenAt)})` : '',
          })
        }}
      </p>
      <template v-if="!job">
        <v-select v-model="framework" :items="AUDIT_FOR" :label="$t('verdicts.auditFor')" />
        <p v-if="framework !== null" class="quiet" role="status">{{ $t('verdicts.frameworkAudit') }}</p>
        <div v-for="benchmark in framework === null ? benchmarks : []" :key="benchmark.id" class="choice">
          <v-checkbox v-model="chosen" :value="benchmark.id" :label="`${benchmark.title} ${benchmark.version}`" />
          <v-select
            v-model="profiles[benchmark.id]"
            :items="benchmark.profiles.map((profile) => ({ value: profile.id, title: profile.title }))"
            :label="$t('verdicts.profile')"
          />
        </div>
        <div class="choice">
          <v-select v-model="limitBy" :items="WAYS" :label="$t('common.devices')" />
          <v-select v-if="limitBy === 'group'" v-model="group" :items="groups" :label="$t('verdicts.group')" />
          <v-select v-else-if="limitBy === 'model'" v-model="model" :items="models" :label="$t('common.model')" />
          <v-autocomplete
            v-else-if="limitBy === 'devices'"
            v-model="devices"
            :items="standing.map(({ name }) => name)"
            :label="$t('common.devices')"
            multiple
            chips
            closable-chips
          />
          <v-text-field
            v-else-if="limitBy === 'sample'"
            v-model="sampleSize"
            type="number"
            min="1"
            max="5000"
            :label="$t('verdicts.sampleSize')"
          />
        </div>
        <div v-if="limitBy === 'sample'" class="choice sample">
          <v-text-field v-model="seed" maxlength="60" :label="$t('verdicts.sampleSeed')" />
          <v-select
            v-model="strata"
            multiple
            :items="STRATA.map((value) => ({ value, title: STRATA_TITLES[value] }))"
            :label="$t('verdicts.sampleStrata')"
          />
          <v-select
            v-model="sampleGroup"
            :items="[
              { value: null, title: $t('verdicts.allDevices') },
              ...groups.map((title) => ({ value: title, title })),
            ]"
            :label="$t('verdicts.samplePopulation')"
          />
        </div>
        <p v-if="limitBy === 'sample'" class="quiet" role="status">
          {{ $t('verdicts.sampleOf', { size: Math.min(Number(sampleSize), inside.length), inside: inside.length }) }}
        </p>
        <p v-else-if="limitBy !== 'all'" class="quiet" role="status">
          {{
            $t('verdicts.ofDevices', {
              inside: inside.length,
              standing: standing.length,
              inside2:
                inside.length > 0
                  ? `: ${inside
                      .slice(0, 8)
                      .map(({ name }) => name)
                      .join(', ')}${inside.length > 8 ? ' …' : ''}`
                  : '',
            })
          }}
        </p>
        <ProblemNote :text="problem" />
        <div class="end">
          <v-btn variant="text" @click="open = false">{{ $t('common.cancel') }}</v-btn>
          <ActionButton
            variant="flat"
            :why="
              framework === null && chosen.length === 0
                ? $t('verdicts.selectABenchmark')
                : limitBy !== 'all' && inside.length === 0
                  ? $t('verdicts.noDeviceMatches')
                  : limitBy === 'sample' && !(Number(sampleSize) >= 1 && seed !== '')
                    ? $t('verdicts.sampleNeedsSizeAndSeed')
                    : engagement.b
                      ? ''
                      : $t('verdicts.noSnapshotsYet')
            "
            @click="run"
            >{{ $t('common.runAudit') }}</ActionButton
          >
        </div>
      </template>
      <template v-else>
        <v-progress-linear
          :model-value="share"
          height="8"
          color="primary"
          rounded="0"
          :aria-label="$t('verdicts.devicesDone', { done: job.done, total: job.total })"
        />
        <p role="status">
          {{
            $t('verdicts.devicesDoneOfJob', {
              done: job.done,
              total: job.total,
              job: job.state === 'running' ? pace : job.message,
            })
          }}
        </p>
        <ProblemNote :text="problem" />
        <div class="end">
          <v-btn v-if="job.state === 'running'" @click="stop">{{ $t('common.stop') }}</v-btn>
          <v-btn v-else variant="text" @click="open = false">{{ $t('common.close') }}</v-btn>
          <v-btn v-if="job.state === 'done'" ref="onward" variant="flat" @click="toVerdicts">{{
            $t('common.viewVerdicts')
          }}</v-btn>
        </div>
      </template>
    </div>
  </ModalDialog>
</template>

<style scoped>
.run {
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

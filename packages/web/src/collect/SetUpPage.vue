<script setup lang="ts">
import { t } from '../messages/index.ts'
import { getSetUp } from '@jurybox/api/engagements'
import { listConnections, listCredentials, startCollection } from '@jurybox/api/collecting'
import type { JobView } from '@jurybox/api/jobs'
import { computed, ref, watch } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useJobs } from '../stores/jobs.ts'
import AlertList from './AlertList.vue'
import CredentialList from './CredentialList.vue'
import ConnectionDialog from './ConnectionDialog.vue'
import ScheduleList from './ScheduleList.vue'

/** From an empty engagement to one that looks after itself, step by step; each can be left for later. */
const jobs = useJobs()
const { data: view, problem, load: loadSteps, attempt } = useQuery(getSetUp, () => ({}))
const { data: credentials, problem: unlisted, load: loadCredentials } = useQuery(listCredentials, () => ({}))
const { data: reach, problem: unreached, load: loadReach } = useQuery(listConnections, () => ({}))
const keyKept = ref(false)
const adding = ref(false)
const later = ref(new Set<string>())
const chosen = ref<string | null>(null)

const load = () => Promise.all([loadSteps(), loadCredentials(), loadReach()])
watch(() => jobs.running.length, load)
const steps = computed(() => {
  const now = view.value
  return [
    { id: 'key', title: t('collect.masterKey'), done: keyKept.value || (now?.snapshots ?? 0) > 0 },
    { id: 'credential', title: t('collect.credential'), done: (now?.credentials ?? 0) > 0 },
    { id: 'devices', title: t('collect.firstDevices'), done: (now?.devices ?? 0) > 0 },
    { id: 'collection', title: t('collect.firstCollection'), done: (now?.snapshots ?? 0) > 0 },
    { id: 'schedule', title: t('collect.schedule'), done: (now?.schedules ?? 0) > 0 },
    { id: 'alert', title: t('collect.alert'), done: (now?.alerts ?? 0) > 0 },
  ]
})
/** The step that was chosen, else the first that is neither done nor left for later. */
const open = computed(
  () => chosen.value ?? steps.value.find(({ id, done }) => !done && !later.value.has(id))?.id ?? null,
)
const running = computed<JobView | null>(
  () => jobs.jobs.find(({ kind, state }) => kind === 'collect' && state === 'running') ?? null,
)
function leave(id: string): void {
  later.value = new Set([...later.value, id])
  chosen.value = null
}
const collect = () =>
  attempt(async () =>
    jobs.hear(await call(startCollection, { body: { devices: null, title: t('collect.firstCollection') } })),
  )
const stateOf = (step: { id: string; done: boolean }): string =>
  step.done ? 'done' : step.id === open.value ? 'now' : later.value.has(step.id) ? 'later' : 'open'
const done = computed(() => steps.value.filter((step) => step.done).length)
watch(done, () => (chosen.value = null))
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>{{ $t('collect.setup') }}</h1>
        <p class="quiet">
          {{ $t('collect.ofStepsDoneToWork', { done, steps: steps.length }) }}
          <router-link to="snapshots">{{ $t('collect.importConfigurations') }}</router-link>.
        </p>
      </div>
      <v-btn v-if="(view?.snapshots ?? 0) > 0" variant="flat" to="verdicts">{{ $t('common.viewVerdicts') }}</v-btn>
    </div>
    <ProblemNote :text="problem || unlisted || unreached" />
    <ol v-if="view" class="steps">
      <li v-for="(step, i) in steps" :key="step.id" :class="stateOf(step)">
        <button
          type="button"
          class="head"
          :aria-expanded="open === step.id"
          @click="chosen = open === step.id ? null : step.id"
        >
          <span class="number" aria-hidden="true">{{ i + 1 }}</span>{{ step.title
          }}<span class="quiet">{{
            { done: 'done', now: '', later: $t('collect.skipped'), open: '' }[stateOf(step)]
          }}</span>
        </button>
        <div v-if="open === step.id" class="body">
          <template v-if="step.id === 'key'">
            <p>
              {{
                $t('collect.everyRecordPasswordAndKey', {
                  key: view.key === 'file' ? $t('collect.itIsStoredInThe') : $t('collect.itComesFromTheEnvironment'),
                })
              }}
            </p>
            <v-btn variant="flat" @click="keyKept = true">{{ $t('collect.iHaveACopy') }}</v-btn>
          </template>
          <CredentialList v-else-if="step.id === 'credential'" :credentials="credentials ?? []" @changed="load" />
          <template v-else-if="step.id === 'devices'">
            <p>
              {{
                view.devices === 0
                  ? $t('collect.addDevicesWithAddressPort')
                  : $t('collect.devicesAdded', { devices: view.devices })
              }}
            </p>
            <v-btn variant="flat" @click="adding = true">{{ $t('collect.addDevices') }}</v-btn>
          </template>
          <template v-else-if="step.id === 'collection'">
            <p>
              {{ $t('collect.collectsConfigurationsAndStatesOf', { devices: view.devices }) }}
              <router-link to="snapshots/collect">{{ $t('collect.collection') }}</router-link>
              {{ $t('collect.showsTheStep') }}
            </p>
            <p v-if="running" role="status">{{ $t('collect.of', { done: running.done, total: running.total }) }}</p>
            <v-btn v-if="running" @click="attempt(() => jobs.stop(running as JobView))">{{ $t('common.stop') }}</v-btn>
            <v-btn v-else variant="flat" :disabled="view.devices === 0 || view.credentials === 0" @click="collect">{{
              $t('collect.collectFromAll', { devices: view.devices })
            }}</v-btn>
          </template>
          <ScheduleList v-else-if="step.id === 'schedule'" @changed="load" />
          <AlertList v-else-if="step.id === 'alert'" @changed="load" />
          <p v-if="!step.done">
            <v-btn size="small" variant="text" @click="leave(step.id)">{{ $t('collect.moveDown') }}</v-btn>
          </p>
        </div>
      </li>
    </ol>
    <ConnectionDialog
      v-if="adding && reach"
      :reach="null"
      :dialects="reach.dialects"
      @done="((adding = false), load())"
      @left="adding = false"
    />
  </div>
</template>

<style scoped>
.steps {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-width: 640px;
}
.steps li {
  border-left: 3px solid rgb(var(--v-theme-rule));
  padding: 2px 0 10px 14px;
}
.steps .done {
  border-left-color: rgb(var(--v-theme-pass));
}
.steps .now {
  border-left-color: rgb(var(--v-theme-primary));
}
.head {
  display: flex;
  gap: 10px;
  align-items: baseline;
  font: inherit;
  font-weight: 600;
  background: none;
  border: 0;
  padding: 4px 0;
  min-height: 28px;
  cursor: pointer;
  color: inherit;
}
.head .quiet {
  font-weight: 400;
}
.number {
  font-family: var(--serif);
  font-size: 20px;
  width: 22px;
}
.body {
  display: grid;
  gap: 10px;
  justify-items: start;
  padding: 6px 0 6px 32px;
}
.body > .panel {
  width: 100%;
}
</style>

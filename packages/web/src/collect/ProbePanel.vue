<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { BodyOf } from '@jurybox/api/endpoint'
import { runProbe } from '@jurybox/api/collecting'
import type { JobView } from '@jurybox/api/jobs'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import { useJobs } from '../stores/jobs.ts'

/** Asks this device about another; the answer is kept as a record and its lines are shown. */
const props = defineProps<{ device: string }>()
const engagement = useEngagement()
const exhibit = useExhibit()
const jobs = useJobs()
const route = useRoute()
const router = useRouter()
const { problem, attempt } = useAttempt()
const probe = ref<BodyOf<typeof runProbe>['probe']>('ping')
const target = ref('')
const asked = ref<number | null>(null)
const PROBES = [
  { value: 'ping', title: t('collect.ping') },
  { value: 'lookup', title: t('collect.resolveName') },
  { value: 'path', title: t('collect.traceRoute') },
]
const job = computed<JobView | null>(() => jobs.jobs.find(({ id }) => id === asked.value) ?? null)
watch(
  () => job.value?.state,
  async (state) => {
    const record = job.value?.params.recordId
    if (state !== 'done' || record === undefined) return
    exhibit.open = true
    // The page comes up again as of the new snapshot, with this record beside it.
    await router.replace({ query: { ...route.query, record: String(record) } })
    await engagement.refresh()
    await exhibit.show(record)
  },
)
const ask = () =>
  attempt(async () => {
    const begun = await call(runProbe, {
      body: { device: props.device, probe: probe.value, target: target.value.trim() },
    })
    jobs.hear(begun)
    asked.value = begun.id
  })
</script>

<template>
  <form class="probe" @submit.prevent="ask">
    <v-select v-model="probe" :items="PROBES" :label="$t('collect.testFromThisDevice')" />
    <v-text-field v-model="target" :label="$t('collect.nameOrAddress')" autocomplete="off" spellcheck="false" />
    <v-btn v-if="job?.state === 'running'" @click="attempt(() => jobs.stop(job as JobView))">{{
      $t('common.stop')
    }}</v-btn>
    <v-btn v-else type="submit" :disabled="target.trim() === ''">{{ $t('collect.run') }}</v-btn>
    <p v-if="job" class="quiet" role="status">{{ job.message }}</p>
    <ProblemNote :text="problem" />
  </form>
</template>

<style scoped>
.probe {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr) auto;
  gap: 10px;
  align-items: center;
  padding: 12px;
}
.probe p {
  grid-column: 1 / -1;
}
</style>

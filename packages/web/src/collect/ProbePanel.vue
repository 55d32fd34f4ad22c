<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '../api/client.ts'
import type { JobView } from '../api/types.ts'
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
const probe = ref('ping')
const target = ref('')
const asked = ref<number | null>(null)
const PROBES = [
  { value: 'ping', title: 'Is it there?' },
  { value: 'lookup', title: 'What is its address?' },
  { value: 'path', title: 'Which way does it lie?' },
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
    const begun = await api.post<JobView>(`${engagement.base}/probes`, {
      device: props.device,
      probe: probe.value,
      target: target.value.trim(),
    })
    jobs.hear(begun)
    asked.value = begun.id
  })
</script>

<template>
  <form class="probe" @submit.prevent="ask">
    <v-select v-model="probe" :items="PROBES" label="Ask from here" />
    <v-text-field v-model="target" label="Name or address" autocomplete="off" spellcheck="false" />
    <v-btn v-if="job?.state === 'running'" @click="attempt(() => jobs.stop(job as JobView))">Stop</v-btn>
    <v-btn v-else type="submit" :disabled="target.trim() === ''">Ask</v-btn>
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

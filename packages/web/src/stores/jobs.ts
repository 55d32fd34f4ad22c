import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api } from '../api/client.ts'
import type { JobView } from '../api/types.ts'
import { useEngagement } from './engagement.ts'

/** Long work, kept up to date by server-sent events. */
export const useJobs = defineStore('jobs', () => {
  const engagement = useEngagement()
  const jobs = ref<JobView[]>([])
  const running = computed(() => jobs.value.filter((job) => job.state === 'running'))
  let source: EventSource | null = null
  let heardBy: ((job: JobView) => void)[] = []

  async function listen(): Promise<void> {
    source?.close()
    source = new EventSource(`/api${engagement.base}/events`)
    source.addEventListener('job', (event) => hear(JSON.parse(String((event as MessageEvent).data)) as JobView))
    // After a break in the line the events in between are lost: ask for where things stand.
    source.addEventListener('open', () => void load())
    await load()
  }

  async function load(): Promise<void> {
    jobs.value = await api.get<JobView[]>(`${engagement.base}/jobs`)
  }

  function hear(job: JobView): void {
    const at = jobs.value.findIndex((known) => known.id === job.id)
    if (at < 0) jobs.value.unshift(job)
    else jobs.value[at] = job
    if (job.state !== 'running') void engagement.refresh()
    for (const listener of heardBy) listener(job)
  }

  function silence(): void {
    source?.close()
    source = null
  }

  /** @returns a function that ends the listening */
  function onJob(listener: (job: JobView) => void): () => void {
    heardBy.push(listener)
    return () => (heardBy = heardBy.filter((other) => other !== listener))
  }

  const stop = (job: JobView): Promise<void> => api.post(`${engagement.base}/jobs/${job.id}/stop`)
  const again = (job: JobView): Promise<JobView> => api.post<JobView>(`${engagement.base}/jobs/${job.id}/again`)

  return { jobs, running, listen, silence, onJob, stop, again, hear }
})

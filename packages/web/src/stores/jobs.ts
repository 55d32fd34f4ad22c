import { type JobView, listJobs, stopJob, listenToEvents } from '@jurybox/api/jobs'
import { retryJob } from '@jurybox/api/audits'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { call, addressOf } from '../api/client.ts'
import { t } from '../messages/index.ts'
import { useEngagement } from './engagement.ts'
import { useToasts } from './toasts.ts'

/** Names of jobs and of their states, and the page that shows what came of one. */
export const KINDS: Readonly<Record<string, string>> = {
  audit: t('frame.kindAudit'),
  collect: t('frame.kindCollect'),
  discover: t('frame.kindDiscover'),
  evidence: t('frame.kindEvidence'),
  probe: t('frame.kindProbe'),
}
export const STATES: Readonly<Record<JobView['state'], string>> = {
  running: t('frame.stateRunning'),
  done: t('frame.stateDone'),
  stopped: t('frame.stateStopped'),
  failed: t('frame.stateFailed'),
  interrupted: t('frame.stateInterrupted'),
}
const PLACES: Readonly<Record<string, string>> = {
  audit: 'verdicts',
  evidence: 'reports/evidence',
  collect: 'snapshots',
  discover: 'snapshots/discover',
}

/** Jobs, kept up to date by server-sent events. */
export const useJobs = defineStore('jobs', () => {
  const engagement = useEngagement()
  const toasts = useToasts()
  const jobs = ref<JobView[]>([])
  const running = computed(() => jobs.value.filter((job) => job.state === 'running'))
  let source: EventSource | null = null
  let heardBy: ((job: JobView) => void)[] = []

  async function listen(): Promise<void> {
    source?.close()
    source = new EventSource(addressOf(listenToEvents))
    source.addEventListener('job', (event) => hear(JSON.parse(String((event as MessageEvent).data)) as JobView))
    // After a break in the line the events in between are lost: ask for where things stand.
    source.addEventListener('open', () => void load())
    await load()
  }

  async function load(): Promise<void> {
    jobs.value = await call(listJobs)
  }

  function hear(job: JobView): void {
    const at = jobs.value.findIndex((known) => known.id === job.id)
    const before = jobs.value[at]
    if (at < 0) jobs.value.unshift(job)
    else jobs.value[at] = job
    if (job.state !== 'running') {
      void engagement.refresh()
      if (before?.state === 'running') tellEnd(job)
    }
    for (const listener of heardBy) listener(job)
  }

  /** A job that ended says so, with a link to its result; the browser too where its user allowed that. */
  function tellEnd({ kind, state, message }: JobView): void {
    const words = { kind: KINDS[kind] ?? kind, state: STATES[state], message }
    const text = state === 'done' ? t('frame.jobDone', words) : t('frame.jobEnded', words)
    const place = PLACES[kind]
    toasts.show(text, {
      tone: state === 'done' ? 'plain' : 'fail',
      ...(place ? { to: `/e/${engagement.id}/${place}` } : {}),
    })
    if (document.hidden && 'Notification' in window && Notification.permission === 'granted')
      new Notification('Jury Box', { body: text })
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

  const stop = (job: JobView): Promise<void> => call(stopJob, { params: { job: job.id } })
  const again = (job: JobView): Promise<JobView> => call(retryJob, { params: { job: job.id } })

  return { jobs, running, listen, silence, onJob, stop, again, hear }
})

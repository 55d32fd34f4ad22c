import { listJobs, listenToEvents, stopJob } from '@jurybox/api/jobs'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'

const HEARTBEAT_MS = 20_000
/** Streams of progress for one user at a time. */
const STREAMS_EACH = 30
const streams = new Map<number, number>()

export const jobRoutes = [
  route(listJobs, async ({ services, engagementId, query }) => services.jobs.list(engagementId, query.limit)),
  route(stopJob, async ({ services, caller, engagementId, params }) => {
    const job = await services.jobs.find(params.job, engagementId)
    if (!job) throw new Problem(404, 'There is no such job in this engagement.')
    if (!services.jobs.stop(job.id))
      throw new Problem(409, 'This job cannot be stopped any more: it has ended, or its result is being saved.')
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'job stopped',
      detail: { job: job.id },
    })
    return undefined
  }),
  route(listenToEvents, async ({ services, engagementId, request, response, caller }) => {
    const { id: userId } = caller.user
    const open = streams.get(userId) ?? 0
    if (open >= STREAMS_EACH) throw new Problem(429, `Too many open pages (${STREAMS_EACH}). Close one of them.`)
    streams.set(userId, open + 1)
    response.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      Connection: 'keep-alive',
      'X-Accel-Buffering': 'no',
    })
    response.write(': listening\n\n')
    const end = services.jobs.listen(engagementId, (job) =>
      response.write(`event: job\ndata: ${JSON.stringify(job)}\n\n`),
    )
    // Users who signed out or were removed from the engagement get nothing more.
    const beat = setInterval(
      () => void stillMay().then((may) => (may ? response.write(': \n\n') : response.end())),
      HEARTBEAT_MS,
    )
    const stillMay = async (): Promise<boolean> => {
      try {
        return await services.sessions.hears(caller.token, engagementId)
      } catch (error) {
        services.log.warn({ error: String(error) }, 'a stream was ended')
        return false
      }
    }
    const stop = (): void => void response.end()
    services.closing.signal.addEventListener('abort', stop)
    const offEnded = services.sessions.onEnded(
      (ended) => ended === userId && void stillMay().then((may) => may || response.end()),
    )
    let left = false
    const leave = (): void => {
      if (left) return
      left = true
      clearInterval(beat)
      services.closing.signal.removeEventListener('abort', stop)
      offEnded()
      streams.set(userId, (streams.get(userId) ?? 1) - 1)
      end()
    }
    response.on('close', leave)
    // Who left while we found out who asks has closed already, and is not heard to close again.
    if (response.closed || request.socket.destroyed) leave()
    return undefined
  }),
]

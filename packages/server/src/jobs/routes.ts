import { z } from 'zod'
import { Problem } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'

const HEARTBEAT_MS = 20_000
/** Streams of progress for one user at a time. */
const STREAMS_EACH = 30
const streams = new Map<number, number>()

export const jobRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/jobs',
    access: 'read',
    summary: 'Long work, newest first',
    query: z.object({ limit: z.coerce.number().int().min(1).max(100).default(20) }),
    handle: async ({ services, engagementId, query }) => services.jobs.list(engagementId, query.limit),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/jobs/:job/stop',
    access: 'run',
    summary: 'Stops long work',
    handle: async ({ services, caller, engagementId, params }) => {
      const job = await services.jobs.find(idIn(params, 'job'), engagementId)
      if (!job) throw new Problem(404, 'There is no such job in this engagement.')
      if (!services.jobs.stop(job.id))
        throw new Problem(409, 'This job can no longer be stopped: it has ended, or its result is being saved.')
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'job stopped',
        detail: { job: job.id },
      })
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/events',
    access: 'read',
    summary: 'Progress of long work as server-sent events',
    handle: async ({ services, engagementId, request, response, caller }) => {
      const { id: userId } = caller.user
      const open = streams.get(userId) ?? 0
      if (open >= STREAMS_EACH)
        throw new Problem(429, `You listen in ${STREAMS_EACH} pages already: close one of them.`)
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
    },
  }),
]

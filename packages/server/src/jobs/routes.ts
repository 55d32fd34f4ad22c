import { z } from 'zod'
import { Problem } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'

const HEARTBEAT_MS = 20_000

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
      if (!services.jobs.stop(job.id)) throw new Problem(409, 'This job is not running.')
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'job stopped', detail: { job: job.id } })
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/events',
    access: 'read',
    summary: 'Progress of long work as server-sent events',
    handle: async ({ services, engagementId, request, response }) => {
      response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', Connection: 'keep-alive', 'X-Accel-Buffering': 'no' })
      response.write(': listening\n\n')
      const end = services.jobs.listen(engagementId, (job) => response.write(`event: job\ndata: ${JSON.stringify(job)}\n\n`))
      const beat = setInterval(() => response.write(': \n\n'), HEARTBEAT_MS)
      const leave = (): void => {
        clearInterval(beat)
        end()
      }
      response.on('close', leave)
      // Who left while we found out who asks has closed already, and is not heard to close again.
      if (response.closed || request.socket.destroyed) leave()
      return undefined
    },
  }),
]

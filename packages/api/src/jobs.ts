import { z } from 'zod'
import { endpoint } from './endpoint.ts'

/** How a device came out of a collection. */
export const deviceResult = z.strictObject({
  device: z.string(),
  ok: z.boolean(),
  step: z.string().nullable(),
  reason: z.string().nullable(),
  records: z.number(),
  without: z.array(z.string()).optional(),
})
export type DeviceResult = z.infer<typeof deviceResult>

export const jobView = z.strictObject({
  id: z.number(),
  kind: z.string(),
  state: z.enum(['stopped', 'failed', 'running', 'done', 'interrupted']),
  done: z.number(),
  total: z.number(),
  message: z.string(),
  /** What it works on, and what came of it; each kind of job has more of its own. */
  params: z.looseObject({
    snapshotId: z.number().optional(),
    auditId: z.number().optional(),
    recordId: z.number().optional(),
    results: z.array(deviceResult).optional(),
  }),
  createdAt: z.string(),
  finishedAt: z.string().nullable(),
})
export type JobView = z.infer<typeof jobView>

/** Jobs of the engagement, newest first. */
export const listJobs = endpoint({
  method: 'get',
  path: '/engagements/:engagement/jobs',
  access: 'read',
  summary: 'Jobs of the engagement, newest first',
  query: z.object({ limit: z.coerce.number().int().min(1).max(100).default(20) }),
  response: z.array(jobView),
})

/** Stops a job. */
export const stopJob = endpoint({
  method: 'post',
  path: '/engagements/:engagement/jobs/:job/stop',
  access: 'run',
  summary: 'Stops a job',
})

/** Job progress as server-sent events. */
export const listenToEvents = endpoint({
  method: 'get',
  path: '/engagements/:engagement/events',
  access: 'read',
  summary: 'Job progress as server-sent events',
  events: { job: jobView },
})

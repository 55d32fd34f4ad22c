import { In } from 'typeorm'
import { z } from 'zod'
import { isPrefix } from '../collect/ranges.ts'
import { Engagements } from '../db/entities.ts'
import { Sightings, type StoredSighting } from '../db/estate-entities.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { viewOf } from '../jobs/board.ts'
import { discoveryPlanSchema } from './plan.ts'
import type { FoundWithKey } from './service.ts'

const prefix = z.string().trim().refine(isPrefix, 'a prefix, such as 10.40.0.0/16')

function sightingView({
  id,
  jobId,
  kind,
  device,
  found,
  why,
  state,
  decidedByName,
  decidedAt,
  createdAt,
}: StoredSighting) {
  const { hostKey: _, credential: __, ...seen } = (found ?? {}) as Partial<FoundWithKey>
  return {
    id,
    jobId,
    kind,
    device,
    found: found === null ? null : seen,
    why,
    state,
    by: decidedByName,
    decidedAt: decidedAt?.toISOString() ?? null,
    at: createdAt.toISOString(),
  }
}

export const discoveryRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/discovery',
    access: 'read',
    summary:
      'What the last discovery found and what was said of it, the ranges in which devices may be tried, and translations on the way',
    handle: async ({ services, engagementId }) => {
      const { connectRanges, translations } = await services.database
        .getRepository(Engagements)
        .findOneByOrFail({ id: engagementId })
      const last = await services.jobs.lastDone(engagementId, 'discover')
      const rows = last
        ? await services.database
            .getRepository(Sightings)
            .find({ where: { jobId: last.id }, order: { kind: 'ASC', device: 'ASC' } })
        : []
      const ports = (await services.collecting.connections(engagementId)).map(({ port }) => port)
      const usual =
        ports.sort(
          (a, b) => ports.filter((port) => port === b).length - ports.filter((port) => port === a).length,
        )[0] ?? 22
      return {
        port: usual,
        ranges: connectRanges,
        translations,
        last: last && { ...viewOf(last) },
        sightings: rows.map(sightingView),
      }
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/discoveries/tries',
    access: 'collect',
    summary: 'How many addresses a plan would try one by one, or why it may not',
    body: discoveryPlanSchema,
    handle: async ({ services, engagementId, body }) => ({ tries: await services.discovery.tries(engagementId, body) }),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/discoveries',
    access: 'collect',
    summary:
      'Looks for devices, from first ones by their neighbours and in a range; what is found waits to be looked over',
    body: z.strictObject({ plan: discoveryPlanSchema, confirmed: z.int().nullable().default(null) }),
    handle: async ({ services, caller, engagementId, body: { plan, confirmed } }) => {
      const job = await services.discovery.start(engagementId, caller.user.id, plan, confirmed)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'discovery started',
        detail: { job: job.id, plan },
      })
      return viewOf(job)
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/discovery/decide',
    access: 'collect',
    summary: 'Says of what was found whether the estate follows; says what came of each',
    body: z.strictObject({
      sightings: z.array(z.int().positive()).min(1).max(2000),
      decision: z.enum(['take', 'apart', 'leave']),
    }),
    handle: async ({ services, caller, engagementId, body: { sightings, decision } }) => {
      const rows = await services.database.getRepository(Sightings).findBy({ engagementId, id: In(sightings) })
      const came: { device: string; ok: boolean; what: string }[] = []
      for (const row of rows) {
        try {
          came.push({ device: row.device, ok: true, what: await services.discovery.decide(row, decision, caller.user) })
        } catch (error) {
          if (!(error instanceof Problem)) throw error
          came.push({ device: row.device, ok: false, what: error.message })
        }
      }
      return { came }
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/translations',
    access: 'manage',
    summary: 'Prefixes that are reached through others of the same length',
    body: z.strictObject({
      translations: z
        .array(
          z
            .strictObject({ from: prefix, to: prefix })
            .refine(
              ({ from, to }) => from.split('/')[1] === to.split('/')[1] && from.includes(':') === to.includes(':'),
              'two prefixes of one family and length',
            ),
        )
        .max(20),
    }),
    handle: async ({ services, caller, engagementId, body: { translations } }) => {
      await services.database.getRepository(Engagements).update({ id: engagementId }, { translations })
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'translations set',
        detail: { translations },
      })
      return { translations }
    },
  }),
]

import { z } from 'zod'
import { Schedules, type Schedule } from '../db/entities.ts'
import { discoveryPlanSchema } from '../discovery/plan.ts'
import { Problem, notFound } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import { lineOf } from '../http/text.ts'
import { cronOf, nextTimes, rhythmSchema, wordsFor, type Rhythm } from './when.ts'

const SHOWN = 5

/** @throws Problem that says what is wrong with the times */
function timesOf(cron: string, zone: string): string[] {
  try {
    return nextTimes(cron, zone, new Date(), SHOWN).map((time) => time.toISOString())
  } catch (error) {
    throw new Problem(422, error instanceof Error ? error.message : String(error))
  }
}

const when = { rhythm: rhythmSchema, zone: z.string().min(1).max(64) }

function planned({ rhythm, zone }: { rhythm: Rhythm; zone: string }): { cron: string; words: string; next: string[] } {
  const cron = cronOf(rhythm)
  return { cron, words: wordsFor(cron), next: timesOf(cron, zone) }
}

function viewOf({
  id,
  title,
  does,
  cron,
  zone,
  devices,
  benchmarks,
  word,
  looks,
  discovery,
  paused,
  lastAt,
  lastSaid,
}: Schedule) {
  return {
    id,
    title,
    does,
    cron,
    words: wordsFor(cron),
    zone,
    devices,
    benchmarks,
    word,
    looks,
    discovery,
    paused,
    lastAt: lastAt?.toISOString() ?? null,
    lastSaid,
    next: paused ? [] : timesOf(cron, zone),
  }
}

export const scheduleRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/schedules',
    access: 'read',
    summary: 'What is done again and again, with the next five times',
    handle: async ({ services, engagementId }) =>
      (await services.database.getRepository(Schedules).find({ where: { engagementId }, order: { id: 'ASC' } })).map(
        viewOf,
      ),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/schedules/times',
    access: 'run',
    summary: 'The next five times of a rhythm, in words and as cron',
    body: z.strictObject(when),
    handle: async ({ body }) => planned(body),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/schedules',
    access: 'run',
    large: true,
    summary: 'Collects, audits, both, or looks for devices, again and again',
    body: z.strictObject({
      title: lineOf(120),
      does: z.enum(['collect', 'audit', 'both', 'discover']),
      ...when,
      devices: z.array(z.string()).min(1).nullable().default(null),
      benchmarks: z.array(z.string()).max(10).default([]),
      word: z.string().trim().min(3).max(80).nullable().default(null),
      looks: z.boolean().default(false),
      discovery: discoveryPlanSchema.nullable().default(null),
      /** Addresses of its range that whoever asks has agreed to. */ confirmed: z.int().nullable().default(null),
    }),
    handle: async ({ services, caller, engagementId, body: { rhythm, zone, confirmed, ...body } }) => {
      const { cron, words } = planned({ rhythm, zone })
      if ((body.does === 'discover') !== (body.discovery !== null))
        throw new Problem(422, 'A discovery says where it begins, and nothing else does.')
      if (body.discovery) {
        const tries = await services.discovery.tries(engagementId, body.discovery)
        if (tries > 0 && confirmed !== tries)
          throw new Problem(
            422,
            `${tries} addresses of ${body.discovery.range} would be tried: agree to that number first.`,
            { tries },
          )
      }
      if ((body.does === 'audit' || body.does === 'both') && body.benchmarks.length === 0)
        throw new Problem(422, 'An audit needs a benchmark: choose one at least.')
      for (const id of body.benchmarks) await services.benchmarks.inEngagement(engagementId, id)
      const rows = services.database.getRepository(Schedules)
      const saved = await rows.save(
        rows.create({
          engagementId,
          ...body,
          cron,
          zone,
          paused: false,
          lastAt: null,
          lastSaid: '',
          createdBy: caller.user.id,
          createdAt: new Date(),
        }),
      )
      services.schedules.arm(saved)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'schedule added',
        detail: { title: body.title, does: body.does, when: words, zone },
      })
      return viewOf(saved)
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/schedules/:schedule',
    access: 'run',
    summary: 'Pauses a schedule, or lets it go on',
    body: z.strictObject({ paused: z.boolean() }),
    handle: async ({ services, caller, engagementId, params, body }) => {
      const rows = services.database.getRepository(Schedules)
      const schedule = await rows.findOneBy({ id: idIn(params, 'schedule'), engagementId })
      if (!schedule) throw notFound('schedule')
      // What fell into a pause was not missed.
      const saved = await rows.save({
        ...schedule,
        paused: body.paused,
        lastAt: body.paused ? schedule.lastAt : new Date(),
      })
      services.schedules.arm(saved)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: body.paused ? 'schedule paused' : 'schedule goes on',
        detail: { title: schedule.title },
      })
      return viewOf(saved)
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/schedules/:schedule',
    access: 'run',
    summary: 'Takes a schedule away',
    handle: async ({ services, caller, engagementId, params }) => {
      const id = idIn(params, 'schedule')
      if (((await services.database.getRepository(Schedules).delete({ id, engagementId })).affected ?? 0) === 0)
        throw notFound('schedule')
      services.schedules.disarm(id)
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'schedule removed', detail: { id } })
      return undefined
    },
  }),
]

import { type Rhythm } from '@jurybox/api/rhythm'
import type { BodyOut } from '@jurybox/api/endpoint'
import {
  addSchedule,
  changeSchedule,
  deleteSchedule,
  listSchedules,
  pauseSchedule,
  previewSchedule,
  runSchedule,
} from '@jurybox/api/schedules'
import { Schedules, type Schedule } from './entity.ts'
import { Groups } from '../groups/entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { cronOf, nextTimes, rhythmOf, wordsFor } from './when.ts'

const SHOWN = 5

/** @throws Problem that says what is wrong with the times */
function timesOf(cron: string, zone: string): string[] {
  try {
    return nextTimes(cron, zone, new Date(), SHOWN).map((time) => time.toISOString())
  } catch (error) {
    throw new Problem(422, error instanceof Error ? error.message : String(error))
  }
}

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
  group,
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
    rhythm: rhythmOf(cron),
    devices,
    group,
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

/** @throws Problem where there is none of that number */
async function found({ database }: Services, engagementId: number, id: number): Promise<Schedule> {
  const schedule = await database.getRepository(Schedules).findOneBy({ id, engagementId })
  if (!schedule) throw notFound('schedule')
  return schedule
}

/** A plan as it is stored, with its times in words. @throws Problem where it cannot be carried out */
async function checked(
  { benchmarks, database, discovery }: Services,
  engagementId: number,
  { rhythm, zone, confirmed, ...plan }: BodyOut<typeof addSchedule>,
) {
  const { cron, words } = planned({ rhythm, zone })
  if ((plan.does === 'discover') !== (plan.discovery !== null))
    throw new Problem(422, 'Only a discovery schedule has a discovery plan, and it needs one.')
  if (plan.discovery) {
    const tries = await discovery.tries(engagementId, plan.discovery)
    if (tries > 0 && confirmed !== tries)
      throw new Problem(
        422,
        `${tries} addresses of ${plan.discovery.range} would be tried. Confirm the number first.`,
        { tries },
      )
  }
  if ((plan.does === 'audit' || plan.does === 'both') && plan.benchmarks.length === 0)
    throw new Problem(422, 'An audit needs a benchmark. Select at least one.')
  if (plan.devices !== null && plan.group !== null)
    throw new Problem(422, 'A schedule is for devices or for a group, not for both.')
  if (plan.group !== null && !(await database.getRepository(Groups).existsBy({ engagementId, title: plan.group })))
    throw new Problem(422, `There is no group “${plan.group}”.`)
  for (const id of plan.benchmarks) await benchmarks.inEngagement(engagementId, id)
  return { plan: { ...plan, cron, zone }, words }
}

export const scheduleRoutes = [
  route(listSchedules, async ({ services, engagementId }) =>
    (await services.database.getRepository(Schedules).find({ where: { engagementId }, order: { id: 'ASC' } })).map(
      viewOf,
    ),
  ),
  route(previewSchedule, async ({ body }) => planned(body)),
  route(addSchedule, async ({ services, caller, engagementId, body }) => {
    const { plan, words } = await checked(services, engagementId, body)
    const rows = services.database.getRepository(Schedules)
    const saved = await rows.save(
      rows.create({
        ...plan,
        engagementId,
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
      detail: { title: body.title, does: body.does, when: words, zone: body.zone },
    })
    return viewOf(saved)
  }),
  route(changeSchedule, async ({ services, caller, engagementId, params, body }) => {
    const schedule = await found(services, engagementId, params.schedule)
    const { plan, words } = await checked(services, engagementId, body)
    const saved = await services.database.getRepository(Schedules).save({ ...schedule, ...plan })
    services.schedules.arm(saved)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'schedule changed',
      detail: { title: body.title, does: body.does, when: words, zone: body.zone },
    })
    return viewOf(saved)
  }),
  route(runSchedule, async ({ services, caller, engagementId, params }) => {
    const schedule = await found(services, engagementId, params.schedule)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'schedule run',
      detail: { title: schedule.title },
    })
    await services.schedules.runNow(schedule)
    return viewOf(await found(services, engagementId, params.schedule))
  }),
  route(pauseSchedule, async ({ services, caller, engagementId, params, body }) => {
    const rows = services.database.getRepository(Schedules)
    const schedule = await found(services, engagementId, params.schedule)
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
      action: body.paused ? 'schedule paused' : 'schedule resumed',
      detail: { title: schedule.title },
    })
    return viewOf(saved)
  }),
  route(deleteSchedule, async ({ services, caller, engagementId, params }) => {
    const { id, title } = await found(services, engagementId, params.schedule)
    await services.database.getRepository(Schedules).delete({ id })
    services.schedules.disarm(id)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'schedule deleted',
      detail: { id, title },
    })
    return undefined
  }),
]

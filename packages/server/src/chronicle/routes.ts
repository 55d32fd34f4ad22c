import { EVENT_KINDS, getTrends, listEvents, type EventKind } from '@jurybox/api/chronicle'
import { Groups } from '../groups/entity.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { eventsOf } from './events.ts'
import { changesPerWeek, trendPoints } from './trends.ts'

/** Events that are listed at once. */
const MOST = 1000

/** The devices that a question is about; null: all. */
async function namesOf(
  services: Services,
  engagementId: number,
  of: { readonly device?: string | undefined; readonly site?: string | undefined; readonly group?: string | undefined },
): Promise<ReadonlySet<string> | null> {
  if (of.device !== undefined) return new Set([of.device])
  if (of.site === undefined && of.group === undefined) return null
  const snapshot = await services.snapshots.latest(engagementId)
  if (!snapshot) return new Set()
  if (of.group !== undefined) {
    const group = await services.database.getRepository(Groups).findOneBy({ engagementId, title: of.group })
    if (!group) throw new Problem(422, `There is no group “${of.group}”.`)
    return new Set((await services.estate.members(snapshot, [group])).get(group.title)?.inside ?? [])
  }
  const contexts = await services.estate.contexts(snapshot)
  return new Set([...contexts].flatMap(([name, { sites }]) => (sites?.includes(of.site ?? '') ? [name] : [])))
}

async function sitesOf({ snapshots, estate }: Services, engagementId: number): Promise<string[]> {
  const snapshot = await snapshots.latest(engagementId)
  const devices = snapshot ? await estate.devices(snapshot) : []
  return [...new Set(devices.flatMap(({ facts }) => facts.site ?? []))].sort()
}

export const chronicleRoutes = [
  route(listEvents, async ({ services, engagementId, query }) => {
    const kinds = new Set<EventKind>(query.kinds ?? EVENT_KINDS)
    const names = await namesOf(services, engagementId, query)
    const [from, to] = [query.from, query.to].map((at) => (at === undefined ? null : Date.parse(at)))
    const events = (await eventsOf(services, engagementId, kinds, names))
      .filter(
        ({ at, until }) =>
          (from === null || from === undefined || Date.parse(until ?? at) >= from) &&
          (to === null || to === undefined || Date.parse(at) <= to),
      )
      .sort((x, y) => (x.at < y.at ? 1 : x.at > y.at ? -1 : x.id < y.id ? -1 : 1))
    return { events: events.slice(0, MOST), more: events.length > MOST, sites: await sitesOf(services, engagementId) }
  }),
  route(getTrends, async ({ services, engagementId, query }) => {
    const names = await namesOf(services, engagementId, query)
    const changes = await eventsOf(services, engagementId, new Set(['change']), names)
    const groups = await services.database
      .getRepository(Groups)
      .find({ where: { engagementId }, order: { title: 'ASC' } })
    return {
      points: await trendPoints(services, engagementId, (name) => names?.has(name) ?? true),
      weeks: changesPerWeek(changes.map(({ at }) => new Date(at))),
      sites: await sitesOf(services, engagementId),
      groups: groups.map(({ title }) => title),
    }
  }),
]

import { listChecks, runCheckSet } from '@jurybox/api/checks'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { checkedView } from './checked-view.ts'
import { checkShelf, chosenChecks, runChecks } from './checks.ts'

export const checkRoutes = [
  route(listChecks, async ({ services, engagementId }) => {
    const { checks, sets } = await checkShelf(services.changes, engagementId)
    return {
      sets: sets.map(({ id, title, checks: own, shipped }) => ({ id, title, checks: own, shipped })),
      checks: checks.map(({ id, title, topic, of, is, settles, shipped }) => ({
        id,
        title,
        topic,
        of,
        is,
        settles: settles ?? null,
        shipped,
      })),
    }
  }),
  route(runCheckSet, async ({ services, engagementId, query }) => {
    const pair = await services.changes.snapshotsOf(engagementId, query)
    if (!pair) return null
    if (query.set === undefined && query.checks === undefined)
      throw new Problem(422, 'Name a set of checks, or checks.')
    const shelf = await checkShelf(services.changes, engagementId)
    const checks = chosenChecks(shelf, query)
    const checked = await runChecks(services, pair.a, pair.b, checks, query.devices ?? null)
    const [before, after] = [await services.estate.devices(pair.a), await services.estate.devices(pair.b)]
    const only = (side: 'a' | 'b', own: typeof before, others: typeof before) => {
      const known = new Set(others.map(({ id }) => id))
      return own
        .filter(({ id, name }) => (query.devices?.includes(name) ?? true) && !known.has(id))
        .map(({ name }) => ({ name, only: side }))
    }
    return {
      results: checked.map((one) => checkedView(one, shelf)),
      absent: [...only('a', before, after), ...only('b', after, before)],
    }
  }),
]

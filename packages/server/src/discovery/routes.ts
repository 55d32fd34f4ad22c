import {
  countDiscoveryTries,
  decideSightings,
  getDiscovery,
  setTranslations,
  startDiscovery,
} from '@jurybox/api/discovery'
import { In } from 'typeorm'
import { Devices } from '../estate/entity.ts'
import { Engagements } from '../engagements/entity.ts'
import type { FirstFacts } from '../collect/entity.ts'
import { Sightings, type StoredSighting } from './entity.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { viewOf } from '../jobs/board.ts'
import type { Services } from '../services.ts'
import type { FoundWithKey } from './service.ts'

/** What was found, without its key and the credential that fits. */
function shownOf({ hostKey: _, credential: __, ...seen }: FoundWithKey): Omit<FoundWithKey, 'hostKey' | 'credential'> {
  return seen
}

/** Site and role of the devices of an engagement, by name, and the roles of each model. */
async function hints(services: Services, engagementId: number) {
  const snapshot = await services.snapshots.latest(engagementId)
  const devices = await services.database.getRepository(Devices).findBy({ engagementId })
  const facts = new Map(devices.map(({ name, facts: of }) => [name, of as FirstFacts]))
  const running = snapshot ? await services.estate.patiently(() => services.estate.running(snapshot)) : new Map()
  const roles = new Map<string, string[]>()
  for (const [name, runs] of running) {
    const role = facts.get(name)?.role
    if (runs.model && role) roles.set(runs.model, [...(roles.get(runs.model) ?? []), role])
  }
  return { facts, roles }
}
type Hints = Awaited<ReturnType<typeof hints>>

/** What all of them say alike; null where they differ, or say nothing. */
function agreed(all: readonly (string | undefined)[]): string | null {
  const said = new Set(all.filter((one) => one !== undefined))
  return said.size === 1 ? ([...said][0] ?? null) : null
}

const sightingView =
  ({ facts, roles }: Hints) =>
  ({ id, jobId, kind, device, found, why, state, decidedByName, decidedAt, createdAt }: StoredSighting) => ({
    id,
    jobId,
    kind,
    device,
    found: found && shownOf(found as FoundWithKey),
    why,
    state,
    by: decidedByName,
    decidedAt: decidedAt?.toISOString() ?? null,
    at: createdAt.toISOString(),
    suggested: {
      site: agreed((found?.neighbourOf ?? []).map((name) => facts.get(name)?.site)),
      role: agreed(roles.get(found?.model ?? '') ?? []),
    },
  })

export const discoveryRoutes = [
  route(getDiscovery, async ({ services, engagementId }) => {
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
      ports.sort((a, b) => ports.filter((port) => port === b).length - ports.filter((port) => port === a).length)[0] ??
      22
    return {
      port: usual,
      ranges: connectRanges,
      translations,
      last: last && { ...viewOf(last) },
      sightings: rows.map(sightingView(await hints(services, engagementId))),
    }
  }),
  route(countDiscoveryTries, async ({ services, engagementId, body }) => ({
    tries: await services.discovery.tries(engagementId, body),
  })),
  route(startDiscovery, async ({ services, caller, engagementId, body: { plan, confirmed } }) => {
    const job = await services.discovery.start(engagementId, caller.user.id, plan, confirmed)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'discovery started',
      detail: { job: job.id, plan },
    })
    return viewOf(job)
  }),
  route(decideSightings, async ({ services, caller, engagementId, body: { sightings, decision, facts } }) => {
    const rows = await services.database.getRepository(Sightings).findBy({ engagementId, id: In(sightings) })
    const came: { device: string; ok: boolean; what: string }[] = []
    for (const row of rows) {
      try {
        came.push({
          device: row.device,
          ok: true,
          what: await services.discovery.decide(row, decision, caller.user, facts),
        })
      } catch (error) {
        if (!(error instanceof Problem)) throw error
        came.push({ device: row.device, ok: false, what: error.message })
      }
    }
    return { came }
  }),
  route(setTranslations, async ({ services, caller, engagementId, body: { translations } }) => {
    await services.database.getRepository(Engagements).update({ id: engagementId }, { translations })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'translations set',
      detail: { translations },
    })
    return { translations }
  }),
]

import {
  deleteReference,
  deriveReferences,
  getReferenceAnswer,
  getReferenceRule,
  listReferences,
  saveReference,
} from '@jurybox/api/references'
import { ruleOfReference } from '@jurybox/core/authoring'
import type { CitedLines } from '@jurybox/core/compare'
import type { Reference, ReferenceAnswer } from '@jurybox/core/references'
import { features } from '@jurybox/content'
import { stringify } from 'yaml'
import type { EstateDevice } from '../estate/service.ts'
import { Groups } from '../groups/entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import type { User } from '../auth/entity.ts'

const NOT_MATCHING = new Set(['extra', 'forbidden', 'out-of-order'])

function outcomeView(answer: ReferenceAnswer | undefined) {
  const lines = answer?.lines ?? []
  return {
    // A device of which nothing can be read is not said to conform.
    outcome: answer?.outcome ?? ('undecided' as const),
    missing: lines.filter(({ state }) => state === 'missing').length,
    extra: lines.filter(({ state }) => NOT_MATCHING.has(state)).length,
    undecided: lines.filter(({ state }) => state === 'undecided').length,
  }
}

function linesOf({ records }: EstateDevice, lines: readonly CitedLines[]) {
  return lines.flatMap(({ record, from, to }) => {
    const id = records[Number(record)]?.id
    return id === undefined ? [] : [{ record: id, from, to }]
  })
}

/** Keeps the references of an engagement as a new version of their file. */
async function keep(
  services: Services,
  engagementId: number,
  references: readonly Reference[],
  user: User,
): Promise<number> {
  const text = stringify({ references }, { lineWidth: 0 })
  const version = await services.changes.save(engagementId, 'references', text, user)
  await services.activity.add({
    userId: user.id,
    engagementId,
    action: 'change file saved',
    detail: { kind: 'references', version },
  })
  return version
}

export const referenceRoutes = [
  route(listReferences, async ({ services, engagementId, query }) => {
    const references = await services.changes.references(engagementId)
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    const held = snapshot && references.length > 0 ? await services.changes.held(snapshot, references) : new Map()
    const groups = snapshot ? await groupsOf(services, snapshot) : new Map<string, string[]>()
    return {
      version: (await services.changes.file(engagementId, 'references'))?.version ?? 0,
      references: references.map(({ id, title, feature, dialect, note, scope }) => ({
        id,
        title,
        feature,
        dialect,
        note,
        scope: scope ?? null,
      })),
      features: features().map(({ id, title, statements }) => ({ id, title, dialects: Object.keys(statements) })),
      devices: [...held].map(
        ([name, { device, answers }]: [string, { device: EstateDevice; answers: readonly ReferenceAnswer[] }]) => ({
          device: device.id,
          name,
          site: device.facts.site ?? null,
          groups: groups.get(name) ?? [],
          outcomes: references.map((_, i) => outcomeView(answers[i])),
        }),
      ),
    }
  }),
  route(getReferenceAnswer, async ({ services, engagementId, params, query }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    const reference = (await services.changes.references(engagementId)).find(({ id }) => id === params.reference)
    if (!snapshot || !reference) throw notFound('reference')
    const held = [...(await services.changes.held(snapshot, [reference])).values()].find(
      ({ device }) => device.id === params.device,
    )
    const answer = held?.answers[0]
    if (!held || !answer) throw notFound('device')
    return { ...answer, lines: answer.lines.map((line) => ({ ...line, lines: linesOf(held.device, line.lines) })) }
  }),
  route(getReferenceRule, async ({ services, engagementId, params }) => {
    const reference = (await services.changes.references(engagementId)).find(({ id }) => id === params.reference)
    if (!reference) throw notFound('reference')
    return ruleOfReference(reference, await services.changes.benchmarkValues(engagementId, reference))
  }),
  route(deriveReferences, async ({ services, engagementId, query }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    const feature = features().find(({ id }) => id === query.feature)
    if (!feature) throw notFound('feature')
    if (!snapshot) return null
    const names = query.group === undefined ? null : await membersOf(services, snapshot, query.group)
    const found = await services.changes.derived(snapshot, feature, query.dialect, names, query.share)
    return (
      found && {
        samples: found.derived.samples,
        reference: found.reference,
        values: found.derived.values,
        state: found.derived.state,
        outliers: found.derived.outliers.map(({ name, deviations }) => ({
          name,
          deviations: deviations.map(({ kind, block, text }) => ({ kind, block, text })),
        })),
      }
    )
  }),
  route(saveReference, async ({ services, caller, engagementId, body }) => {
    const others = (await services.changes.references(engagementId)).filter(({ id }) => id !== body.id)
    return { version: await keep(services, engagementId, [...others, body], caller.user) }
  }),
  route(deleteReference, async ({ services, caller, engagementId, params }) => {
    const all = await services.changes.references(engagementId)
    const others = all.filter(({ id }) => id !== params.reference)
    if (others.length === all.length) throw notFound('reference')
    await keep(services, engagementId, others, caller.user)
    return undefined
  }),
]

/** Titles of the saved groups by device. */
async function groupsOf(
  { database, estate }: Services,
  snapshot: Parameters<Services['estate']['members']>[0],
): Promise<Map<string, string[]>> {
  const groups = await database
    .getRepository(Groups)
    .find({ where: { engagementId: snapshot.engagementId }, order: { title: 'ASC' } })
  const found = new Map<string, string[]>()
  for (const [title, { inside }] of await estate.members(snapshot, groups))
    for (const name of inside) found.set(name, [...(found.get(name) ?? []), title])
  return found
}

async function membersOf(
  { database, estate }: Services,
  snapshot: Parameters<Services['estate']['members']>[0],
  title: string,
): Promise<readonly string[]> {
  const group = await database.getRepository(Groups).findOneBy({ engagementId: snapshot.engagementId, title })
  if (!group) throw new Problem(422, `There is no group “${title}”.`)
  return (await estate.members(snapshot, [group])).get(title)?.inside ?? []
}

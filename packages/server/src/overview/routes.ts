import { getOverview } from '@jurybox/api/overview'
import { linesOf } from '@jurybox/core/analysis'
import { answersTo, coverageOf } from '@jurybox/core/benchmarks'
import { answersIn } from '../attestations/answers.ts'
import type { Audit } from '../audits/entity.ts'
import { Groups } from '../groups/entity.ts'
import { changedSince } from '../estate/standing.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

/** How old evidence is, in days: from, to before. */
export const AGES = [
  { id: 'day', title: 'within a day', days: 1 },
  { id: 'week', title: 'within a week', days: 7 },
  { id: 'month', title: 'within 30 days', days: 30 },
  { id: 'quarter', title: 'within 90 days', days: 90 },
  { id: 'older', title: 'older', days: Infinity },
] as const
const DAY_MS = 86_400_000

export const overviewRoutes = [
  route(getOverview, async ({ services, engagementId, query }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    if (!snapshot) return null
    const devices = await services.estate.devices(snapshot)
    const audit = await services.audits.of(snapshot.id)
    const changed = await changedSince(services, engagementId, snapshot.id)
    const before = await services.snapshots.before(snapshot)
    const here = new Set(devices.map(({ id }) => id))
    const gone = before
      ? (await services.estate.devices(before)).filter(({ id }) => !here.has(id)).map(({ name }) => name)
      : []
    const names = (standing: string): string[] =>
      devices.filter(({ id }) => changed.get(id) === standing).map(({ name }) => name)
    const now = Date.now()
    const ages = devices.map(({ config }) => (config.takenAt ? (now - config.takenAt.getTime()) / DAY_MS : null))
    const groups = await services.database
      .getRepository(Groups)
      .find({ where: { engagementId, counted: true }, order: { title: 'ASC' } })
    const members = groups.length > 0 ? await services.estate.members(snapshot, groups) : new Map()
    return {
      snapshot: { id: snapshot.id, title: snapshot.title, takenAt: snapshot.takenAt.toISOString() },
      before: before && { id: before.id, title: before.title, takenAt: before.takenAt.toISOString() },
      auditId: audit?.id ?? null,
      devices: devices.length,
      judged: audit
        ? new Set(
            (
              await services.database.query(
                'SELECT DISTINCT device_id AS id FROM audit_judgements WHERE audit_id = ?',
                [audit.id],
              )
            ).map(({ id }: { id: number }) => id),
          ).size
        : 0,
      ...linesIn(devices.map(({ all }) => linesOf(all))),
      down: devices.flatMap(({ name, down }) => (down === null ? [] : [{ device: name, why: down }])),
      evidence: [
        ...AGES.map(({ id, title, days }, i) => ({
          id,
          title,
          devices: ages.filter((age) => age !== null && age < days && age >= (AGES[i - 1]?.days ?? -Infinity)).length,
        })),
        { id: 'unknown', title: 'time unknown', devices: ages.filter((age) => age === null).length },
      ],
      counts: audit?.counts ?? null,
      changes: before && {
        changed: names('changed'),
        appeared: names('new'),
        gone,
        verdicts: audit ? await turnedOf(services, audit) : null,
      },
      coverage: await coverageIn(services, engagementId),
      groups: groups.map(({ id, title, text, kind }) => ({
        id,
        title,
        text,
        kind,
        devices: members.get(title)?.inside.length ?? 0,
      })),
    }
  }),
]

function linesIn(devices: readonly ReturnType<typeof linesOf>[]): ReturnType<typeof linesOf> {
  return devices.reduce((sum, { lines, unread }) => ({ lines: sum.lines + lines, unread: sum.unread + unread }), {
    lines: 0,
    unread: 0,
  })
}

/**
 * Of each framework, how many requirements rules decide here, or people have answered; those outside the network are
 * counted apart.
 */
async function coverageIn(
  { benchmarks, traffic, database }: Services,
  engagementId: number,
): Promise<{ id: string; title: string; decided: number; of: number; outside: number }[]> {
  const sources = (await benchmarks.allIn(engagementId)).map((one) => one.benchmark.source)
  const given = await answersIn(database, engagementId)
  const answered = new Set(
    sources.flatMap((source) =>
      answersTo(source, given, Date.now())
        .filter(({ answer, expired }) => answer !== null && !expired)
        .map(({ source: { id } }) => id),
    ),
  )
  const frameworks = await benchmarks.frameworksIn(engagementId)
  const lines = coverageOf(sources, frameworks, await traffic.stated(engagementId))
  return frameworks.map(({ id, title }) => {
    const own = lines.filter(({ framework }) => framework === id)
    return {
      id,
      title,
      decided: own.filter(
        ({ coverage, attestations }) =>
          coverage === 'machine' ||
          coverage === 'partly' ||
          (coverage === 'person' && attestations.some((id) => answered.has(id))),
      ).length,
      of: own.filter(({ coverage }) => coverage !== 'outside').length,
      outside: own.filter(({ coverage }) => coverage === 'outside').length,
    }
  })
}

/**
 * How many findings are new and how many resolved since the audit before, of which snapshot that was; null where there
 * is none.
 */
async function turnedOf(
  { audits, snapshots, database }: Services,
  audit: Audit,
): Promise<{ new: number; resolved: number; since: { id: number; title: string } } | null> {
  const before = await audits.before(audit)
  if (!before) return null
  const { id, title } = await snapshots.find(before.snapshotId, audit.engagementId)
  const since = { id, title }
  // What both audits name they say alike: only devices that came to something else are looked at.
  const named: { device: number }[] = await database.query(
    `SELECT DISTINCT device_id AS device
      FROM audit_judgements
      WHERE audit_id IN (?)
      GROUP BY device_id, judgement_id HAVING COUNT(*) = 1`,
    [[before.id, audit.id]],
  )
  if (named.length === 0) return { new: 0, resolved: 0, since }
  const objecting = (row: string): string => `${row}.outcome IN ('fail', 'unknown', 'error')`
  const [turned]: { come: string | null; gone: string | null }[] = await database.query(
    `SELECT SUM(${objecting('v')} AND NOT COALESCE(${objecting('e')}, 0)) AS come,
            SUM(NOT ${objecting('v')} AND COALESCE(${objecting('e')}, 0)) AS gone
       FROM audit_verdicts v
       LEFT JOIN audit_verdicts e ON e.audit_id = ?
        AND e.device_id = v.device_id AND e.benchmark = v.benchmark AND e.rule = v.rule
      WHERE v.audit_id = ? AND v.device_id IN (?) AND v.benchmark IN (?)`,
    [before.id, audit.id, named.map(({ device }) => device), before.choices.map(({ benchmark }) => benchmark)],
  )
  return { new: Number(turned?.come ?? 0), resolved: Number(turned?.gone ?? 0), since }
}

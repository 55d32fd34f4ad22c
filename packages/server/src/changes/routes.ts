import {
  CHANGE_FILES,
  approveStates,
  compareSides,
  compareSnapshots,
  exportChanges,
  exportPatch,
  getChangeFile,
  listRates,
  listSideTexts,
  setChangeFile,
  type ComparisonDoubtView,
} from '@jurybox/api/changes'
import type { CitedLines, ComparisonDoubt, Listing } from '@jurybox/core/compare'
import { comparisonLines } from '@jurybox/core/compare'
import { csvOf } from '@jurybox/core/syntax'
import { download } from '../http/download.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { ruleTitles } from '../audits/titles.ts'
import type { Services } from '../services.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import { kindTitle } from '../snapshots/service.ts'
import type { ChangeFile } from './entity.ts'
import { findingChanges } from './finding-changes.ts'
import { summaryOf, type DeviceChange, type Side } from './service.ts'

/** Changes of a device that its row shows. */
const SHOWN = 4

const momentOf = ({ id, title, takenAt }: SnapshotRow) => ({ id, title, takenAt: takenAt.toISOString() })

function countsOf(compared: DeviceChange['compared']) {
  if (!compared) return { lines: 0, meanings: 0, accessLists: 0, state: 0 }
  const { records, model, accessLists, state } = compared.comparison
  return {
    lines: records.reduce((sum, { statements }) => sum + statements.reduce((all, { inner }) => all + 1 + inner, 0), 0),
    meanings: model.length,
    accessLists: accessLists.length,
    state: state.length,
  }
}

function rowOf({ device, standing, compared, authors, configured, explained, findings }: DeviceChange) {
  const count = (change: 'new' | 'resolved'): number => findings.filter((one) => one.change === change).length
  return {
    device: device.id,
    name: device.name,
    site: device.facts.site ?? null,
    standing,
    counts: countsOf(compared),
    doubts: compared?.comparison.doubts.length ?? 0,
    summary: summaryOf(compared, SHOWN),
    authors: [...authors],
    configured,
    explained,
    findings: { new: count('new'), resolved: count('resolved') },
  }
}

interface SidesQuery {
  readonly a?: number | undefined
  readonly b?: number | undefined
  readonly deviceA: string
  readonly deviceB?: string | undefined
  readonly listingA: Listing
  readonly listingB: Listing
}

/** Two snapshots, or one: then two devices or listings of it. */
async function sidesOf(
  { changes, snapshots }: Services,
  engagementId: number,
  query: SidesQuery,
): Promise<{ readonly a: Side; readonly b: Side }> {
  const b = await snapshots.asOf(engagementId, query.b)
  if (!b) throw notFound('snapshot')
  const a = query.a === undefined ? await snapshots.before(b) : await snapshots.find(query.a, engagementId)
  if (!a) throw new Problem(422, 'There is no snapshot before this one to compare with.')
  return {
    a: await changes.side(a, query.deviceA, query.listingA),
    b: await changes.side(b, query.deviceB ?? query.deviceA, query.listingB),
  }
}

/** Lines by the records that people open. */
function citing({ device }: Side): (lines: readonly CitedLines[]) => { record: number; from: number; to: number }[] {
  return (lines) =>
    lines.flatMap(({ record, from, to }) => {
      const id = device.records[Number(record)]?.id
      return id === undefined ? [] : [{ record: id, from, to }]
    })
}

export const changeRoutes = [
  route(compareSnapshots, async ({ services, engagementId, query }) => {
    const pair = await services.changes.snapshotsOf(engagementId, query)
    if (!pair) return null
    const [before, after] = [await services.audits.of(pair.a.id), await services.audits.of(pair.b.id)]
    return {
      a: momentOf(pair.a),
      b: momentOf(pair.b),
      audited: before !== null && after !== null,
      devices: (await services.changes.between(pair.a, pair.b)).map(rowOf),
    }
  }),
  route(listRates, async ({ services, engagementId, query }) => {
    const pair = await services.changes.snapshotsOf(engagementId, query)
    if (!pair) return null
    const devices = (await services.changes.between(pair.a, pair.b)).flatMap(({ device, compared }) =>
      compared && compared.rates.rates.length + compared.rates.sensors.length > 0
        ? [{ name: device.name, ...compared.rates }]
        : [],
    )
    return { a: momentOf(pair.a), b: momentOf(pair.b), devices }
  }),
  route(exportChanges, async ({ services, engagementId, query, response }) => {
    const pair = await services.changes.snapshotsOf(engagementId, query)
    if (!pair) throw new Problem(422, 'There are no two snapshots to compare.')
    const changes = await services.changes.between(pair.a, pair.b)
    const rows = changes.flatMap((change) => {
      const head = {
        device: change.device.name,
        site: change.device.facts.site ?? '',
        standing: change.standing,
        author: change.authors.map(({ by }) => by ?? '').join(', '),
        explained: change.explained === null ? '' : `${change.explained.kind}: ${change.explained.title}`,
      }
      const lines = change.compared ? comparisonLines(change.compared.comparison) : []
      return (lines.length === 0 ? [''] : lines).map((text) => ({ ...head, change: text }))
    })
    const columns = ['device', 'site', 'standing', 'change', 'author', 'explained'] as const
    const body = csvOf(
      columns,
      rows.map((row) => columns.map((column) => row[column])),
    )
    download(response, `changes-${pair.a.id}-${pair.b.id}.csv`, 'text/csv; charset=utf-8', body)
    return undefined
  }),
  route(compareSides, async ({ services, engagementId, query }) => {
    const { a, b } = await sidesOf(services, engagementId, query)
    const { comparison, rates, lastChange } = await services.changes.sides(a, b)
    const [left, right] = [citing(a), citing(b)]
    const explained = await services.changes.explanations.between(a.snapshot, b.snapshot)
    const isOne = a.device.id === b.device.id && a.listing === b.listing
    const configured = isOne && a.device.config.settled !== b.device.config.settled
    const authors = configured ? explained.authorsOf(b.device.name, lastChange) : []
    const findings = isOne ? ((await findingChanges(services, a.snapshot, b.snapshot)).get(b.device.id) ?? []) : []
    const audit = await services.audits.of(b.snapshot.id)
    const titles = audit ? await ruleTitles(services, audit.choices) : new Map<string, string>()
    const doubtOf = (doubt: ComparisonDoubt): ComparisonDoubtView => ({
      ...doubt,
      lines: (doubt.side === 'a' ? left : right)(doubt.lines),
    })
    const sides = <T extends { readonly a: readonly CitedLines[]; readonly b: readonly CitedLines[] }>(one: T) => ({
      ...one,
      a: left(one.a),
      b: right(one.b),
    })
    return {
      a: sideView(a),
      b: sideView(b),
      records: comparison.records.map((record) => ({
        kind: record.kind,
        title: kindTitle(record.kind),
        a: recordId(a, record.a),
        b: recordId(b, record.b),
        statements: record.statements.map(sides),
      })),
      model: comparison.model.map(sides),
      accessLists: comparison.accessLists.map(sides),
      state: comparison.state.map(sides),
      doubts: comparison.doubts.map(doubtOf),
      rates,
      authors,
      explained: configured ? explained.of(b.device, authors) : null,
      findings: findings.map(({ benchmark, rule, ...one }) => ({
        ...one,
        rule,
        title: titles.get(`${benchmark} ${rule}`) ?? rule,
      })),
    }
  }),
  route(listSideTexts, async ({ services, engagementId, query }) => {
    const { a, b } = await sidesOf(services, engagementId, query)
    const texts = await services.changes.texts(a, b)
    return { a: texts.a, b: texts.b }
  }),
  route(exportPatch, async ({ services, engagementId, query, response }) => {
    const { a, b } = await sidesOf(services, engagementId, query)
    const { patch } = await services.changes.texts(a, b)
    download(response, `${a.device.name}.patch`, 'text/x-patch; charset=utf-8', patch)
    return undefined
  }),
  route(getChangeFile, async ({ services, engagementId, params, query }) => {
    const kind = kindOf(params.kind)
    const versions = await services.changes.versions(engagementId, kind)
    const file = await services.changes.file(engagementId, kind, query.version)
    if (query.version !== undefined && !file) throw notFound('version')
    return {
      kind,
      text: file?.text ?? '',
      version: file?.version ?? 0,
      versions: versions.map(({ version, setByName, setAt }) => ({ version, by: setByName, at: setAt.toISOString() })),
    }
  }),
  route(setChangeFile, async ({ services, caller, engagementId, params, body }) => {
    const kind = kindOf(params.kind)
    const version = await services.changes.save(engagementId, kind, body.text, caller.user)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'change file saved',
      detail: { kind, version },
    })
    return { version }
  }),
  route(approveStates, async ({ services, caller, engagementId, body: { snapshot: id, devices: ids, reason } }) => {
    const snapshot = await services.snapshots.find(id, engagementId)
    const devices = await services.changes.approve(snapshot, ids, reason, caller.user)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'states approved',
      detail: { snapshot: snapshot.id, devices: devices.map(({ name }) => name), reason },
    })
    return { approved: devices.length }
  }),
]

function kindOf(text: string): ChangeFile['kind'] {
  const kind = CHANGE_FILES.find((one) => one === text)
  if (!kind) throw notFound('page')
  return kind
}

function recordId({ device }: Side, record: string | null): number | null {
  return record === null ? null : (device.records[Number(record)]?.id ?? null)
}

function sideView({ snapshot, device, listing }: Side) {
  const record = device.records.find(({ kind }) => kind === listing) ?? (listing === 'config' ? device.config : null)
  return {
    snapshot: momentOf(snapshot),
    device: { id: device.id, name: device.name },
    listing,
    record: record?.id ?? null,
  }
}

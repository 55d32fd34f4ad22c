import {
  checkNetwork,
  checksFileSchema,
  readChecks,
  selectedChecks,
  type Check,
  type CheckResult,
  type CheckSet,
  type NetworkRows,
  type TableRows,
} from '@jurybox/core/checks'
import { shippedChecks } from '@jurybox/content'
import { CoreError } from '@jurybox/core'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { TrafficService } from '../traffic/service.ts'
import { ruleTitles, type Needs as TitleNeeds } from '../audits/titles.ts'
import type { EstateDevice, EstateService } from '../estate/service.ts'
import { Problem } from '../http/problem.ts'
import type { ChangeService } from './service.ts'
import { findingChanges, type Needs as FindingNeeds } from './finding-changes.ts'

/** Shipped checks and sets, and those of an engagement: of two with one id its own counts. */
export interface CheckShelf {
  readonly checks: readonly (Check & { readonly shipped: boolean })[]
  readonly sets: readonly (CheckSet & { readonly shipped: boolean })[]
}

export interface Needs extends FindingNeeds, TitleNeeds {
  readonly estate: EstateService
  readonly changes: ChangeService
  readonly traffic: TrafficService
}

/** The results of one device, as it was before and is after; of the network as a whole, both are null. */
export interface CheckedDevice {
  readonly before: EstateDevice | null
  readonly device: EstateDevice | null
  readonly results: readonly CheckResult[]
}

export async function checkShelf(changes: ChangeService, engagementId: number): Promise<CheckShelf> {
  const shipped = shippedChecks()
  const file = await changes.file(engagementId, 'checks')
  const own = file ? checksFileSchema.parse(readChecks({ path: 'checks.yaml', text: file.text })) : null
  const merged = <T extends { readonly id: string }>(mine: readonly T[], theirs: readonly T[]) => [
    ...mine.map((one) => ({ ...one, shipped: false })),
    ...theirs.filter(({ id }) => !mine.some((one) => one.id === id)).map((one) => ({ ...one, shipped: true })),
  ]
  return { checks: merged(own?.checks ?? [], shipped.checks), sets: merged(own?.sets ?? [], shipped.sets) }
}

/** The checks of a set, or those that are named. @throws Problem where there is no such set or check */
export function chosenChecks(
  shelf: CheckShelf,
  chosen: { readonly set?: string | undefined; readonly checks?: readonly string[] | undefined },
): Check[] {
  try {
    if (chosen.set === undefined)
      return selectedChecks({ id: 'chosen', title: '', checks: [...(chosen.checks ?? [])] }, shelf.checks)
    const set = shelf.sets.find(({ id }) => id === chosen.set)
    if (!set) throw new Problem(422, `There is no set of checks “${chosen.set}”.`)
    return selectedChecks(set, shelf.checks)
  } catch (error) {
    if (error instanceof CoreError) throw new Problem(422, error.message)
    throw error
  }
}

/**
 * Runs checks over two snapshots.
 * @param names devices that are asked about; null: all that both have
 * @throws StillReading where it takes longer than whoever asks waits
 */
export async function runChecks(
  services: Needs,
  a: SnapshotRow,
  b: SnapshotRow,
  checks: readonly Check[],
  names: readonly string[] | null,
  patience?: number,
): Promise<CheckedDevice[]> {
  const ofDevices = checks.filter(({ of }) => of.includes('.'))
  const checked = await services.changes.checked(a, b, ofDevices, names, patience)
  const ofNetwork = checks.filter(({ of }) => !of.includes('.'))
  if (ofNetwork.length === 0) return checked
  const rows = await networkRows(services, a, b, new Set(ofNetwork.map(({ of }) => of)), patience)
  return [...checked, { before: null, device: null, results: checkNetwork(ofNetwork, rows) }]
}

/** The tables of the network as a whole that checks ask for. */
async function networkRows(
  services: Needs,
  a: SnapshotRow,
  b: SnapshotRow,
  wanted: ReadonlySet<string>,
  patience: number | undefined,
): Promise<NetworkRows> {
  return {
    ...(wanted.has('flows') ? { flows: await flowRows(services, a, b, patience) } : {}),
    ...(wanted.has('expectations') ? await expectationRows(services, a, b) : {}),
    ...(wanted.has('findings') ? await findingRows(services, a, b) : {}),
  }
}

/** Only connections whose fate differs: those that fare alike pass by themselves. */
async function flowRows(
  { traffic }: Needs,
  a: SnapshotRow,
  b: SnapshotRow,
  patience: number | undefined,
): Promise<{ a: TableRows; b: TableRows }> {
  const { changes } = await traffic.ask(
    b,
    { ask: 'changes', only: null },
    { before: a, ...(patience === undefined ? {} : { patience }) },
  )
  const side = (of: 'before' | 'after'): TableRows => ({
    doubt: null,
    rows: changes.map((change) => ({
      key: `${change.from.join(', ')} to ${change.to.join(', ')} (${change.readable.classes.join('; or ')})`,
      row: { fates: change[of], protection: change.example?.[of].paths[0]?.protection ?? [] },
      lines: [],
    })),
  })
  return { a: side('before'), b: side('after') }
}

async function expectationRows(
  { traffic }: Needs,
  a: SnapshotRow,
  b: SnapshotRow,
): Promise<{ expectations?: { a: TableRows; b: TableRows } }> {
  const [before, after] = [await traffic.expectations(a), await traffic.expectations(b)]
  if (after.length === 0) return {}
  const side = (answered: typeof after): TableRows => ({
    doubt: null,
    rows: answered.map(({ stated, answer }) => ({ key: stated.title, row: { outcome: answer.outcome }, lines: [] })),
  })
  return { expectations: { a: side(before), b: side(after) } }
}

/** Open findings of the audits of both snapshots; none where one was not audited. */
async function findingRows(
  services: Needs,
  a: SnapshotRow,
  b: SnapshotRow,
): Promise<{ findings?: { a: TableRows; b: TableRows } }> {
  const [before, after] = [await services.audits.of(a.id), await services.audits.of(b.id)]
  if (!before || !after) return {}
  const titles = await ruleTitles(services, [...before.choices, ...after.choices])
  const names = new Map(
    [...(await services.estate.devices(a)), ...(await services.estate.devices(b))].map(({ id, name }) => [id, name]),
  )
  const all = [...(await findingChanges(services, a, b))].flatMap(([device, own]) =>
    own.map((one) => ({ ...one, device: names.get(device) ?? '' })),
  )
  const side = (kinds: readonly string[]): TableRows => ({
    doubt: null,
    rows: all
      .filter(({ change }) => kinds.includes(change))
      .map(({ device, benchmark, rule, outcome, severity }) => ({
        key: `${device}: ${titles.get(`${benchmark} ${rule}`) ?? rule}`,
        row: { outcome, severity },
        lines: [],
      })),
  })
  return { findings: { a: side(['open', 'resolved']), b: side(['open', 'new']) } }
}

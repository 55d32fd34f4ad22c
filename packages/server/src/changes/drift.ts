import type { LineState } from '@jurybox/core/rules'
import { statementWords, type ComparisonDoubt } from '@jurybox/core/compare'
import { In, type DataSource } from 'typeorm'
import { SnapshotTags } from '../archive/entity.ts'
import type { EstateDevice, EstateService } from '../estate/service.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import { ApprovedStates } from './entity.ts'
import { APPROVED, type Author, type Explanation } from './explanations.ts'
import type { Compared } from './compare-task.ts'
import type { ChangeService } from './service.ts'

export type DriftKind = 'approved' | 'reference' | 'saved'

/** From what a device departs, and how. */
export interface Drift {
  readonly device: EstateDevice
  readonly kind: DriftKind
  readonly baseline: { readonly id: string; readonly title: string } | null
  readonly lines: readonly string[]
  readonly authors: readonly Author[]
  readonly explained: Explanation | null
}

export interface DriftReport {
  readonly drifts: readonly Drift[]
  /** Devices of which no state was ever approved, and those whose saved configuration was not captured. */
  readonly unapproved: readonly string[]
  readonly unsaved: readonly string[]
  /** Devices whose records leave open whether they depart. */
  readonly undecided: readonly string[]
}

interface Needs {
  readonly changes: ChangeService
  readonly database: DataSource
  readonly estate: EstateService
  readonly snapshots: SnapshotService
}

const OPEN: ReadonlySet<ComparisonDoubt['code']> = new Set(['incomplete', 'dialects', 'listings', 'no-configuration'])
const DEPARTS: ReadonlySet<LineState> = new Set(['missing', 'extra', 'forbidden', 'out-of-order'])

/** What departs, as of a snapshot: from the last approved state, from references, from what is saved. */
export async function driftIn(services: Needs, snapshot: SnapshotRow, patience?: number): Promise<DriftReport> {
  const approved = await fromApproved(services, snapshot, patience)
  const saved = await fromSaved(services, snapshot, patience)
  const held = await fromReferences(services, snapshot, patience)
  return {
    drifts: [...approved.drifts, ...held.drifts, ...saved.drifts],
    unapproved: approved.unapproved,
    unsaved: saved.unsaved,
    undecided: [...new Set([...approved.undecided, ...held.undecided, ...saved.undecided])].sort(),
  }
}

/** The state of a device that was approved last, up to a snapshot. */
interface Baseline {
  readonly snapshot: SnapshotRow
  readonly device: EstateDevice
}

async function fromApproved(
  services: Needs,
  snapshot: SnapshotRow,
  patience?: number,
): Promise<{ drifts: Drift[]; unapproved: string[]; undecided: string[] }> {
  const { estate, changes } = services
  const baselines = await baselinesOf(services, snapshot)
  const devices = await estate.devices(snapshot)
  const [drifts, unapproved, undecided]: [Drift[], string[], string[]] = [[], [], []]
  const explained = new Map<number, Awaited<ReturnType<typeof changes.explanations.between>>>()
  for (const device of devices) {
    const baseline = baselines.get(device.id)
    if (!baseline) {
      unapproved.push(device.name)
      continue
    }
    if (baseline.device.config.settled === device.config.settled) continue
    const compared = await changes.sides(
      { snapshot: baseline.snapshot, device: baseline.device, listing: 'config' },
      { snapshot, device, listing: 'config' },
      patience,
    )
    const lines = compared.comparison.records.flatMap(({ statements }) => statements.map(statementWords))
    if (isOpen(compared)) undecided.push(device.name)
    // A listing that says the same in other words is no drift.
    if (lines.length === 0) continue
    const between =
      explained.get(baseline.snapshot.id) ?? (await changes.explanations.between(baseline.snapshot, snapshot))
    explained.set(baseline.snapshot.id, between)
    const authors = between.authorsOf(device.name, compared.lastChange)
    drifts.push({
      device,
      lines,
      authors,
      kind: 'approved',
      baseline: { id: String(baseline.snapshot.id), title: baseline.snapshot.title },
      explained: between.of(device, authors),
    })
  }
  return { drifts, unapproved, undecided }
}

/** By device, the last state that was approved by itself, or with a snapshot as a whole, not later than a snapshot. */
async function baselinesOf(
  { database, estate, snapshots }: Needs,
  snapshot: SnapshotRow,
): Promise<Map<number, Baseline>> {
  const { engagementId } = snapshot
  const all = (await snapshots.list(engagementId)).filter(({ takenAt }) => takenAt <= snapshot.takenAt)
  const tagged = new Set(
    (await database.getRepository(SnapshotTags).findBy({ tag: APPROVED, snapshotId: In(all.map(({ id }) => id)) })).map(
      ({ snapshotId }) => snapshotId,
    ),
  )
  const states = await database.getRepository(ApprovedStates).findBy({ engagementId })
  const baselines = new Map<number, Baseline>()
  for (const one of all) {
    const own = states.filter(({ snapshotId }) => snapshotId === one.id)
    if (!tagged.has(one.id) && own.length === 0) continue
    for (const device of await estate.devices(one))
      if (tagged.has(one.id) || own.some(({ deviceId }) => deviceId === device.id))
        baselines.set(device.id, { snapshot: one, device })
  }
  return baselines
}

async function fromReferences(
  { changes }: Needs,
  snapshot: SnapshotRow,
  patience?: number,
): Promise<{ drifts: Drift[]; undecided: string[] }> {
  const references = await changes.references(snapshot.engagementId)
  if (references.length === 0) return { drifts: [], undecided: [] }
  const held = await changes.held(snapshot, references, patience)
  const undecided = [...held.values()]
    .filter(({ answers }) => answers.some(({ outcome }) => outcome === 'undecided'))
    .map(({ device }) => device.name)
  const drifts = [...held.values()].flatMap(({ device, answers }) =>
    answers.flatMap((answer, i): Drift[] => {
      const reference = references[i]
      if (!reference || answer.outcome !== 'departs') return []
      const lines = answer.lines
        .filter(({ state }) => DEPARTS.has(state))
        .map(({ state, block, text }) => `${state}: ${[...block, text].join(' › ')}`)
      const state = answer.state
        .filter(({ outcome }) => outcome === 'violated')
        .map(({ title }) => `violated: ${title}`)
      return [
        {
          device,
          kind: 'reference',
          baseline: { id: reference.id, title: reference.title },
          lines: [...lines, ...state],
          authors: [],
          explained: null,
        },
      ]
    }),
  )
  return { drifts, undecided }
}

/** Whether a comparison leaves open what differs. */
function isOpen({ comparison }: Compared): boolean {
  return comparison.doubts.some(({ code }) => OPEN.has(code))
}

async function fromSaved(
  { changes, estate }: Needs,
  snapshot: SnapshotRow,
  patience?: number,
): Promise<{ drifts: Drift[]; unsaved: string[]; undecided: string[] }> {
  const [drifts, unsaved, undecided]: [Drift[], string[], string[]] = [[], [], []]
  for (const device of await estate.devices(snapshot)) {
    if (!device.records.some(({ kind }) => kind === 'config.saved')) {
      unsaved.push(device.name)
      continue
    }
    const compared = await changes.sides(
      { snapshot, device, listing: 'config.saved' },
      { snapshot, device, listing: 'config' },
      patience,
    )
    const lines = compared.comparison.records.flatMap(({ statements }) => statements.map(statementWords))
    if (isOpen(compared)) undecided.push(device.name)
    if (lines.length === 0) continue
    const explained = await changes.explanations.between(snapshot, snapshot)
    drifts.push({
      device,
      lines,
      kind: 'saved',
      baseline: null,
      authors: explained.authorsOf(device.name, compared.lastChange),
      explained: null,
    })
  }
  return { drifts, unsaved, undecided }
}

import {
  compareDevices,
  interfaceRates,
  sensorReadings,
  type SensorReading,
  isEqual,
  unifiedDiff,
  withListing,
  type CountedState,
  type DeviceComparison,
  type Listing,
} from '@jurybox/core/compare'
import { checkDevices, type Check, type CheckResult } from '@jurybox/core/checks'
import { CompiledReference, type Reference, type ReferenceAnswer } from '@jurybox/core/references'
import type { DeviceContext } from '@jurybox/core/rules'
import type { DeviceAnalysis } from '@jurybox/core/analysis'
import { lastChangeIn, type LastChange } from '@jurybox/core/snapshot'
import { MaskedLines, type NoiseRule } from '@jurybox/core/syntax'
import { benchOf, type TaskChoice } from '../audits/audit-task.ts'
import { analysisFor, type AnalysisTask } from '../analysis/analyses.ts'

export interface TaskSide extends AnalysisTask {
  readonly listing: Listing
}

export interface CompareTask {
  readonly a: TaskSide
  readonly b: TaskSide
  readonly noise: readonly NoiseRule[]
}

/** Two sides as they compare; records by the numbers that the task gives them. */
export interface Compared {
  readonly comparison: DeviceComparison
  readonly equal: boolean
  readonly rates: ReturnType<typeof interfaceRates> & { readonly sensors: readonly SensorReading[] }
  /** Who changed the configuration of B last, as its listing says. */
  readonly lastChange: LastChange | null
}

/** Compares two sides in a thread that keeps devices read; null where one of them has no such listing. */
export function compareTask({ a, b, noise }: CompareTask): Compared | null {
  const [before, after] = [sideOf(a), sideOf(b)]
  if (!before || !after) return null
  const comparison = compareDevices(before, after, noise)
  return {
    comparison,
    equal: isEqual(comparison),
    rates: {
      ...interfaceRates(countedOf(before), countedOf(after)),
      sensors: sensorReadings(before.state.state, after.state.state),
    },
    lastChange: after.judged && lastChangeIn(after.judged.tree.lines.text),
  }
}

function sideOf({ listing, ...task }: TaskSide): DeviceAnalysis | null {
  const analysis = analysisFor(task)
  return analysis && (listing === 'config' ? analysis : withListing(analysis, listing))
}

/** Counters are as old as the output that shows them. */
function countedOf({ state, records }: DeviceAnalysis): CountedState {
  return { state: state.state, countedAt: records.find(({ kind }) => kind === 'state/interfaces')?.takenAt ?? null }
}

/** The configurations of two sides as text, secrets masked, and their difference as `patch` applies it. */
export interface SideTexts {
  readonly a: string
  readonly b: string
  readonly patch: string
}

export function sideTextsTask({ a, b }: CompareTask & { readonly names: readonly [string, string] }): SideTexts | null {
  const [before, after] = [sideOf(a), sideOf(b)]
  if (!before || !after) return null
  const [left, right] = [before, after].map(({ judged, dialect, mask }) =>
    judged ? new MaskedLines(judged.tree, dialect, mask).all() : [],
  )
  return {
    a: (left ?? []).join('\n'),
    b: (right ?? []).join('\n'),
    patch: unifiedDiff({ name: 'a', lines: left ?? [] }, { name: 'b', lines: right ?? [] }),
  }
}

/** Checks over two sides in a thread that keeps devices read; null where one of them cannot be read. */
export function checksTask({
  a,
  b,
  checks,
}: CompareTask & { readonly checks: readonly Check[] }): CheckResult[] | null {
  const [before, after] = [sideOf(a), sideOf(b)]
  return before && after ? checkDevices(checks, before, after) : null
}

/** References put to one device. */
export function referencesTask({
  of,
  references,
  choices,
  facts,
}: {
  readonly of: AnalysisTask
  readonly references: readonly Reference[]
  /** Benchmarks whose values the references name. */
  readonly choices: readonly TaskChoice[]
  readonly facts: DeviceContext & { readonly name: string }
}): ReferenceAnswer[] | null {
  const device = analysisFor(of)
  const benches = choices.map(benchOf)
  return device && references.map((reference) => new CompiledReference(reference, benches).answer(device, facts))
}

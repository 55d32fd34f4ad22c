import type { DeviceAnalysis } from '../analysis/index.ts'
import { compilePattern, matchPattern } from '../model/index.ts'
import { OpaqueLines, compileExpression } from '../rules/index.ts'
import { readBeside, type Scope, type Statement } from '../syntax/index.ts'
import { derived, type Derived, type Sample } from './derive.ts'
import { derivedState } from './state.ts'
import { featuresFileSchema, type Feature, type Reference } from './schema.ts'

/** Reads `features.yaml`. @throws CompanionFileError */
export function readFeatures(file: { readonly path: string; readonly text: string }): readonly Feature[] {
  return readBeside(file, featuresFileSchema).features
}

/** The features that a dialect has. */
export function featuresOf(features: readonly Feature[], dialect: string): Feature[] {
  return features.filter(({ statements }) => Object.hasOwn(statements, dialect))
}

/** A device that takes part in deriving. */
export interface DeriveDevice {
  readonly name: string
  readonly analysis: DeviceAnalysis
}

/** The common part is what so many have. */
const SHARE = 0.8

/**
 * The reference that devices of one dialect follow already, for one feature: what most have in common, and who departs.
 * @returns null where the dialect has no such feature, or nothing of it was found
 */
export function deriveReference(
  devices: readonly DeriveDevice[],
  feature: Feature,
  dialect: string,
  share = SHARE,
): { readonly derived: Derived; readonly reference: Reference } | null {
  const patterns = feature.statements[dialect]?.map(compilePattern)
  const own = devices.filter(({ analysis }) => analysis.dialect.id === dialect && analysis.judged !== null)
  const [first] = own
  if (!patterns || !first) return null
  const samples = own.flatMap((device) => samplesOf(device, feature))
  if (samples.length === 0) return null
  const isCovered = (statement: Statement, scope: Scope, { opaque }: Sample): boolean =>
    patterns.some(
      (pattern) =>
        statement.negated === pattern.negated && matchPattern(pattern, opaque.wordsOf(statement, scope)) !== null,
    )
  const state = feature.state.map((fact) => derivedState(fact, own, share))
  const found = derived(samples, first.analysis.dialect, { share, covers: isCovered }, state)
  return { derived: found, reference: referenceOf(found, feature, dialect) }
}

/** A device as a whole; of a feature of interfaces, each block of an interface that has it. */
function samplesOf({ name, analysis }: DeriveDevice, { each }: Feature): Sample[] {
  const { effective, modelled, judged, dialect } = analysis
  if (!effective || !modelled || !judged) return []
  const common = { record: judged.id, effective, opaque: new OpaqueLines(dialect, analysis.mask) }
  if (each === undefined) return [{ ...common, name, scope: null }]
  const qualifies = compileExpression(each)
  return modelled.model.interfaces.flatMap((port): Sample[] => {
    const statement = effective.scope
      .startingWith('interface')
      .find((one) => one.scope !== null && one.text === `interface ${port.name}`)
    if (!statement?.scope || !isTrue(() => qualifies.evaluate({ interface: port }))) return []
    return [{ ...common, name: `${name} ${port.name}`, scope: statement.scope }]
  })
}

function isTrue(evaluate: () => unknown): boolean {
  try {
    return evaluate() === true
  } catch {
    return false
  }
}

/** What was derived, as a reference that can be edited: values that differ stand for anything until they are set. */
function referenceOf({ parts, state }: Derived, feature: Feature, dialect: string): Reference {
  const covers = feature.statements[dialect] ?? []
  return {
    id: `${feature.id}-${dialect}`,
    title: feature.title,
    feature: feature.title,
    dialect,
    note: '',
    values: {},
    overrides: [],
    parts: parts.map((part) =>
      feature.each === undefined
        ? { ...part, covers: part.block.length === 0 ? [...covers] : part.covers }
        : { ...part, each: feature.each, block: ['interface <interface>', ...part.block] },
    ),
    state: state.flatMap(({ title, that }) => (that === null ? [] : [{ title, that }])),
    examples: [],
  }
}

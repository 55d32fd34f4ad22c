import type { DeviceAnalysis } from '../analysis/index.ts'
import type { CompiledBenchmark } from '../benchmarks/index.ts'
import { joinedLines, type CitedLines } from '../compare/index.ts'
import { lastLineOf } from '../syntax/index.ts'
import { maskCommands, planFor } from '../remediation/index.ts'
import {
  CompiledTemplate,
  OpaqueLines,
  compileExpression,
  compileScope,
  judgedDevice,
  type ConformingLine,
  type DeviceContext,
  type Edit,
  type Expression,
  type LineState,
  type TemplateDoubt,
  type TemplateValue,
} from '../rules/index.ts'
import { readBeside } from '../syntax/index.ts'
import { referencesFileSchema, type Reference, type ReferenceValue } from './schema.ts'
import { stateAnswer, type StateAnswer } from './state.ts'

/** One line of the answer. */
export interface ReferenceLine {
  readonly state: LineState
  readonly block: readonly string[]
  readonly text: string
  readonly doubt: TemplateDoubt | null
  readonly lines: readonly CitedLines[]
}

/** A value as it is for one device, and who set it. */
export interface EffectiveValue {
  readonly name: string
  /** Null where it is not known. */
  readonly value: readonly string[] | null
  readonly from: 'reference' | 'label' | 'model' | 'benchmark' | 'override'
  /** Of an override: its title, and by whom. */
  readonly override: { readonly title: string; readonly by: string } | null
}

/** What a device has and lacks of a reference. */
export interface ReferenceAnswer {
  /** `outside`: it is not for this device; `undecided`: whether it is, or what it asks, is not known. */
  readonly outcome: 'conforms' | 'departs' | 'undecided' | 'outside'
  /** Why it is not said whether the reference is for it. */
  readonly reason: string | null
  readonly lines: readonly ReferenceLine[]
  readonly values: readonly EffectiveValue[]
  readonly state: readonly StateAnswer[]
  /** What puts the missing lines in, and takes forbidden ones out; and what takes that back. Secrets are masked. */
  readonly commands: readonly string[]
  readonly rollback: readonly string[]
}

const OUTSIDE: ReferenceAnswer = {
  outcome: 'outside',
  reason: null,
  lines: [],
  values: [],
  state: [],
  commands: [],
  rollback: [],
}

/** Reads `references.yaml`. @throws CompanionFileError */
export function readReferences(file: { readonly path: string; readonly text: string }): readonly Reference[] {
  return readBeside(file, referencesFileSchema).references
}

/** A reference, ready to be put to devices. */
export class CompiledReference {
  readonly #template: CompiledTemplate | null
  readonly #scope: ReturnType<typeof compileScope> | null
  readonly #values: ReadonlyMap<string, Expression>
  readonly #overrides: readonly {
    readonly at: ReturnType<typeof compileScope>
    readonly of: Reference['overrides'][number]
  }[]

  /** @param benchmarks as they are fitted: those whose values it names */
  constructor(
    readonly reference: Reference,
    readonly benchmarks: readonly CompiledBenchmark[] = [],
  ) {
    const { dialect, values, parts, scope, overrides } = reference
    const own = Object.entries(values).map(
      ([name, value]) => [name, 'benchmark' in value ? { is: [] } : value] as const,
    )
    this.#template =
      parts.length === 0 ? null : new CompiledTemplate({ dialect, values: Object.fromEntries(own), parts })
    this.#scope = scope === undefined ? null : compileScope(scope)
    this.#overrides = overrides.map((of) => ({ at: compileScope(of.scope), of }))
    this.#values = new Map(
      Object.entries(values).flatMap(([name, value]) =>
        'model' in value ? [[name, compileExpression(value.model)] as const] : [],
      ),
    )
  }

  /** @param facts what people say of the device */
  answer(device: DeviceAnalysis, facts: DeviceContext & { readonly name: string }): ReferenceAnswer {
    const { effective, modelled, dialect } = device
    if (dialect.id !== this.reference.dialect) return OUTSIDE
    if (!effective || !modelled) return { ...OUTSIDE, outcome: 'undecided', reason: 'no configuration was captured' }
    const names = {
      ...modelled.model,
      state: device.state.state,
      device: { groups: [], sites: [], approved: 'none', ...facts, dialect: dialect.id },
    }
    const inside = this.#scope?.(names) ?? { inside: true as const, why: null }
    if (inside.inside === false) return OUTSIDE
    if (inside.inside === 'unknown') return { ...OUTSIDE, outcome: 'undecided', reason: inside.why }
    const values = this.#effectiveValues(device, facts, names)
    const byName = new Map(values.map(({ name, value }) => [name, value]))
    const opaque = new OpaqueLines(dialect, device.mask)
    const conforming =
      this.#template?.conform({
        effective,
        model: modelled.model,
        opaque,
        valueOf: (name) => byName.get(name) ?? null,
      }) ?? []
    const state = this.reference.state.map((one) => stateAnswer(one, names, device))
    const plan = planFor(editsFor(conforming, opaque), effective.scope, dialect)
    return {
      outcome: outcomeOf(conforming, state),
      reason: null,
      lines: conforming.map((line) => shownLine(line, device)),
      values,
      state,
      commands: maskCommands(plan.commands, dialect, device.mask),
      rollback: maskCommands(plan.rollback, dialect, device.mask),
    }
  }

  #effectiveValues(
    device: DeviceAnalysis,
    facts: DeviceContext & { readonly name: string },
    names: Readonly<Record<string, unknown>>,
  ): EffectiveValue[] {
    return Object.entries(this.reference.values).map(([name, value]): EffectiveValue => {
      // The last override that is for the device goes before those above it.
      const override = this.#overrides.findLast(
        ({ at, of }) => Object.hasOwn(of.values, name) && at(names).inside === true,
      )
      const own = override?.of.values[name]
      if (override && own !== undefined)
        return {
          name,
          value: [own].flat(),
          from: 'override',
          override: { title: override.of.title, by: override.of.by },
        }
      const found =
        'benchmark' in value ? this.#ofBenchmark(value, device, facts) : this.#ownValue(name, value, facts, names)
      return { name, value: found, from: sourceOf(value), override: null }
    })
  }

  /** Null where no such benchmark is at hand, or it has no such value. */
  #ofBenchmark(
    { benchmark, value }: Extract<ReferenceValue, { benchmark: string }>,
    { effective, modelled, judged }: DeviceAnalysis,
    facts: DeviceContext & { readonly name: string },
  ): readonly string[] | null {
    const bench = this.benchmarks.find(({ choice }) => choice.benchmark.source.id === benchmark)
    if (!bench || !effective || !modelled || !judged) return null
    const own = judgedDevice({ name: facts.name, record: judged.id, effective, model: () => modelled, facts })
    const { values } = bench.valuesFor(own)
    const texts = Object.hasOwn(values, value) ? textsOf(values[value]) : null
    // An empty list is one that nobody has set.
    return texts?.length === 0 ? null : texts
  }

  #ownValue(
    name: string,
    value: TemplateValue,
    facts: DeviceContext,
    names: Readonly<Record<string, unknown>>,
  ): readonly string[] | null {
    if ('is' in value) return [value.is].flat()
    if ('label' in value) return textsOf(facts.labels[value.label])
    try {
      return textsOf(this.#values.get(name)?.evaluate(names))
    } catch {
      return null
    }
  }
}

function sourceOf(value: ReferenceValue): EffectiveValue['from'] {
  if ('benchmark' in value) return 'benchmark'
  return 'is' in value ? 'reference' : 'label' in value ? 'label' : 'model'
}

/** A value of CEL, or of a label, as texts; null where there is none. */
function textsOf(value: unknown): string[] | null {
  if (value === null || value === undefined) return null
  return [value].flat().map(String)
}

function outcomeOf(lines: readonly ConformingLine[], state: readonly StateAnswer[]): ReferenceAnswer['outcome'] {
  const departs =
    lines.some(({ state: line }) => line !== 'matching' && line !== 'undecided') ||
    state.some(({ outcome }) => outcome === 'violated')
  if (departs) return 'departs'
  const open = lines.some((line) => line.state === 'undecided') || state.some(({ outcome }) => outcome === 'undecided')
  return open ? 'undecided' : 'conforms'
}

function shownLine({ state, block, text, doubt, nodes }: ConformingLine, { judged }: DeviceAnalysis): ReferenceLine {
  const lines = nodes.map((node): CitedLines => ({ record: judged?.id ?? '', from: node.line, to: lastLineOf(node) }))
  return { state, block, text, doubt, lines: joinedLines(lines) }
}

/**
 * Missing lines go in and forbidden ones out, block by block. What is merely extra is left: nobody said that it must
 * not be there. What stands in another order is left to people.
 */
function editsFor(lines: readonly ConformingLine[], opaque: OpaqueLines): Edit[] {
  const byBlock = new Map<string, { block: string | null; remove: string[]; add: string[] }>()
  for (const { state, block, text, typeable } of lines) {
    const wanted = state === 'missing' ? typeable : state === 'forbidden'
    // Blocks within blocks are entered one after the other.
    if (!wanted || block.length > 1) continue
    const key = block.join('\n')
    const edit = byBlock.get(key) ?? { block: block[0] ?? null, remove: [], add: [] }
    byBlock.set(key, edit)
    edit[state === 'missing' ? 'add' : 'remove'].push(opaque.reveal(text))
  }
  return [...byBlock.values()]
}

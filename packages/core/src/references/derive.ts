/**
 * The common part of many configurations: lines that most of them have as they stand, lines of which only values differ
 * and which become placeholders, and who departs from that.
 */
import { isAddress, type EffectiveConfig } from '../model/index.ts'
import type { CitedLines } from '../compare/index.ts'
import type { OpaqueLines } from '../rules/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { lastLineOf, type Scope, type Statement, type Syntax } from '../syntax/index.ts'
import type { Template, TemplatePart } from '../rules/index.ts'
import type { DerivedState } from './state.ts'

/** One configuration, or one block of it, that takes part. */
export interface Sample {
  /** Of a block: its device and its own name, `qn-acc1 Vlan30`. */
  readonly name: string
  readonly record: string
  readonly effective: EffectiveConfig
  readonly opaque: OpaqueLines
  /** The block that the lines are taken from; null: the whole configuration. */
  readonly scope: Scope | null
}

export interface DeriveOptions {
  /** Whether a statement at the top of what is taken belongs to the feature. */
  readonly covers: (statement: Statement, scope: Scope, sample: Sample) => boolean
  /** From which share on a line is common, from 0.5 to 1. */
  readonly share: number
}

/** A placeholder, with the values that stand in its place and who has each. */
export interface ValueSpread {
  readonly name: string
  readonly line: string
  readonly values: readonly { readonly value: string; readonly samples: readonly string[] }[]
}

export interface Deviation {
  /** `state`: the text says what is otherwise, and how. */
  readonly kind: 'missing' | 'extra' | 'state'
  readonly block: readonly string[]
  readonly text: string
  readonly lines: readonly CitedLines[]
}

/** A configuration that departs from what the others have in common. */
export interface Outlier {
  readonly name: string
  readonly deviations: readonly Deviation[]
}

export interface Derived {
  readonly samples: number
  readonly parts: Template['parts']
  readonly values: readonly ValueSpread[]
  readonly state: readonly DerivedState[]
  /** Those that depart most first. */
  readonly outliers: readonly Outlier[]
}

/** A statement of a sample, with all that tells it from others. */
interface Line {
  readonly sample: Sample
  readonly block: readonly string[]
  readonly text: string
  /** Its place in its block. */
  readonly at: number
  readonly ordered: boolean
  readonly shape: Shape
  readonly lines: readonly CitedLines[]
}

interface Shape {
  /** The line with `<…>` in the places of its values; the same for lines that differ in values alone. */
  readonly text: string
  readonly values: readonly string[]
}

/** Derives the common part of some samples of one dialect. */
export function derived(
  samples: readonly Sample[],
  dialect: Syntax,
  options: DeriveOptions,
  state: readonly DerivedState[] = [],
): Derived {
  const lines = samples.flatMap((sample) => linesOf(sample, dialect, options.covers))
  const enough = Math.max(1, Math.ceil(samples.length * options.share))
  const deriving = new Deriving(samples, enough)
  for (const own of grouped(lines, ({ block }) => block.join('\n')).values()) deriving.block(own)
  for (const one of state) deriving.fact(one)
  return deriving.result(state)
}

interface CommonLine {
  readonly line: string
  readonly kind: 'required' | 'optional'
  readonly at: number
}

class Deriving {
  readonly #parts: TemplatePart[] = []
  readonly #spreads: ValueSpread[] = []
  readonly #deviations = new Map<string, Deviation[]>()
  readonly #names = new Set<string>()

  constructor(
    readonly samples: readonly Sample[],
    readonly enough: number,
  ) {}

  /** All lines of all samples that stand in blocks of one name. */
  block(lines: readonly Line[]): void {
    const block = lines[0]?.block ?? []
    const common: CommonLine[] = []
    const rest: Line[] = []
    for (const own of grouped(lines, ({ text }) => text).values()) {
      const having = new Set(own.map(({ sample }) => sample.name))
      if (having.size < this.enough) {
        rest.push(...own)
        continue
      }
      const [first] = own
      if (!first) continue
      common.push({ line: escaped(first.text), kind: 'required', at: meanPlace(own) })
      for (const { name } of this.samples)
        if (!having.has(name)) this.#deviate(name, { kind: 'missing', block, text: first.text, lines: [] })
    }
    for (const own of grouped(rest, ({ shape }) => shape.text).values()) common.push(...this.#shaped(own, block))
    if (common.length > 0)
      this.#parts.push({
        block: block.map(escaped),
        covers: [],
        ordered: lines.some(({ ordered }) => ordered),
        lines: common.sort((x, y) => x.at - y.at).map(({ line, kind }) => ({ line, kind })),
      })
  }

  /** Lines that differ in their values alone: common where enough samples have one. */
  #shaped(own: readonly Line[], block: readonly string[]): CommonLine[] {
    const bySample = grouped(own, ({ sample }) => sample.name)
    const [first] = own
    if (!first) return []
    const isValued = first.shape.values.length > 0
    if (bySample.size >= this.enough && isValued) {
      const line = this.#placeholders(first, bySample)
      for (const { name } of this.samples)
        if (!bySample.has(name)) this.#deviate(name, { kind: 'missing', block, text: line, lines: [] })
      return [{ line, kind: 'required', at: meanPlace(own) }]
    }
    return [...grouped(own, ({ text }) => text).values()].flatMap((same): CommonLine[] => {
      const having = new Set(same.map(({ sample }) => sample.name))
      const [line] = same
      if (!line) return []
      // What few have is theirs alone; what neither few nor most have may be there.
      if (having.size > this.samples.length - this.enough)
        return [{ line: escaped(line.text), kind: 'optional', at: meanPlace(same) }]
      for (const one of same) this.#deviate(one.sample.name, { kind: 'extra', block, text: one.text, lines: one.lines })
      return []
    })
  }

  /** The line with names for its values, and what stands there in each sample. */
  #placeholders({ shape }: Line, bySample: ReadonlyMap<string, readonly Line[]>): string {
    const names = shape.values.map((_, i) => this.#nameFor(shape.text, i))
    let i = 0
    const line = shape.text.replace(
      /<(\.\.\.)?>/g,
      (_, rest: string | undefined) => `<${names[i++] ?? ''}${rest ?? ''}>`,
    )
    names.forEach((name, at) => {
      const valueOf = (own: readonly Line[]): string => own.map((one) => one.shape.values[at] ?? '').join(', ')
      const byValue = grouped([...bySample], ([, own]) => valueOf(own))
      this.#spreads.push({
        name,
        line,
        values: [...byValue]
          .map(([value, having]) => ({ value, samples: having.map(([sample]) => sample).sort() }))
          .sort((x, y) => y.samples.length - x.samples.length || (x.value < y.value ? -1 : 1)),
      })
    })
    return line
  }

  /** Named for the words before it: `ntp_server`. */
  #nameFor(shape: string, at: number): string {
    const before = shape.split(/<(?:\.\.\.)?>/)[at] ?? ''
    const words = before.toLowerCase().match(/[a-z][a-z\d]*/g) ?? []
    const base = words.slice(-2).join('_') || 'value'
    let name = base
    for (let n = 2; this.#names.has(name) || RESERVED.has(name); n++) name = `${base}_${n}`
    this.#names.add(name)
    return name
  }

  #deviate(sample: string, deviation: Deviation): void {
    const known = this.#deviations.get(sample)
    if (known) known.push(deviation)
    else this.#deviations.set(sample, [deviation])
  }

  fact({ title, that, values: [, ...others] }: DerivedState): void {
    if (that === null) return
    for (const { value, samples } of others)
      for (const name of samples)
        this.#deviate(name, { kind: 'state', block: [], text: `${title}: ${value}`, lines: [] })
  }

  result(state: readonly DerivedState[]): Derived {
    return {
      samples: this.samples.length,
      parts: this.#parts.sort((x, y) => x.block.length - y.block.length),
      values: this.#spreads,
      state,
      outliers: [...this.#deviations]
        .map(([name, deviations]) => ({ name, deviations }))
        .sort((x, y) => y.deviations.length - x.deviations.length || (x.name < y.name ? -1 : 1)),
    }
  }
}

/** Names that mean something else where patterns are written. */
const RESERVED: ReadonlySet<string> = new Set([
  'interface',
  'list',
  'type',
  'map',
  'int',
  'string',
  'in',
  'true',
  'false',
])

function linesOf(sample: Sample, dialect: Syntax, covers: DeriveOptions['covers']): Line[] {
  const top = sample.scope ?? sample.effective.scope
  const own = top.statements.filter((statement) => covers(statement, top, sample))
  return linesIn(sample, own, top, [], dialect)
}

function linesIn(
  sample: Sample,
  statements: readonly Statement[],
  scope: Scope,
  block: readonly string[],
  dialect: Syntax,
): Line[] {
  const kind = scope.openers[0]?.block
  return statements.flatMap((statement, at): Line[] => {
    if (statement.scope)
      return linesIn(sample, statement.scope.statements, statement.scope, [...block, statement.text], dialect)
    const shown = sample.opaque.textOf(statement, scope)
    // Numbers that only say a place differ without meaning anything.
    const numbered = statement.negated ? null : (dialect.numberedPlaceIn?.(shown, kind) ?? null)
    return [
      {
        sample,
        block,
        text: numbered && kind !== undefined ? numbered.without : shown,
        at,
        ordered: dialect.isOrdered(kind),
        shape: shapeOf(shown, statement, kind, dialect),
        lines: statement.nodes.map((node) => ({ record: sample.record, from: node.line, to: lastLineOf(node) })),
      },
    ]
  })
}

/**
 * What a line says less its values: of a command that holds one value all that comes behind its key words, else its
 * addresses, numbers and secrets.
 */
function shapeOf(shown: string, statement: Statement, kind: string | undefined, dialect: Syntax): Shape {
  const prefix = statement.negated ? 'no ' : ''
  const key = statement.negated ? null : dialect.keyOf(statement.text, kind)
  if (key !== null && key !== '' && shown.startsWith(`${key} `) && shown.length > key.length + 1)
    return { text: `${key} <...>`, values: [shown.slice(key.length + 1)] }
  const values: string[] = []
  const words = shown.slice(prefix.length).split(' ')
  const text = words.map((word, i) => {
    // The first word says what it is.
    if (i === 0 || !isValue(word)) return escaped(word)
    values.push(word)
    return '<>'
  })
  return { text: `${prefix}${text.join(' ')}`, values }
}

function isValue(word: string): boolean {
  return (
    /^\d+(?:[.:/-]\d+)*$/.test(word) ||
    word.includes('‹secret:') ||
    isAddress(word.split('/')[0] ?? '') ||
    /^[\da-f]{4}\.[\da-f]{4}\.[\da-f]{4}$/i.test(word)
  )
}

/** A line as a pattern that means itself: what patterns have a meaning for stands for anything. */
function escaped(text: string): string {
  return text
    .split(' ')
    .map((word) => (/[<>{}*]|^\.\.\.$/.test(word) || word.includes('‹secret:') ? '*' : word))
    .join(' ')
}

function meanPlace(lines: readonly Line[]): number {
  return lines.reduce((sum, { at }) => sum + at, 0) / Math.max(1, lines.length)
}

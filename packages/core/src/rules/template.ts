import { heaviestCommonSequence } from '../compare/index.ts'
import { compilePattern, matchPattern, type DeviceModel, type EffectiveConfig, type Pattern } from '../model/index.ts'
import type { ConfigNode, Scope, Statement } from '../syntax/index.ts'
import { compileExpression, type Expression } from './expression.ts'
import type { OpaqueLines } from './opaque.ts'
import type { Template, TemplatePart } from './template-schema.ts'

/** `matching`: a line that must be there and is. `extra`: one that belongs to the part and is not among its lines. */
export const LINE_STATES = ['matching', 'missing', 'extra', 'forbidden', 'out-of-order', 'undecided'] as const
export type LineState = (typeof LINE_STATES)[number]

/**
 * Why a line is undecided. `no-value`: a value that it names is not known for this device. `incomplete`: the record is
 * not whole, and may hold it. `no-answer`: whether an interface qualifies is not known.
 */
export type TemplateDoubt = 'no-value' | 'incomplete' | 'no-answer'

export interface ConformingLine {
  readonly state: LineState
  /** Openers of the blocks that it stands in. */
  readonly block: readonly string[]
  /** As it stands on the device, secrets by their marks, or as it would. */
  readonly text: string
  /** None where it is missing. */
  readonly nodes: readonly ConfigNode[]
  /** Whether it can be typed as it stands here: every placeholder has a value. */
  readonly typeable: boolean
  readonly doubt: TemplateDoubt | null
  /** Names of values that it rests on. */
  readonly values: readonly string[]
}

/** A device as a template is put to it. */
export interface TemplateSubject {
  readonly effective: EffectiveConfig
  readonly model: DeviceModel
  /** Its lines as they are compared: no template finds out what a secret says. */
  readonly opaque: OpaqueLines
  /** The value under a name, as texts; null where it is not known. */
  readonly valueOf: (name: string) => readonly string[] | null
}

interface CompiledLine {
  readonly pattern: Pattern
  readonly kind: 'required' | 'optional' | 'forbidden'
}

interface CompiledPart {
  readonly part: TemplatePart
  readonly block: readonly Pattern[]
  readonly each: Expression | null
  readonly covers: readonly Pattern[]
  readonly lines: readonly CompiledLine[]
}

/** A line with values in the places of the placeholders that have one. */
interface Wanted {
  readonly pattern: Pattern
  readonly bound: ReadonlyMap<string, string>
  readonly text: string
  readonly typeable: boolean
}

/** Values by name; null where one is not known. */
type Values = ReadonlyMap<string, readonly string[] | null>

/** A template, ready to be put to devices of its dialect. */
export class CompiledTemplate {
  readonly #parts: readonly CompiledPart[]

  /** @throws Error that names the pattern or expression and what is wrong with it */
  constructor(readonly template: Template) {
    this.#parts = template.parts.map((part) => ({
      part,
      block: part.block.map(compilePattern),
      each: part.each === undefined ? null : compileExpression(part.each),
      covers: part.covers.map(compilePattern),
      lines: part.lines.map(({ line, kind }) => ({ pattern: compilePattern(line), kind })),
    }))
  }

  /** What a device has of it, lacks of it, and has beside it. */
  conform(subject: TemplateSubject): ConformingLine[] {
    const values: Values = new Map(
      Object.keys(this.template.values).map((name) => [name, subject.valueOf(name)] as const),
    )
    return this.#parts.flatMap((part) => this.#part(part, subject, values))
  }

  #part(part: CompiledPart, subject: TemplateSubject, values: Values): ConformingLine[] {
    if (!part.each) return this.#inBlock(part, subject, values)
    return subject.model.interfaces.flatMap((port) => {
      const own: Values = new Map([...values, ['interface', [port.name]]])
      const qualifies = isTrue(part.each, { interface: port })
      if (qualifies === true) return this.#inBlock(part, subject, own)
      return qualifies === false ? [] : [undecided([], port.name, 'no-answer', ['interface'])]
    })
  }

  #inBlock(part: CompiledPart, subject: TemplateSubject, values: Values): ConformingLine[] {
    const { scope } = subject.effective
    const inner = this.#openersWithin(part)
    if (part.block.length === 0) return linesIn(part, [{ scope, block: [] }], subject, values, inner)
    const openers = part.block.map((pattern) => wantedFor(pattern, values))
    if (openers.some((wanted) => wanted.length === 0))
      return part.lines
        .filter(({ kind }) => kind === 'required')
        .map(({ pattern }) =>
          undecided(part.part.block, pattern.source, 'no-value', unknownIn([...part.block, pattern], values)),
        )
    return linesIn(part, placesFor(openers, subject), subject, values, inner)
  }

  /** Openers of blocks in a part's own that other parts are about. */
  #openersWithin({ block }: CompiledPart): Pattern[] {
    const depth = block.length
    return this.#parts.flatMap((other) => {
      const opener = other.block[depth]
      return opener && block.every((pattern, i) => pattern.source === other.block[i]?.source) ? [opener] : []
    })
  }
}

interface Place {
  /** Null: the block is not there. */
  readonly scope: Scope | null
  readonly block: readonly string[]
}

/** The blocks that openers lead to: every one that matches; where none does, the one that would be made. */
function placesFor(openers: readonly (readonly Wanted[])[], { effective, opaque }: TemplateSubject): Place[] {
  let places: Place[] = [{ scope: effective.scope, block: [] }]
  for (const wanted of openers) {
    places = places.flatMap(({ scope, block }) =>
      wanted.flatMap((one): Place[] => {
        const found = scope ? statementsFor(one, scope, opaque).filter((statement) => statement.scope !== null) : []
        return found.length === 0
          ? [{ scope: null, block: [...block, one.text] }]
          : found.map((statement) => ({ scope: statement.scope, block: [...block, statement.text] }))
      }),
    )
  }
  return places
}

function linesIn(
  part: CompiledPart,
  places: readonly Place[],
  { effective, opaque }: TemplateSubject,
  values: Values,
  openers: readonly Pattern[],
): ConformingLine[] {
  const hidden = effective.tree.faults.length > 0
  return places.flatMap(({ scope, block }) => {
    const out: ConformingLine[] = []
    const used = new Set<Statement>()
    const inTurn: Statement[] = []
    const shown = (state: LineState, statement: Statement, own: readonly string[]): ConformingLine =>
      held(state, block, scope ? opaque.textOf(statement, scope) : statement.text, statement.nodes, own)
    for (const { pattern, kind } of part.lines) {
      const wanted = wantedFor(pattern, values)
      const names = pattern.names.filter((name) => values.has(name))
      const unknown = unknownIn([pattern], values)
      if (unknown.length > 0) {
        // Lines that may be the one with the value that is not known are neither missing, extra nor forbidden for sure.
        const open = (scope?.statements ?? []).filter(
          (statement) => scope !== null && matches(pattern, statement, scope, opaque) !== null,
        )
        for (const statement of open) used.add(statement)
        if (kind === 'required' || (kind === 'forbidden' && open.length > 0))
          out.push({
            ...undecided(block, pattern.source, 'no-value', unknown),
            nodes: open.flatMap(({ nodes }) => nodes),
          })
      }
      for (const one of wanted) {
        const found = scope ? statementsFor(one, scope, opaque) : []
        for (const statement of found) used.add(statement)
        if (kind === 'forbidden') out.push(...found.map((statement) => shown('forbidden', statement, names)))
        else if (kind === 'required' && found.length > 0) {
          out.push(...found.map((statement) => shown('matching', statement, names)))
          inTurn.push(...found)
        } else if (kind === 'required')
          out.push(
            hidden
              ? undecided(block, one.text, 'incomplete', names)
              : {
                  state: 'missing',
                  block,
                  text: one.text,
                  nodes: [],
                  typeable: one.typeable,
                  doubt: null,
                  values: names,
                },
          )
      }
    }
    const extra = (scope?.statements ?? []).filter(
      (statement) =>
        scope !== null &&
        !used.has(statement) &&
        !(statement.scope && openers.some((pattern) => matches(pattern, statement, scope, opaque) !== null)) &&
        part.covers.some((pattern) => matches(pattern, statement, scope, opaque) !== null),
    )
    out.push(...extra.map((statement) => shown('extra', statement, [])))
    return part.part.ordered && scope ? outOfOrder(out, inTurn, scope) : out
  })
}

/** Of the lines that stand in another order than the template: as few as possible. */
function outOfOrder(lines: readonly ConformingLine[], wanted: readonly Statement[], scope: Scope): ConformingLine[] {
  const stands = scope.statements.filter((statement) => wanted.includes(statement))
  const idOf = (statement: Statement): string => String(scope.statements.indexOf(statement))
  const kept = new Set(heaviestCommonSequence(wanted.map(idOf), stands.map(idOf)).map(([i]) => wanted[i]?.nodes[0]))
  return lines.map((line) =>
    line.state === 'matching' && line.nodes[0] && !kept.has(line.nodes[0]) ? { ...line, state: 'out-of-order' } : line,
  )
}

function held(
  state: LineState,
  block: readonly string[],
  text: string,
  nodes: readonly ConfigNode[],
  values: readonly string[],
): ConformingLine {
  return { state, block, text, nodes, typeable: true, doubt: null, values }
}

function undecided(
  block: readonly string[],
  text: string,
  doubt: TemplateDoubt,
  values: readonly string[],
): ConformingLine {
  return { state: 'undecided', block, text, nodes: [], typeable: false, doubt, values }
}

function statementsFor(wanted: Wanted, scope: Scope, opaque: OpaqueLines): Statement[] {
  const candidates = wanted.pattern.first === null ? scope.statements : scope.startingWith(wanted.pattern.first)
  return candidates.filter((statement) => {
    const bindings = matches(wanted.pattern, statement, scope, opaque)
    return bindings !== null && [...wanted.bound].every(([name, value]) => String(bindings[name]) === value)
  })
}

function matches(
  pattern: Pattern,
  statement: Statement,
  scope: Scope,
  opaque: OpaqueLines,
): ReturnType<typeof matchPattern> {
  return statement.negated === pattern.negated ? matchPattern(pattern, opaque.wordsOf(statement, scope)) : null
}

/** A line once for each value of the list that it names; none where a value is not known. */
function wantedFor(pattern: Pattern, values: Values): Wanted[] {
  let combinations: ReadonlyMap<string, string>[] = [new Map()]
  for (const name of pattern.names) {
    if (!values.has(name)) continue
    const own = values.get(name) ?? []
    combinations = combinations.flatMap((bound) => own.map((value) => new Map([...bound, [name, value]])))
  }
  return combinations.map((bound) => {
    const text = filled(pattern.source, bound)
    return { pattern, bound, text, typeable: !/(?:^| )(?:\*|\.\.\.|<[^>]*>|\{[^}]*\})(?: |$)/.test(text) }
  })
}

function filled(source: string, bound: ReadonlyMap<string, string>): string {
  return source.replace(/<([a-z_]\w*)(?::\w+|\.\.\.)?>/gi, (whole, name: string) => bound.get(name) ?? whole)
}

function unknownIn(patterns: readonly Pattern[], values: Values): string[] {
  return patterns.flatMap(({ names }) => names.filter((name) => values.has(name) && values.get(name) === null))
}

function isTrue(expression: Expression | null, names: Readonly<Record<string, unknown>>): boolean | null {
  try {
    const value = expression?.evaluate(names)
    return typeof value === 'boolean' ? value : null
  } catch {
    return null
  }
}

import {
  blocksAround,
  maskLine,
  type Fault,
  type LocatedTree,
  type Mask,
  type Scope,
  type Statement,
} from '../syntax/index.ts'
import { blank, ownPart } from './blank.ts'
import type { Default } from './defaults.ts'
import type { ModelDialect } from './dialect.ts'
import { EffectiveConfig } from './effective-config.ts'
import { ModelPath, type Origin, type OriginNotes, type Origins } from './origins.ts'
import { deviceModelSchema, type DeviceModel } from './schema/index.ts'
import { ROOT, ProvenanceRecorder, Writer } from './writer.ts'

/** A line that no reader used, with the block it stands in. */
export interface UnreadLine {
  readonly record: string
  readonly line: number
  readonly text: string
  readonly block: string | null
}

/** A statement that no mapping read, and the blocks that it stands in. */
export interface UnreadStatement {
  readonly statement: Statement
  readonly around: readonly Statement[]
}

/** A line on which no answer rests, and why not. */
export interface HarmlessLine extends UnreadLine {
  readonly why: string
}

export interface BesideLine extends UnreadLine {
  readonly lastLine: number
  readonly parts: readonly string[]
}

export interface ModelOptions {
  /** Name of the record in origins. */
  readonly record: string
  readonly mask: Mask
  /** Whether the listing shows defaults: then what is silent is not there at all. */
  readonly listing?: 'ordinary' | 'full'
}

/** The lines of a listing that no reader used, counted from 1. */
export function unreadLinesOf(tree: LocatedTree, dialect: ModelDialect): number[] {
  return modelOf(EffectiveConfig.of(tree, dialect), { record: '', mask: () => '' }).unread.map(({ line }) => line)
}

/** A unit of a port that is shut down is down with it (common practice of all dialects). */
function settleUnits(write: Writer<DeviceModel>): void {
  const { interfaces } = write.target
  const shut = new Map(interfaces.flatMap(({ name, enabled }, i) => (enabled === false ? [[name, i]] : [])))
  if (shut.size === 0) return
  interfaces.forEach(({ name, enabled }, i) => {
    const dot = name.lastIndexOf('.')
    const port = dot < 0 || enabled === false ? undefined : shut.get(name.slice(0, dot))
    const one = port === undefined ? null : write.entryAt('interfaces', i)
    if (!one) return
    one.presume('enabled', false)
    write.provenance.origins.note(one.place, 'enabled', { kind: 'of', path: `interfaces[${port}].enabled` })
  })
}

/**
 * The model of one device, where its values are from, and what of its listing was of no use. A class, since an object
 * written out with accessors has a shape of its own each time, and such shapes keep what they speak of in memory.
 */
export class ModelledDevice {
  /** In the order of their lines; texts masked. */
  readonly unread: readonly UnreadLine[]
  /** Those of other records, with the parts of the model that they may speak of. */
  readonly beside: readonly BesideLine[]
  readonly #effective: EffectiveConfig
  readonly #provenance: ProvenanceRecorder
  readonly #options: ModelOptions

  constructor(
    readonly model: DeviceModel,
    effective: EffectiveConfig,
    provenance: ProvenanceRecorder,
    options: ModelOptions,
    /** Lines of records beside the configuration that were not read. */
    others: readonly (UnreadLine | BesideLine)[] = [],
  ) {
    this.#effective = effective
    this.#provenance = provenance
    this.#options = options
    const own = unreadLines(effective, options.record, provenance, options.mask)
    this.unread = others.length === 0 ? own : [...own, ...others]
    this.beside = others.filter((line): line is BesideLine => 'parts' in line)
  }

  get origins(): Origins {
    return this.notes.all
  }

  /** The same while other records still add to them. */
  get notes(): OriginNotes {
    return this.#provenance.origins
  }

  /** Lines that were passed over because no answer rests on them. */
  get harmless(): readonly HarmlessLine[] {
    return harmlessLines(this.#effective, this.#options.record, this.#provenance, this.#options.mask)
  }

  /** What holds on the device. */
  get scope(): Scope {
    return this.#effective.scope
  }

  get dialect(): ModelDialect {
    return this.#effective.dialect
  }

  /** Why the record is not whole, if it is not: what is absent from the model is then not known to be absent. */
  get faults(): readonly Fault[] {
    return this.#effective.tree.faults
  }

  /** Whether a statement of its configuration was neither read nor passed over. */
  isUnread(statement: Statement): boolean {
    return this.#provenance.isUnread(statement)
  }

  /** Those statements, with the blocks around each, outermost first; of a block that was not read, the block alone. */
  unreadStatements(): readonly UnreadStatement[] {
    return unreadWithin(this.scope, [], this.#provenance)
  }

  /** What would be read if something else held. */
  read(scope: Scope): ModelledDevice {
    return modelOf(new EffectiveConfig(this.#effective.tree, scope, this.dialect), this.#options)
  }

  /** The same device, with lines of other records that were not read. */
  with(others: readonly (UnreadLine | BesideLine)[]): ModelledDevice {
    return new ModelledDevice(this.model, this.#effective, this.#provenance, this.#options, others)
  }
}

/** Makes the device model of a configuration. Never throws: what no reader understands is listed in `unread`. */
export function modelOf(effective: EffectiveConfig, options: ModelOptions): ModelledDevice {
  const { record, mask, listing = 'ordinary' } = options
  const model = blank(deviceModelSchema)
  model.dialect = effective.dialect.id
  model.listing = listing
  const provenance = new ProvenanceRecorder(record, mask)
  const write = new Writer(model, deviceModelSchema, ROOT, provenance)
  effective.dialect.model.read(effective.scope, write)
  settleUnits(write)
  if (listing === 'ordinary') applyDefaults(model, effective.dialect.model.defaults, provenance.origins)
  return new ModelledDevice(model, effective, provenance, options)
}

/** Defaults by the steps of their paths, so that each place of the model is come to once. */
interface DefaultTree {
  readonly under: Map<string, DefaultTree>
  value: Default['value'] | null
  origin: Origin | null
}

const defaultTrees = new WeakMap<readonly Default[], DefaultTree>()

function treeOf(entries: readonly Default[]): DefaultTree {
  const root: DefaultTree = { under: new Map(), value: null, origin: null }
  for (const { path, value, source } of entries) {
    let at = root
    for (const step of path.split('.')) {
      let next = at.under.get(step)
      if (!next) at.under.set(step, (next = { under: new Map(), value: null, origin: null }))
      at = next
    }
    at.value = value
    at.origin = { kind: 'default', source }
  }
  return root
}

function applyDefaults(model: DeviceModel, defaults: readonly Default[], origins: OriginNotes): void {
  const visit = (holder: Record<string, unknown>, { under }: DefaultTree, here: ModelPath): void => {
    for (const [name, next] of under) {
      if (name === '*') {
        if (Array.isArray(holder))
          holder.forEach((entry: Record<string, unknown>, i) =>
            visit(entry, next, new ModelPath(here.around, here.field, i)),
          )
        continue
      }
      if (next.origin === null) visit(ownPart(holder, name) as Record<string, unknown>, next, new ModelPath(here, name))
      else if (holder[name] === null) {
        holder[name] = next.value
        origins.note(here, name, next.origin)
      }
    }
  }
  if (defaults.length === 0) return
  let tree = defaultTrees.get(defaults)
  if (!tree) defaultTrees.set(defaults, (tree = treeOf(defaults)))
  visit(model, tree, ROOT)
}

/**
 * The lines of statements that were neither read nor passed over, and those that the reader of the text could not
 * place.
 */
export function unreadLines(
  effective: EffectiveConfig,
  record: string,
  provenance: ProvenanceRecorder,
  mask: Mask,
): UnreadLine[] {
  const { tree, dialect } = effective
  const lines = new Map<number, UnreadLine>()
  for (const line of linesOf(effective, record, mask, (statement) => provenance.isUnread(statement)))
    lines.set(line.line, line)
  // What a mapping made something of was placed after all.
  const used =
    tree.unread.length === 0
      ? new Set<number>()
      : new Set([...provenance.used].flatMap(({ nodes }) => nodes.map((node) => node.line)))
  for (const line of tree.unread) {
    if (!lines.has(line) && !used.has(line))
      lines.set(line, {
        record,
        line,
        text: maskLine(tree.lines.at(line - 1).trim(), null, dialect, mask),
        block: null,
      })
  }
  return inOrder([...lines.values()])
}

function unreadWithin(scope: Scope, around: readonly Statement[], provenance: ProvenanceRecorder): UnreadStatement[] {
  return scope.statements.flatMap((statement) => {
    if (provenance.isUnread(statement)) return [{ statement, around }]
    return statement.scope ? unreadWithin(statement.scope, [...around, statement], provenance) : []
  })
}

function harmlessLines(
  effective: EffectiveConfig,
  record: string,
  provenance: ProvenanceRecorder,
  mask: Mask,
): HarmlessLine[] {
  const whys = new Map<number, string>()
  for (const [{ nodes }, why] of provenance.harmless) for (const { line } of nodes) whys.set(line, why)
  return inOrder(
    linesOf(effective, record, mask, (statement) => !provenance.used.has(statement) && !provenance.isUnread(statement)),
  ).map((line) => ({ ...line, why: whys.get(line.line) ?? '' }))
}

function linesOf(
  { scope, dialect }: EffectiveConfig,
  record: string,
  mask: Mask,
  wanted: (statement: Statement) => boolean,
): UnreadLine[] {
  const lines: UnreadLine[] = []
  const collect = (at: Scope, block: string | null): void => {
    for (const statement of at.statements) {
      if (wanted(statement)) {
        for (const node of statement.nodes)
          lines.push({
            record,
            line: node.line,
            text: maskLine(node.text, dialect.around ? blocksAround(node, dialect) : block, dialect, mask),
            block: blocksAround(node, dialect) ?? block,
          })
      }
      if (statement.scope) collect(statement.scope, statement.text)
    }
  }
  collect(scope, null)
  return lines
}

function inOrder<L extends UnreadLine>(lines: readonly L[]): L[] {
  return [...lines].sort((a, b) => a.line - b.line)
}

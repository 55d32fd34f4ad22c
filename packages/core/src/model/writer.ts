import { z } from 'zod'
import {
  maskText,
  mayHoldSecret,
  secretsAnywhere,
  type ConfigNode,
  type Mask,
  type Statement,
} from '../syntax/index.ts'
import { blank, ownPart } from './blank.ts'
import { Lookup } from './lookup.ts'
import { OriginNotes, ModelPath, type Origin, type OriginLines } from './origins.ts'

/** What says something: a node of a tree, or a line of an output. */
export type SourceRange = Pick<ConfigNode, 'line' | 'lastLine' | 'columns'> &
  Partial<Pick<ConfigNode, 'text' | 'command'>>

type LineOrigin = Extract<Origin, { kind: 'line' }>

/** Shorter ones stand in too many other words. */
const SHORTEST = 4
/** Fields that name a thing to everybody, whatever they look like: a MACsec channel (IEEE 802.1AE), a serial number. */
const IDENTIFIERS: ReadonlySet<string> = new Set(['sci', 'serial'])
const NO_SECRETS: readonly string[] = []

/** What is being made of one record: the origins noted so far and the statements that were of use. */
export class ProvenanceRecorder {
  readonly used = new Set<Statement>()
  /** Statements on which no answer rests, and why not. */
  readonly harmless = new Map<Statement, string>()
  /** Statements of which a mapping made nothing, or not all: nothing else may pass them over. */
  readonly refused = new Set<Statement>()
  /** How often something was written: a statement by which nothing was written was not read. */
  written = 0

  /** Whether a statement was neither read nor passed over. */
  isUnread(statement: Statement): boolean {
    return !this.used.has(statement) && (this.refused.has(statement) || !this.harmless.has(statement))
  }

  readonly lookup = new Lookup()
  /** Secrets in the lines that are being read; made when first asked for, null where there can be none. */
  #secrets: readonly string[] | null | undefined
  #nodes: readonly SourceRange[] = []
  /** Of the lines that are being read; one for all the values that they state. */
  #origin: LineOrigin | null = null
  /** Of the entries of each list. */
  readonly #entries = new Map<object, (GrowingOrigin | LineOrigin | null)[]>()

  constructor(
    readonly record: string,
    readonly mask: Mask,
    /** Of the whole device, where several records speak of it. */
    readonly origins = new OriginNotes(),
  ) {}

  /** Takes what follows from where something else is from already. */
  from(origin: Origin | null): void {
    this.#nodes = []
    this.#secrets = undefined
    this.#origin = origin?.kind === 'line' ? origin : null
  }

  /** The lines that are being read. */
  get nodes(): readonly SourceRange[] {
    return this.#nodes
  }

  set nodes(nodes: readonly SourceRange[]) {
    this.#nodes = nodes
    this.#origin = null
    this.#secrets = undefined
  }

  /** A value as it may stand in the model: a text that is a secret where it is stated, or holds one, is its mark. */
  shown<V>(value: V): V {
    if (typeof value !== 'string' || value.length < SHORTEST) return value
    const stated = this.#stated()
    if (stated === null) return value
    if (stated.includes(value)) return this.mask(value) as V
    let text = maskText(value, this.mask)
    for (const secret of stated) if (text.includes(secret)) text = text.replaceAll(secret, this.mask(secret))
    return text as V
  }

  /** The same of the texts of an entry. */
  shownAll<V extends object>(values: V): V {
    if (this.#stated() === null) return values
    let shown: V | null = null
    for (const name in values) {
      const value = IDENTIFIERS.has(name) ? values[name] : this.shown(values[name])
      if (value !== values[name]) (shown ??= { ...values })[name] = value
    }
    return shown ?? values
  }

  #stated(): readonly string[] | null {
    if (this.#secrets === undefined) this.#secrets = this.#mayHide() ? this.#found() : null
    return this.#secrets
  }

  /** Most commands hold nothing of the kind, and what is made of them does not either. */
  #mayHide(): boolean {
    const nodes = this.#nodes
    for (let i = 0; i < nodes.length; i++) if (nodes[i]?.command?.mayHide !== false) return true
    return nodes.length === 0
  }

  #found(): readonly string[] {
    const found = new Set<string>()
    for (const { text } of this.#nodes) {
      if (text === undefined || !mayHoldSecret(text)) continue
      for (const [from, to] of secretsAnywhere(text)) if (to - from >= SHORTEST) found.add(text.slice(from, to))
    }
    return found.size === 0 ? NO_SECRETS : [...found]
  }

  note(place: ModelPath, field: string | null): void {
    const origin = this.#here()
    if (origin) this.origins.note(place, field, origin)
  }

  /** Notes an entry that has come to the end of a list. */
  noteEntry(list: readonly object[], place: ModelPath): void {
    let entries = this.#entries.get(list)
    if (!entries) this.#entries.set(list, (entries = []))
    entries[place.entry] = this.#here()
    this.note(place, null)
  }

  /** Adds lines to those that an entry is from already. */
  noteMore(list: readonly object[], place: ModelPath): void {
    const entries = this.#entries.get(list)
    const known = entries?.[place.entry]
    const more = this.#here()
    if (!more || known === more) return
    if (known instanceof GrowingOrigin) return known.add(more.lines)
    const growing = new GrowingOrigin(this.record, known?.lines ?? [])
    growing.add(more.lines)
    if (entries) entries[place.entry] = growing
    this.origins.note(place, null, growing)
  }

  #here(): LineOrigin | null {
    if (this.#nodes.length > 0) this.#origin ??= { kind: 'line', record: this.record, lines: this.#nodes.map(linesOf) }
    return this.#origin
  }
}

/** The origin of an entry that several statements add to. */
class GrowingOrigin implements LineOrigin {
  readonly kind = 'line'
  readonly lines: OriginLines[] = []
  readonly #places = new Set<number>()

  constructor(
    readonly record: string,
    lines: readonly OriginLines[],
  ) {
    this.add(lines)
  }

  add(lines: readonly OriginLines[]): void {
    for (const one of lines) {
      const place = placeOf(one)
      if (this.#places.has(place)) continue
      this.#places.add(place)
      this.lines.push(one)
    }
  }
}

function linesOf(node: SourceRange): OriginLines {
  return node.columns
    ? { from: node.line, to: node.lastLine, columns: node.columns }
    : { from: node.line, to: node.lastLine }
}

/** Line and column as one number. */
function placeOf({ from, columns }: OriginLines): number {
  return from * 2 ** 20 + Math.min(columns?.[0] ?? 0, 2 ** 20 - 1)
}

/** Where a model begins. */
export const ROOT = new ModelPath(null, '')

type Element<L> = L extends readonly (infer E)[] ? (E extends object ? E : never) : never
type Inner<V> = V extends object ? V : never

/** Writes into one part of the model and notes, for every value, the lines it is from. */
export class Writer<T extends object> {
  constructor(
    readonly target: T,
    readonly schema: z.ZodObject,
    readonly place: ModelPath,
    readonly provenance: ProvenanceRecorder,
  ) {}

  get path(): string {
    return this.place.path
  }

  set<K extends keyof T & string>(field: K, value: T[K]): this {
    this.target[field] = IDENTIFIERS.has(field) ? value : this.provenance.shown(value)
    this.provenance.written++
    this.provenance.note(this.place, field)
    return this
  }

  /** Takes a value for granted until a line says otherwise. */
  presume<K extends keyof T & string>(field: K, value: T[K]): this {
    this.target[field] = value
    this.provenance.written++
    return this
  }

  /** The part under a field. */
  at<K extends keyof T & string>(field: K): Writer<Inner<T[K]>> {
    return new Writer(
      ownPart(this.target, field) as Inner<T[K]>,
      this.#schemaOf(field) as z.ZodObject,
      new ModelPath(this.place, field),
      this.provenance,
    )
  }

  /** A new entry at the end of a list. */
  add<K extends keyof T & string>(field: K, values: Partial<Element<T[K]>>): Writer<Element<T[K]>> {
    const list = ownPart(this.target, field) as Element<T[K]>[]
    const schema = this.#entrySchemaOf(field)
    const writer = new Writer(
      Object.assign(blank(schema) as object, this.provenance.shownAll(values)) as Element<T[K]>,
      schema,
      new ModelPath(this.place, field, list.length),
      this.provenance,
    )
    list.push(writer.target)
    this.provenance.written++
    this.provenance.noteEntry(list, writer.place)
    return writer
  }

  /**
   * The entry of a list that has these values; a new one where there is none. The lines that name it are all its own.
   */
  entry<K extends keyof T & string>(field: K, key: Partial<Element<T[K]>>): Writer<Element<T[K]>> {
    const shown = this.provenance.shownAll(key)
    return (
      this.more(field, this.provenance.lookup.placeOf(this.target[field] as Element<T[K]>[], shown)) ??
      this.add(field, shown)
    )
  }

  /** The entry at a place of a list, which has lines added to its own; null where there is none. */
  more<K extends keyof T & string>(field: K, place: number): Writer<Element<T[K]>> | null {
    const entry = this.entryAt(field, place)
    if (!entry) return null
    this.provenance.written++
    this.provenance.noteMore(this.target[field] as Element<T[K]>[], entry.place)
    return entry
  }

  find<K extends keyof T & string>(field: K, key: Partial<Element<T[K]>>): Writer<Element<T[K]>> | null {
    const list = this.target[field] as Element<T[K]>[]
    const place = this.provenance.lookup.placeOf(list, key)
    return place < 0 ? null : this.entryAt(field, place)
  }

  /** All entries of a list that have these values. */
  every<K extends keyof T & string>(field: K, key: Partial<Element<T[K]>>): Writer<Element<T[K]>>[] {
    return this.provenance.lookup
      .placesOf(this.target[field] as Element<T[K]>[], key)
      .flatMap((place) => this.entryAt(field, place) ?? [])
  }

  /** The entry at a place of a list. */
  entryAt<K extends keyof T & string>(field: K, place: number): Writer<Element<T[K]>> | null {
    const item = (this.target[field] as Element<T[K]>[])[place]
    return item
      ? new Writer(item, this.#entrySchemaOf(field), new ModelPath(this.place, field, place), this.provenance)
      : null
  }

  /** The entry of a list that has the values of `key`, with others in their place; null where there is none. */
  rekey<K extends keyof T & string>(
    field: K,
    key: Partial<Element<T[K]>>,
    values: Partial<Element<T[K]>>,
  ): Writer<Element<T[K]>> | null {
    const list = this.target[field] as Element<T[K]>[]
    const place = this.provenance.lookup.placeOf(list, key)
    const entry = this.more(field, place)
    if (!entry) return null
    Object.assign(entry.target, values)
    this.provenance.lookup.changed(list, place)
    return entry
  }

  /** Adds texts to a list of texts. */
  push<K extends keyof T & string>(field: K, ...values: T[K] extends string[] ? string[] : never): this {
    const list = ownPart(this.target, field) as string[]
    this.provenance.written += values.length
    for (const stated of values) {
      const value = this.provenance.shown(stated)
      if (this.provenance.lookup.includes(list, value)) continue
      this.provenance.note(this.place, `${field}[${list.length}]`)
      list.push(value)
    }
    return this
  }

  #schemaOf(field: string): z.ZodType {
    return (this.schema.shape as Record<string, z.ZodType>)[field] ?? z.never()
  }

  #entrySchemaOf(field: string): z.ZodObject {
    return (this.#schemaOf(field) as z.ZodArray<z.ZodObject>).element
  }
}

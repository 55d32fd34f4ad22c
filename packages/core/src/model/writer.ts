import { z } from 'zod'
import type { ConfigNode, Mask, Statement } from '../config/index.ts'
import { blank } from './blank.ts'
import type { Origin, OriginLines } from './origins.ts'

/** What says something: a node of a tree, or a line of an output. */
export type SaidLines = Pick<ConfigNode, 'line' | 'lastLine' | 'columns'>

/** What is being made of one record: the origins noted so far and the statements that were of use. */
export class Sheet {
  readonly origins = new Map<string, Origin>()
  readonly used = new Set<Statement>()
  /** The lines that are being read. */
  nodes: readonly SaidLines[] = []

  constructor(
    readonly record: string,
    readonly mask: Mask,
  ) {}

  note(path: string, nodes: readonly SaidLines[] = this.nodes): void {
    if (nodes.length > 0) this.origins.set(path, { kind: 'line', record: this.record, lines: nodes.map(linesOf) })
  }

  /** Adds lines to those that a thing is from already. */
  noteMore(path: string): void {
    const known = this.origins.get(path)
    const more = this.nodes.map(linesOf)
    if (more.length === 0) return
    const before = known?.kind === 'line' ? known.lines.filter((lines) => !more.some((other) => other.from === lines.from)) : []
    this.origins.set(path, { kind: 'line', record: this.record, lines: [...before, ...more] })
  }
}

function linesOf(node: SaidLines): OriginLines {
  return node.columns ? { from: node.line, to: node.lastLine, columns: node.columns } : { from: node.line, to: node.lastLine }
}

type Element<L> = L extends readonly (infer E)[] ? (E extends object ? E : never) : never
type Inner<V> = V extends object ? V : never

/** Writes into one part of the model and notes, for every value, the lines it is from. */
export class Writer<T extends object> {
  constructor(
    readonly target: T,
    readonly schema: z.ZodObject,
    readonly path: string,
    readonly sheet: Sheet,
  ) {}

  set<K extends keyof T & string>(field: K, value: T[K]): this {
    this.target[field] = value
    this.sheet.note(this.#pathOf(field))
    return this
  }

  /** Takes a value for granted until a line says otherwise. */
  presume<K extends keyof T & string>(field: K, value: T[K]): this {
    this.target[field] = value
    return this
  }

  /** The part under a field. */
  at<K extends keyof T & string>(field: K): Writer<Inner<T[K]>> {
    return new Writer(this.target[field] as Inner<T[K]>, this.#schemaOf(field) as z.ZodObject, this.#pathOf(field), this.sheet)
  }

  /** A new entry at the end of a list. */
  add<K extends keyof T & string>(field: K, values: Partial<Element<T[K]>>): Writer<Element<T[K]>> {
    const list = this.target[field] as Element<T[K]>[]
    const schema = (this.#schemaOf(field) as z.ZodArray<z.ZodObject>).element
    const item = Object.assign(blank(schema) as object, values) as Element<T[K]>
    const writer = new Writer(item, schema, `${this.#pathOf(field)}[${list.length}]`, this.sheet)
    list.push(item)
    this.sheet.note(writer.path)
    return writer
  }

  /** The entry of a list that has these values; a new one where there is none. The lines that name it are all its own. */
  entry<K extends keyof T & string>(field: K, key: Partial<Element<T[K]>>): Writer<Element<T[K]>> {
    const found = this.find(field, key)
    if (!found) return this.add(field, key)
    this.sheet.noteMore(found.path)
    return found
  }

  find<K extends keyof T & string>(field: K, key: Partial<Element<T[K]>>): Writer<Element<T[K]>> | null {
    const list = this.target[field] as Element<T[K]>[]
    const wanted = Object.entries(key)
    const at = list.findIndex((item) => wanted.every(([name, value]) => (item as Record<string, unknown>)[name] === value))
    const item = list[at]
    return item ? new Writer(item, (this.#schemaOf(field) as z.ZodArray<z.ZodObject>).element, `${this.#pathOf(field)}[${at}]`, this.sheet) : null
  }

  /** Adds texts to a list of texts. */
  push<K extends keyof T & string>(field: K, ...values: T[K] extends string[] ? string[] : never): this {
    const list = this.target[field] as string[]
    for (const value of values) {
      if (list.includes(value)) continue
      this.sheet.note(`${this.#pathOf(field)}[${list.length}]`)
      list.push(value)
    }
    return this
  }

  #pathOf(field: string): string {
    return this.path === '' ? field : `${this.path}.${field}`
  }

  #schemaOf(field: string): z.ZodType {
    return (this.schema.shape as Record<string, z.ZodType>)[field] ?? z.never()
  }
}

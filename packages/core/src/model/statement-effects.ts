/**
 * Which forms of statement bear on which part of the model. It is found out of the mappings themselves: each is run
 * once with a writer that only notes where it would write, so that the answer cannot differ from what the readers do.
 */
import { Command, Statement, type Scope } from '../syntax/index.ts'
import { Bound, type MappingTable } from './mapping.ts'
import type { Pattern } from './pattern.ts'
import { ROOT, ProvenanceRecorder, Writer } from './writer.ts'
import type { ModelPath } from './origins.ts'
import type { z } from 'zod'

/**
 * A form of statement, and the part of the model that it writes into (`interfaces.filters.in4`; empty: it may be any
 * part).
 */
export interface StatementEffect {
  readonly path: string
  readonly pattern: Pattern
}

/** @param root the part that the table is about; empty of the whole model */
export function statementEffects(table: MappingTable<never>, root: string): StatementEffect[] {
  return table.mappings.flatMap(({ pattern, apply }): StatementEffect[] => {
    const noted = new Set<string>()
    const writer = new NotingWriter(root, noted)
    try {
      apply(writer as unknown as Writer<never>, new AnyBound(), likeOf(pattern))
    } catch {
      // What cannot be run without a device may write anywhere.
      return [{ path: root, pattern }]
    }
    // What opens a block writes nothing by itself; the tables of the block say what its lines do.
    return [...(noted.size > 0 || root === '' ? noted : [root])].map((path) => ({ path, pattern }))
  })
}

/** Something that has every field, each of them something of the same kind; lists of one. */
function anything(): unknown {
  const target = (): void => undefined
  const list: unknown[] = []
  return new Proxy(target, {
    get: (_, name) => {
      if (name === Symbol.iterator) return list[Symbol.iterator].bind(list)
      if (name === Symbol.toPrimitive) return () => ''
      if (name === 'length') return 0
      const own = (list as unknown as Record<string | symbol, unknown>)[name]
      return typeof own === 'function' ? own.bind(list) : anything()
    },
    apply: () => anything(),
    set: () => true,
  })
}

/** Notes where would be written. */
class NotingWriter {
  readonly provenance = Object.assign(new ProvenanceRecorder('', () => ''), { nodes: [] })
  readonly schema = anything() as z.ZodObject
  readonly target = anything() as object
  readonly place: ModelPath = ROOT

  constructor(
    readonly path: string,
    readonly noted: Set<string>,
  ) {}

  #note(field: string): NotingWriter {
    const path = this.path === '' ? field : `${this.path}.${field}`
    this.noted.add(path)
    return new NotingWriter(path, this.noted)
  }

  set(field: string): this {
    this.#note(field)
    return this
  }

  presume(field: string): this {
    return this.set(field)
  }

  push(field: string): this {
    return this.set(field)
  }

  /** Going into a part writes nothing by itself. */
  at(field: string): NotingWriter {
    return new NotingWriter(this.path === '' ? field : `${this.path}.${field}`, this.noted)
  }

  add(field: string): NotingWriter {
    return this.#note(field)
  }

  entry(field: string): NotingWriter {
    return this.#note(field)
  }

  more(field: string): NotingWriter {
    return this.#note(field)
  }

  rekey(field: string): NotingWriter {
    return this.#note(field)
  }

  find(field: string): NotingWriter {
    return this.#note(field)
  }

  entryAt(field: string): NotingWriter {
    return this.#note(field)
  }

  every(field: string): NotingWriter[] {
    return [this.#note(field)]
  }
}

/** Names that are bound to numbers; every other is bound to what reads as an address and a mask alike. */
const NUMBERS = new Set(['ids', 'vlans', 'group', 'as', 'process'])

/** Binds every name. */
class AnyBound extends Bound {
  constructor() {
    super({})
  }

  override text(name: string): string {
    return NUMBERS.has(name) ? '1' : '255.255.255.0'
  }

  override number(): number {
    return 1
  }

  override words(): string[] {
    return ['1', '1']
  }
}

/** A statement that a pattern matches. */
function likeOf({ tokens, negated }: Pattern): Statement {
  const words = tokens.flatMap((token) =>
    token.kind === 'word' ? [token.anyOf[0] ?? ''] : token.kind === 'gap' ? [] : ['1'],
  )
  return new Statement(
    new Command(words.join(' '), negated, false, null, null, false, words),
    [],
    undefined,
    null satisfies Scope | null,
  )
}

import { compileExpression, type Expression } from '../rules/index.ts'
import type { CitedLines } from '../compare/index.ts'
import { grouped } from '../syntax/grouped.ts'
import type { Check } from './schema.ts'
import type { TableDoubt, TableRow, TableRows } from './rows.ts'

/**
 * What is wrong with a row, with both values. `grown`, `shrunk`: where that must not be. `outside`: of the tolerance.
 * `not-so`: what must hold of it does not. `no-value`: it has no value that can be compared. `reset`: a counter that
 * began anew, so that it is not known what it did before.
 */
export const ROW_CODES = [
  'appeared',
  'vanished',
  'changed',
  'outside',
  'grown',
  'shrunk',
  'not-so',
  'no-value',
  'reset',
] as const
export type RowCode = (typeof ROW_CODES)[number]

export interface CheckRow {
  readonly key: string
  readonly code: RowCode
  /** As text; null where the row is not on that side, or states nothing. */
  readonly before: string | null
  readonly after: string | null
  readonly a: readonly CitedLines[]
  readonly b: readonly CitedLines[]
}

export type CheckOutcome = 'pass' | 'fail' | 'unknown' | 'error' | 'notchecked'

/** The answer of one check on one device. */
export interface CheckResult {
  readonly check: string
  readonly outcome: CheckOutcome
  /** How many rows it is about, on either side. */
  readonly rows: number
  /** Rows that fail, and rows that cannot be decided. */
  readonly failing: readonly CheckRow[]
  /** Why it is unknown, not checked, or an error. */
  readonly doubt: (TableDoubt & { readonly side: 'a' | 'b' | 'both' }) | null
  /** Of an error: what the expression says. */
  readonly error: string | null
}

/** Decides one check over the rows of both sides. */
export function checked(check: Check, a: TableRows, b: TableRows): CheckResult {
  const doubt = doubtOf(a, b)
  const result = { check: check.id, rows: 0, failing: [], doubt, error: null }
  if (doubt?.code === 'not-captured') return { ...result, outcome: doubt.side === 'both' ? 'notchecked' : 'unknown' }
  try {
    const { rows, failing } = new Checking(check).decide(a.rows, b.rows)
    return { ...result, rows, failing, outcome: outcomeOf(check, failing, doubt !== null) }
  } catch (error) {
    const [line = ''] = (error instanceof Error ? error.message : String(error)).split('\n')
    return { ...result, outcome: 'error', error: line }
  }
}

function doubtOf(a: TableRows, b: TableRows): CheckResult['doubt'] {
  if (a.doubt && b.doubt && a.doubt.code === b.doubt.code)
    return { code: a.doubt.code, lines: [...a.doubt.lines, ...b.doubt.lines], side: 'both' }
  // What was not captured decides before what was not read.
  const sides = [
    ...(a.doubt ? [{ ...a.doubt, side: 'a' as const }] : []),
    ...(b.doubt ? [{ ...b.doubt, side: 'b' as const }] : []),
  ]
  return sides.find(({ code }) => code === 'not-captured') ?? sides[0] ?? null
}

const UNDECIDED: ReadonlySet<RowCode> = new Set(['no-value', 'reset'])

/** A row that is not known may be the one that fails, and the one that is looked for. */
function outcomeOf({ is }: Check, failing: readonly CheckRow[], doubtful: boolean): CheckOutcome {
  const fails = failing.some(({ code }) => !UNDECIDED.has(code))
  if (fails) return doubtful && (is === 'appeared' || is === 'vanished') ? 'unknown' : 'fail'
  if (failing.length > 0) return 'unknown'
  // Of what was looked for and found, more cannot be wrong: but a row that seems new may have been there, unparsed.
  return doubtful ? 'unknown' : 'pass'
}

/** A row of both sides under one key. */
interface PairedRow {
  readonly key: string
  readonly a: Valued | null
  readonly b: Valued | null
}

interface Valued {
  readonly value: unknown
  readonly lines: readonly CitedLines[]
}

class Checking {
  readonly #where: Expression | null
  readonly #value: Expression | null
  readonly #count: Expression | null

  constructor(readonly check: Check) {
    const compiled = (source: string | undefined): Expression | null =>
      source === undefined ? null : compileExpression(source)
    this.#where = compiled(check.where)
    this.#value = compiled(check.value)
    this.#count = compiled(check.count)
  }

  decide(a: readonly TableRow[], b: readonly TableRow[]): { rows: number; failing: CheckRow[] } {
    const pairs = this.#paired(a, b)
    const { is } = this.check
    if (is !== 'appeared' && is !== 'vanished')
      return { rows: pairs.length, failing: pairs.flatMap((pair) => this.#judged(pair) ?? []) }
    const found = pairs.some((pair) => (is === 'appeared' ? pair.a === null : pair.b === null))
    const none: CheckRow = { key: '', code: 'not-so', before: null, after: null, a: [], b: [] }
    return { rows: pairs.length, failing: found ? [] : [none] }
  }

  /**
   * What must be kept is what belongs there in A, what is new what does in B. Else a row belongs where it does on
   * either side: one that stopped to be up is not left out for being down.
   */
  #paired(a: readonly TableRow[], b: readonly TableRow[]): PairedRow[] {
    if (this.#count) return this.#counted(a, b, this.#count)
    const [left, right] = [grouped(a, ({ key }) => key), grouped(b, ({ key }) => key)]
    return [...new Set([...left.keys(), ...right.keys()])].flatMap((key): PairedRow[] => {
      const [mine, theirs] = [left.get(key) ?? [], right.get(key) ?? []]
      if (!this.#sides(mine, theirs).some((row) => this.#belongs(row))) return []
      return [{ key, a: this.#valued(mine), b: this.#valued(theirs) }]
    })
  }

  #sides(a: readonly TableRow[], b: readonly TableRow[]): readonly TableRow[] {
    switch (this.check.is) {
      case 'kept':
      case 'vanished':
        return a
      case 'no-new':
      case 'appeared':
      case 'holds':
        return b
      default:
        return [...a, ...b]
    }
  }

  #belongs({ row }: TableRow): boolean {
    return this.#where === null || this.#where.evaluate({ row }) === true
  }

  /** Several rows may share a key: what is compared is all of their values. */
  #valued(rows: readonly TableRow[]): Valued | null {
    if (rows.length === 0) return null
    const values = rows.map(({ row }) => (this.#value ? plain(this.#value.evaluate({ row })) : 'present'))
    return { value: rows.length === 1 ? values[0] : values, lines: rows.flatMap(({ lines }) => lines) }
  }

  #counted(a: readonly TableRow[], b: readonly TableRow[], count: Expression): PairedRow[] {
    const groups = (rows: readonly TableRow[]): Map<string, TableRow[]> =>
      grouped(
        rows.filter((row) => this.#belongs(row)),
        ({ row }) => words(plain(count.evaluate({ row }))) ?? '',
      )
    const [left, right] = [groups(a), groups(b)]
    const counted = (rows: readonly TableRow[] = []): Valued => ({
      value: rows.length,
      lines: rows.slice(0, 1).flatMap(({ lines }) => lines),
    })
    return [...new Set([...left.keys(), ...right.keys()])].map((key) => ({
      key,
      a: counted(left.get(key)),
      b: counted(right.get(key)),
    }))
  }

  #judged({ key, a, b }: PairedRow): CheckRow | null {
    const code = this.#wrong(a, b)
    return (
      code && {
        key,
        code,
        before: a && words(a.value),
        after: b && words(b.value),
        a: a?.lines ?? [],
        b: b?.lines ?? [],
      }
    )
  }

  #wrong(a: Valued | null, b: Valued | null): RowCode | null {
    switch (this.check.is) {
      case 'same':
        return a === null ? 'appeared' : b === null ? 'vanished' : isSame(a, b) ? null : 'changed'
      case 'kept':
        return a === null ? null : b === null ? 'vanished' : isSame(a, b) ? null : 'changed'
      case 'no-new':
        return a === null ? 'appeared' : null
      case 'holds':
        return b === null ? null : b.value === true ? null : typeof b.value === 'boolean' ? 'not-so' : 'no-value'
      case 'within':
      case 'may-grow':
      case 'not-grown':
        return this.#moved(a, b)
      default:
        return null
    }
  }

  #moved(a: Valued | null, b: Valued | null): RowCode | null {
    const { is, by = 0, percent } = this.check
    if (b === null) return is === 'not-grown' ? null : 'vanished'
    const [was, now] = [a === null ? 0 : sizeOf(a.value), sizeOf(b.value)]
    if (was === null || now === null) return 'no-value'
    if (is === 'within') {
      if (a === null) return 'appeared'
      return Math.abs(now - was) <= (percent === undefined ? by : (Math.abs(was) * percent) / 100) ? null : 'outside'
    }
    if (is === 'may-grow') return now >= was ? null : 'shrunk'
    if (now >= was) return now > was ? 'grown' : null
    // A counter that is less than it was began anew; whatever it shows it has counted since.
    return this.#value === null ? null : now > 0 ? 'grown' : 'reset'
  }
}

function isSame(a: Valued, b: Valued): boolean {
  return words(a.value) === words(b.value)
}

/** Whole numbers of expressions as plain ones. */
function plain(value: unknown): unknown {
  if (typeof value === 'bigint') return Number(value)
  return Array.isArray(value) ? value.map(plain) : value
}

function sizeOf(value: unknown): number | null {
  if (typeof value === 'number') return value
  return Array.isArray(value) ? value.length : null
}

/** A value as text; null where nothing is stated. */
function words(value: unknown): string | null {
  if (value === null || value === undefined) return null
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (Array.isArray(value))
    return value
      .map((one) => words(one) ?? '')
      .sort()
      .join(', ')
  if (typeof value === 'object')
    return Object.entries(value)
      .flatMap(([name, inner]) => (inner === null || inner === false ? [] : [`${name} ${words(inner) ?? ''}`]))
      .join(' ')
  return String(value)
}

const CODES: Readonly<Record<RowCode, string>> = {
  appeared: 'appeared',
  vanished: 'vanished',
  changed: 'changed',
  outside: 'outside of the tolerance',
  grown: 'grew',
  shrunk: 'shrank',
  'not-so': 'does not hold',
  'no-value': 'has no value to compare',
  reset: 'began anew: what it counted before is not known',
}

/** `10.40.0.1: changed, established → idle` */
export function rowWords({ key, code, before, after }: CheckRow): string {
  const values = before === null && after === null ? '' : `, ${before ?? '-'} → ${after ?? '-'}`
  return `${key === '' ? '' : `${key}: `}${CODES[code]}${values}`
}

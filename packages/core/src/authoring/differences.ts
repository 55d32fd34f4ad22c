import { stringify } from 'yaml'
import type { BenchmarkSource } from '../benchmarks/index.ts'

/** One part that differs, as it is written; null where it is not there. */
export interface FieldDifference {
  readonly field: string
  readonly from: string | null
  readonly to: string | null
}

export interface RuleDifference {
  readonly kind: 'rule' | 'question' | 'value'
  readonly id: string
  readonly title: string
  readonly what: 'added' | 'removed' | 'changed'
  readonly fields: readonly FieldDifference[]
}

export interface BenchmarkDifferences {
  /** Of the benchmark itself: title, version, profiles. */
  readonly about: readonly FieldDifference[]
  readonly parts: readonly RuleDifference[]
}

/** What one version of a benchmark says otherwise than another; the order of rules and of keys does not count. */
export function differencesOf(from: BenchmarkSource, to: BenchmarkSource): BenchmarkDifferences {
  const { rules: rulesFrom, attestations: questionsFrom, values: valuesFrom, ...aboutFrom } = from
  const { rules: rulesTo, attestations: questionsTo, values: valuesTo, ...aboutTo } = to
  const valuesIn = (values: BenchmarkSource['values']): { id: string; title: string }[] =>
    Object.entries(values).map(([id, value]) => ({ id, ...value }))
  return {
    about: fieldsOf(aboutFrom, aboutTo),
    parts: [
      ...partsOf('rule', rulesFrom, rulesTo),
      ...partsOf('question', questionsFrom, questionsTo),
      ...partsOf('value', valuesIn(valuesFrom), valuesIn(valuesTo)),
    ],
  }
}

interface Part {
  readonly id: string
  readonly title: string
}

function partsOf(kind: RuleDifference['kind'], from: readonly Part[], to: readonly Part[]): RuleDifference[] {
  const [then, now] = [from, to].map((parts) => new Map(parts.map((part) => [part.id, part])))
  return [...new Set([...from, ...to].map(({ id }) => id))].flatMap((id): RuleDifference[] => {
    const [before, after] = [then?.get(id), now?.get(id)]
    const title = (after ?? before)?.title ?? id
    if (!before || !after) return [{ kind, id, title, what: before ? 'removed' : 'added', fields: [] }]
    const fields = fieldsOf(before, after)
    return fields.length === 0 ? [] : [{ kind, id, title, what: 'changed', fields }]
  })
}

function fieldsOf(from: object, to: object): FieldDifference[] {
  const [then, now] = [new Map<string, unknown>(Object.entries(from)), new Map<string, unknown>(Object.entries(to))]
  return [...new Set([...then.keys(), ...now.keys()])].flatMap((field) => {
    const [before, after] = [written(then.get(field)), written(now.get(field))]
    return before === after ? [] : [{ field, from: before, to: after }]
  })
}

/** As YAML, with keys in one order, so that only what is said makes a difference. */
function written(value: unknown): string | null {
  return value === undefined ? null : stringify(value, { sortMapEntries: true, lineWidth: 0 }).trimEnd()
}

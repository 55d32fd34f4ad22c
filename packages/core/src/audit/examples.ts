import { dialectById, type Dialect } from '../dialects/index.ts'
import { MaskedLines, maskWithKey } from '../syntax/index.ts'
import { prepare, type CompiledBenchmark, type Benchmark } from '../benchmarks/index.ts'
import { Clock, EstateView, type Example, type Rule } from '../rules/index.ts'
import type { ReadRecord } from '../state/index.ts'
import { auditDevice, estateAnswersOf, joinAnswers, type EstateDevice } from './audited-device.ts'
import type { Verdict } from './document.ts'
import { withElsewhere } from './elsewhere.ts'

/** Examples hold invented secrets, so that any key will do. */
const MASK = maskWithKey(new Uint8Array(32))

/** The verdict of a rule on one of its examples, and how it differs from the expected one. */
export interface ExampleTrial {
  readonly example: Example
  readonly verdict: Verdict | null
  /** Empty where the verdict is as expected. */
  readonly wrong: readonly string[]
}

/** The records of an example, as a device would have them. */
export function recordsOf({ dialect: id, config, saved, outputs, taken }: Example): ReadRecord[] {
  const dialect = dialectById(id)
  if (!dialect) return []
  return [
    { id: 'config.txt', kind: 'config', tree: dialect.read(config) },
    ...(saved === undefined ? [] : [{ id: 'config.saved.txt', kind: 'config.saved', tree: dialect.read(saved) }]),
    ...Object.entries(outputs).map(([name, text]): ReadRecord => {
      const kind = /^(?:files\/|sockets$|sysctl$|filters6$)/.test(name) ? name : `state/${name}`
      return { id: `${kind}.txt`, kind, tree: null, text, takenAt: taken ?? null }
    }),
  ]
}

/** Judges the examples of a rule by the rule. */
export function tryExamples(benchmark: Benchmark, rule: Rule): ExampleTrial[] {
  return rule.source.examples.map((example) => {
    const dialect = dialectById(example.dialect)
    const verdict = dialect
      ? verdictOn(
          example,
          dialect,
          prepare({ benchmark: { ...benchmark, rules: [rule] }, profile: null, values: example.values }),
        )
      : null
    return { example, verdict, wrong: verdict ? differences(example, verdict) : ['it could not be parsed'] }
  })
}

function verdictOn(example: Example, dialect: Dialect, bench: CompiledBenchmark): Verdict | null {
  const estate: EstateDevice[] = [
    { name: 'example', dialect, records: recordsOf(example) },
    ...Object.entries(example.others).map(([name, config]) => ({
      name,
      dialect,
      records: recordsOf({ ...example, config, outputs: {} }),
    })),
  ]
  const [verdict] = auditDevice('example', dialect, recordsOf(example), [bench], MASK, {
    clock: new Clock(example.at === undefined ? 0 : Date.parse(example.at)),
    estate: new EstateView(joinAnswers(estate.map((one) => [one.name, estateAnswersOf(one, [bench], MASK)] as const))),
    ...(example.facts === undefined ? {} : { facts: example.facts }),
    ...(example.before === undefined ? {} : { before: recordsOf({ ...example, config: example.before, outputs: {} }) }),
  })
  if (!verdict) return null
  const [cited] = withElsewhere([verdict], (device, kind) => {
    const record = estate.find(({ name }) => name === device)?.records.find((one) => one.kind === kind)
    return record?.tree
      ? {
          id: `${device}/${record.id}`,
          text: (from, to) => new MaskedLines(record.tree, dialect, MASK).range(from, to),
        }
      : null
  })
  return cited ?? null
}

function differences({ is, branch, missing, extra }: Example, verdict: Verdict): string[] {
  const wrong: string[] = []
  if (verdict.outcome !== is) wrong.push(`expected ${is}, got ${verdict.outcome}: ${verdict.note}`)
  if (branch !== undefined && verdict.branch !== branch)
    wrong.push(`expected the branch "${branch}", got "${verdict.branch}"`)
  if (missing !== undefined && missing.join('\n') !== verdict.missing.join('\n'))
    wrong.push(`expected missing ${JSON.stringify(missing)}, got ${JSON.stringify(verdict.missing)}`)
  if (extra !== undefined && extra.join('\n') !== verdict.extra.join('\n'))
    wrong.push(`expected extra ${JSON.stringify(extra)}, got ${JSON.stringify(verdict.extra)}`)
  return wrong
}

/** Kinds of example that a rule lacks: one that passes, one that fails, one that is silent, and one that misleads. */
export function lackingExamples({ examples }: { readonly examples: readonly Example[] }): string[] {
  const kinds: readonly (readonly [string, (example: Example) => boolean])[] = [
    ['pass', ({ is }) => is === 'pass'],
    ['fail', ({ is }) => is === 'fail'],
    ['silent', ({ name, config }) => name.startsWith('silent') || config.trim() === 'hostname a'],
    ['trap', ({ name }) => name.startsWith('trap')],
  ]
  return kinds.filter(([, fits]) => !examples.some(fits)).map(([kind]) => kind)
}

import { expect } from 'chai'
import fc from 'fast-check'
import { benchmarkTexts } from '@jurybox/content'
import { readBenchmark } from '../../src/index.ts'
import { closureOf } from '../../src/rules/cel/closures.ts'
import { parse } from '../../src/rules/cel/environment.ts'
import { compileExpression } from '../../src/rules/index.ts'

/** What an expression gives, or the first line of its error. */
function outcome(work: () => unknown): unknown {
  try {
    return work()
  } catch (error) {
    return `error: ${error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error)}`
  }
}

/** Against the language's own interpreter, @marcbachmann/cel-js: a general-purpose library. */
function sameAsInterpreter(source: string, names: Readonly<Record<string, unknown>>): void {
  expect(
    outcome(() => compileExpression(source).evaluate(names)),
    source,
  ).to.deep.equal(outcome(() => parse(source).run(names)))
}

const value = fc.constantFrom<unknown>(
  ...[0n, 1n, -1n, 2n, 0, 1, 1.5, NaN, true, false, null, '', 'a', 'b', 'ab', '1', '10.0.0.1', '10.0.0.0/8'],
  ...[
    [],
    ['a', 'b'],
    ['a', 1n],
    [1n, 2n],
    [1, 2],
    [null],
    [[]],
    {},
    { x: 1n },
    { x: 'a', y: [] },
    new Map([['x', 1n]]),
  ],
  [
    { x: 1n, y: 'a' },
    { x: 2, y: null },
    { x: null, y: 'b' },
  ],
)
const names = fc.record({ a: value, b: value, c: value, list: fc.array(value, { maxLength: 4 }) })

const { expression } = fc.letrec<{ expression: string }>((tie) => {
  const e = tie('expression')
  return {
    expression: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      fc.constantFrom('a', 'b', 'c', 'list', 'e', 'none', 'a.x', 'list[0]', 'e.x', 'e.y', 'b["x"]'),
      fc.constantFrom('1', '0', '-1', '2.0', '1.5', 'true', 'false', 'null', '"a"', '"ab"', '""', '[]', '["a", "b"]'),
      fc
        .tuple(fc.constantFrom('==', '!=', '<', '<=', '>', '>=', '&&', '||', 'in', '+', '-', '*'), e, e)
        .map(([op, l, r]) => `(${l} ${op} ${r})`),
      fc.tuple(e, e, e).map(([c, l, r]) => `(${c} ? ${l} : ${r})`),
      e.map((inner) => `!(${inner})`),
      e.map((inner) => `-(${inner})`),
      fc
        .tuple(e, fc.constantFrom('exists', 'all', 'exists_one', 'filter', 'map'), e)
        .map(([list, macro, part]) => `${list}.${macro}(e, ${part})`),
      fc.tuple(fc.constantFrom('size', 'words', 'string', 'int', 'type', 'has'), e).map(([f, x]) => `${f}(${x})`),
      fc
        .tuple(fc.constantFrom('startsWith', 'endsWith', 'contains', 'split', 'indexOf'), e, e)
        .map(([f, x, y]) => `${x}.${f}(${y})`),
      fc
        .tuple(fc.constantFrom('found', 'without', 'inside', 'overlaps', 'among', 'numbered', 'meet', 'lacking'), e, e)
        .map(([f, x, y]) => `${f}(${x}, ${y})`),
      fc.array(e, { maxLength: 3 }).map((parts) => `[${parts.join(', ')}]`),
    ),
  }
})

describe('expressions', () => {
  it('say what the interpreter of the language says, in values and in errors', () =>
    fc.assert(
      fc.property(expression, names, (source, bound) => {
        let isExpression = true
        try {
          parse(source)
        } catch {
          isExpression = false
        }
        if (isExpression) sameAsInterpreter(source, bound)
      }),
      { numRuns: Number(process.env['EXPRESSIONS'] ?? 4_000) },
    ))

  const cases: [source: string, names: Record<string, unknown>][] = [
    ['false && 1 == "a"', {}],
    ['a.exists(e, e.x > 1)', { a: [{ x: null }, { x: 2n }] }],
    ['a.all(e, e.x > 1)', { a: [{ x: null }, { x: 0n }] }],
    ['a == b', { a: [1n], b: [1] }],
    ['a == b', { a: { x: 1n }, b: { x: 1 } }],
    ['"x" in a', { a: { x: null } }],
    ['1 in a', { a: [1.0] }],
    ['a.x.y', { a: { x: null } }],
    ['a.toString', { a: {} }],
    ['a.constructor == b', { a: {}, b: null }],
    ['a < b', { a: 9007199254740993n, b: 9007199254740992 }],
    ['a == b', { a: 9007199254740993n, b: 9007199254740992 }],
    ['size(a)', { a: '💡' }],
    ['a.map(x, a.map(x, x + "b"))', { a: ['a'] }],
    ['a.map(x, x.filter(y, y != x[0]))', { a: [['p', 'q'], ['r']] }],
    ['a.b', { a: new Date(0) }],
    ['[[], 1].exists(e, found(b, ""))', { b: '1' }],
    ['["a", 1].map(e, e)', {}],
    ['[[1], ["a"]].all(e, size(e) == 1)', {}],
  ]
  for (const [source, bound] of cases) it(source, () => sameAsInterpreter(source, bound))

  it('of the shipped benchmarks nearly all are closures', () => {
    const sources = new Set(
      benchmarkTexts()
        .flatMap(({ text }) => readBenchmark(text).rules)
        .flatMap(({ needs }) => needs.expressions),
    )
    const interpreted = [...sources].filter((source) => {
      try {
        return closureOf(parse(source).ast) === null
      } catch {
        return false
      }
    })
    expect(sources.size).to.be.greaterThan(200)
    expect(interpreted.length / sources.size, interpreted.join('\n')).to.be.at.most(0.05)
  })
})

import { heaviestCommonSequence } from './common-sequence.ts'

/** Lines of context around each change, as is usual. */
const AROUND = 3

/** One line of the edit script. */
interface Step {
  readonly mark: ' ' | '-' | '+'
  readonly line: string
}

/**
 * The difference of two texts in the unified form that `patch` applies (POSIX.1-2017, diff -u). Texts that are equal
 * give an empty text.
 * @param a, b names and lines of both sides
 */
export function unifiedDiff(
  a: { readonly name: string; readonly lines: readonly string[] },
  b: { readonly name: string; readonly lines: readonly string[] },
): string {
  const steps = stepsOf(a.lines, b.lines)
  const hunks = hunksOf(steps)
  if (hunks.length === 0) return ''
  return [`--- ${a.name}`, `+++ ${b.name}`, ...hunks, ''].join('\n')
}

function stepsOf(a: readonly string[], b: readonly string[]): Step[] {
  const steps: Step[] = []
  let [i, j] = [0, 0]
  const until = (x: number, y: number): void => {
    while (i < x) steps.push({ mark: '-', line: a[i++] ?? '' })
    while (j < y) steps.push({ mark: '+', line: b[j++] ?? '' })
  }
  for (const [x, y] of heaviestCommonSequence(a, b)) {
    until(x, y)
    steps.push({ mark: ' ', line: a[x] ?? '' })
    i = x + 1
    j = y + 1
  }
  until(a.length, b.length)
  return steps
}

function hunksOf(steps: readonly Step[]): string[] {
  const changed = steps.flatMap(({ mark }, at) => (mark === ' ' ? [] : [at]))
  const spans: [from: number, to: number][] = []
  for (const at of changed) {
    const last = spans.at(-1)
    // Changes whose context touches stand in one hunk.
    if (last && at - last[1] <= 2 * AROUND) last[1] = at
    else spans.push([at, at])
  }
  const out: string[] = []
  let [lineA, lineB, at] = [1, 1, 0]
  for (const [first, last] of spans) {
    const [from, to] = [Math.max(0, first - AROUND), Math.min(steps.length - 1, last + AROUND)]
    for (; at < from; at++) {
      lineA++
      lineB++
    }
    const own = steps.slice(from, to + 1)
    const [sizeA, sizeB] = [
      own.filter(({ mark }) => mark !== '+').length,
      own.filter(({ mark }) => mark !== '-').length,
    ]
    out.push(`@@ -${range(lineA, sizeA)} +${range(lineB, sizeB)} @@`, ...own.map(({ mark, line }) => `${mark}${line}`))
    lineA += sizeA
    lineB += sizeB
    at = to + 1
  }
  return out
}

/** An empty range names the line before it. */
function range(from: number, size: number): string {
  return size === 0 ? `${from - 1},0` : size === 1 ? String(from) : `${from},${size}`
}

import type { Score, Verdict } from './document.ts'

/**
 * What counts for a score: XCCDF leaves out what does not apply, was not checked or not selected (NIST IR 7275 r4,
 * §7.3).
 */
const COUNTED = new Set(['pass', 'fail', 'unknown', 'error'])

/**
 * All weights are 1; a waived violation counts as what it is.
 * @param verdicts each on one device, or on as many as `count` says
 * @param topicOf the topic of a rule: the group that it belongs to
 */
export function scoreOf(
  benchmark: string,
  verdicts: readonly (Pick<Verdict, 'rule' | 'outcome'> & { readonly count?: number })[],
  topicOf: (rule: string) => string,
): Score {
  const byTopic = new Map<string, Map<string, { passed: number; all: number }>>()
  let [points, of] = [0, 0]
  for (const { rule, outcome, count = 1 } of verdicts) {
    if (!COUNTED.has(outcome)) continue
    const topic = topicOf(rule)
    const rules = byTopic.get(topic) ?? new Map<string, { passed: number; all: number }>()
    byTopic.set(topic, rules)
    const own = rules.get(rule) ?? { passed: 0, all: 0 }
    rules.set(rule, own)
    own.all += count
    of += count
    if (outcome !== 'pass') continue
    own.passed += count
    points += count
  }
  const topics = [...byTopic.values()].map((rules) =>
    mean([...rules.values()].map(({ passed, all }) => (100 * passed) / all)),
  )
  return { benchmark, flat: { points, of }, weighted: topics.length === 0 ? null : mean(topics) }
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length
}

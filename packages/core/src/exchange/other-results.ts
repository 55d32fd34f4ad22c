/** Results of others, whatever open format they come in, named as the verdicts of an audit are. */
import type { Verdict } from '../audit/index.ts'
import { readResults } from './oscal-results.ts'
import { readOscal } from './oscal-schema.ts'
import { readXccdf, ruleOfXccdf } from './xccdf.ts'

export interface OtherOutcome {
  readonly device: string
  /** The rule of ours that it is about; null where it is about another. */
  readonly rule: { readonly benchmark: string; readonly rule: string } | null
  /** The rule as the document names it. */
  readonly id: string
  readonly outcome: Verdict['outcome']
  readonly note: string
}

interface OtherResults {
  readonly outcomes: readonly OtherOutcome[]
  /** What the document holds beyond outcomes, or where it has an outcome that no verdict has. */
  readonly lost: readonly string[]
}

/**
 * Reads results of XCCDF 1.2 (XML), or assessment results of OSCAL (JSON).
 * @param rules those of each benchmark by which was judged
 * @throws Error that says where the text is neither
 */
export function readOtherResults(text: string, rules: ReadonlyMap<string, readonly string[]>): OtherResults {
  return text.trimStart().startsWith('{') ? ofOscal(text, rules) : ofXccdf(text, rules)
}

function ofXccdf(text: string, rules: ReadonlyMap<string, readonly string[]>): OtherResults {
  const { outcomes, lost } = readXccdf(text)
  const named = (id: string): OtherOutcome['rule'] => {
    for (const [benchmark, own] of rules) {
      const rule = ruleOfXccdf({ benchmark, rules: own }, id)
      if (rule !== null) return { benchmark, rule }
    }
    return null
  }
  const known = new Map([...new Set(outcomes.map(({ id }) => id))].map((id) => [id, named(id)]))
  return { outcomes: outcomes.map((one) => ({ ...one, rule: known.get(one.id) ?? null })), lost }
}

function ofOscal(text: string, rules: ReadonlyMap<string, readonly string[]>): OtherResults {
  const { outcomes, lost } = readResults(readOscal(text, 'assessment-results'))
  const known = new Map([...rules].map(([benchmark, own]) => [benchmark, new Set(own)]))
  return {
    outcomes: outcomes.map(({ device, benchmark, rule, outcome, note }) => ({
      device,
      rule: known.get(benchmark)?.has(rule) ? { benchmark, rule } : null,
      id: rule,
      outcome,
      note,
    })),
    lost,
  }
}

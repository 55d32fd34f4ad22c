import type { Outcome, Risk, Severity } from './outcome.ts'

/** Lines of a record that a verdict rests on; for an absence, the range that was searched. Lines count from 1. */
export interface Exhibit {
  readonly record: string
  readonly from: number
  readonly to: number
  /** The lines themselves, secrets masked. */
  readonly text: string
  readonly absent?: true
}

/** Lines to remove and to add in one block (null: at the top). Texts hold real secrets. */
export interface Edit {
  readonly block: string | null
  readonly remove: readonly string[]
  readonly add: readonly string[]
}

export type RemedyProposal =
  | {
      readonly kind: 'edits'
      readonly edits: readonly Edit[]
      readonly risk: Risk
      readonly check: readonly string[]
      readonly unrestored?: string
    }
  | { readonly kind: 'words'; readonly words: string }

/** What one rule says of one device. */
export interface Judgement {
  readonly rule: string
  readonly outcome: Outcome
  readonly severity: Severity
  /** Branch that decided; of several subjects, that of the first with the deciding outcome. */
  readonly branch: string
  readonly note: string
  readonly subjects: readonly { readonly name: string; readonly outcome: Outcome; readonly note: string }[]
  readonly exhibits: readonly Exhibit[]
  readonly missing: readonly string[]
  readonly extra: readonly string[]
  readonly remedy: RemedyProposal | null
}

/**
 * The outcome of several subjects together: XCCDF 1.2's truth table for AND (NIST IR 7275 r4, §7.2.3.5.1; its order is
 * given here from memory): fail decides, then unknown, then error; what does not apply counts only where nothing else
 * does.
 */
const AND_ORDER: readonly Outcome[] = ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked']

export function combine(outcomes: readonly Outcome[]): Outcome {
  return AND_ORDER.find((outcome) => outcomes.includes(outcome)) ?? 'notapplicable'
}

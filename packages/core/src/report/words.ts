import type { Counts } from '../audit/index.ts'

/** What reports call an outcome. */
export const OUTCOME_WORDS: Readonly<Record<keyof Counts, string>> = {
  fail: 'fail',
  unknown: 'unknown',
  error: 'error',
  pass: 'pass',
  notapplicable: 'not applicable',
  notchecked: 'not checked',
  notselected: 'not selected',
  waived: 'waived',
}

/** Outcomes in the order in which they concern people. */
export const OUTCOMES = ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked'] as const

export const OUTCOME_TITLES: Readonly<Record<string, string>> = {
  pass: 'pass', fail: 'fail', unknown: 'unknown', error: 'error', notapplicable: 'not applicable', notchecked: 'not checked', notselected: 'not selected', waived: 'waived',
}

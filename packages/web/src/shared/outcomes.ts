import { t } from '../messages/index.ts'
/** Outcomes in the order in which they concern people. */
export const OUTCOMES = ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked'] as const

/** A violation, a doubt or an error: what has to be settled. */
export function isFinding(outcome: string | undefined): boolean {
  return outcome === 'fail' || outcome === 'unknown' || outcome === 'error'
}

export const OUTCOME_TITLES: Readonly<Record<string, string>> = {
  pass: 'pass',
  fail: 'fail',
  unknown: 'unknown',
  error: 'error',
  notapplicable: t('shared.notApplicable'),
  notchecked: t('shared.notChecked'),
  notselected: t('common.notSelected'),
  waived: 'waived',
}

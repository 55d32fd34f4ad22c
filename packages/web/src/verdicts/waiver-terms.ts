import { t } from '../messages/index.ts'
import { dayOf } from '../shared/time.ts'

/** On what terms a finding is waived. */
export interface WaiverTerms {
  reason: string
  owner: string
  /** The last day on which it holds, `YYYY-MM-DD`, in UTC. */
  until: string
}

const DAY_MS = 86_400_000
const USUAL_DAYS = 90

export function usualTerms(owner: string, now = Date.now()): WaiverTerms {
  return { reason: '', owner, until: dayOf(now + USUAL_DAYS * DAY_MS) }
}

/** The moment at which it ends, as RFC 3339. */
export const endOf = ({ until }: WaiverTerms): string => `${until}T23:59:59Z`

/** What a waiver still needs, in words; empty where nothing is missing. */
export function missingIn({ reason, owner, until }: WaiverTerms): string {
  if (reason.trim().length < 3) return t('verdicts.enterAReason')
  if (owner.trim() === '') return t('verdicts.enterTheRiskOwner')
  return /^\d{4}-\d\d-\d\d$/.test(until) ? '' : t('verdicts.enterTheEnd')
}

import type { Waiving } from '@jurybox/api/findings'
import { t } from '../messages/index.ts'

/** What became of a waiver that was asked for. */
export const WAIVING_WORDS: Readonly<Record<Waiving, string>> = {
  waived: t('verdicts.waivedNow'),
  'already-waived': t('verdicts.alreadyWaived'),
  'no-such-device': t('verdicts.noSuchDevice'),
  'no-finding': t('verdicts.noFinding'),
}

import { t } from '../messages/index.ts'
import type { StandingRow } from '@jurybox/api/estate'

/** In what words it is told whether software is approved. */
export const APPROVED_WORDS: Readonly<Record<StandingRow['approved'], string>> = {
  on: t('estate.approvedMark'),
  off: t('estate.notApproved'),
  none: t('estate.noPolicy'),
  unknown: t('estate.versionUnknown'),
}

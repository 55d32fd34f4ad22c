import type { StandingRow } from '../api/estate-types.ts'

/** In what words it is told whether software is approved. */
export const APPROVED_WORDS: Readonly<Record<StandingRow['approved'], string>> = {
  on: 'on the list',
  off: 'off the list',
  none: 'no list',
  unknown: 'version not known',
}

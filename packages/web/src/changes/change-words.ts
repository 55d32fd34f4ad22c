import type {
  AuthorView,
  ChangedDevice,
  ComparisonDoubtView,
  ExplanationView,
  ModelChangeView,
} from '@jurybox/api/changes'
import type { CheckResultView, CheckRowView } from '@jurybox/api/checks'
import { t } from '../messages/index.ts'

export const STANDING_WORDS: Readonly<Record<ChangedDevice['standing'], string>> = {
  changed: t('changes.standingChanged'),
  added: t('changes.standingAdded'),
  removed: t('changes.standingRemoved'),
  unreadable: t('changes.standingUnreadable'),
  same: t('changes.standingSame'),
  carried: t('changes.standingCarried'),
}

/** Whether nobody said that a changed configuration was meant. */
export function isUnexplained({ configured, explained }: Pick<ChangedDevice, 'configured' | 'explained'>): boolean {
  return configured && explained === null
}

export function explanationWords(explained: ExplanationView): string {
  return explained.kind === 'window'
    ? t('changes.byWindow', { title: explained.title })
    : t('changes.byApproval', { title: explained.title })
}

export function authorWords({ by, place }: AuthorView): string {
  const name = by ?? t('changes.somebody')
  return place === null ? name : t('changes.byFrom', { by: name, place })
}

/** What became of a value: `1500 → 9000`, `added`. */
export function valueWords({ change, field, before, after }: ModelChangeView): string {
  if (change === 'added')
    return field === '' ? joined(t('changes.added'), after) : t('changes.alsoNow', { value: after })
  if (change === 'removed')
    return field === '' ? joined(t('changes.removed'), before) : t('changes.noLonger', { value: before })
  return `${cut(before) ?? t('changes.notStated')} → ${cut(after) ?? t('changes.notStated')}`
}

/** Banners and descriptions may be long: their lines are below. */
const LONGEST = 120
function cut(value: string | null): string | null {
  return value !== null && value.length > LONGEST ? `${value.slice(0, LONGEST)}…` : value
}

function joined(word: string, value: string | null): string {
  return value === null || value === '' ? word : `${word} (${cut(value) ?? ''})`
}

export function doubtWords({ code, part, reason }: ComparisonDoubtView): string {
  switch (code) {
    case 'incomplete':
      return t('changes.doubtIncomplete', { reason })
    case 'not-captured':
      return t('changes.doubtNotCaptured', { part })
    case 'dialects':
      return t('changes.doubtDialects')
    case 'listings':
      return t('changes.doubtListings')
    case 'unparsed-output':
      return t('changes.doubtUnparsedOutput', { part })
    case 'no-configuration':
      return t('changes.doubtNoConfiguration')
  }
}

const UNITS = ['bit/s', 'kbit/s', 'Mbit/s', 'Gbit/s', 'Tbit/s']

/** `9.4 Mbit/s`: three digits that count. */
export function bitsWords(bits: number | null): string {
  if (bits === null) return ''
  let [value, unit] = [bits, 0]
  while (value >= 1000 && unit < UNITS.length - 1) {
    value /= 1000
    unit++
  }
  return `${value >= 100 || unit === 0 ? Math.round(value) : Number(value.toPrecision(3))} ${UNITS[unit] ?? ''}`
}

const ROW_CODES: Readonly<Record<CheckRowView['code'], string>> = {
  appeared: t('changes.rowAppeared'),
  vanished: t('changes.rowVanished'),
  changed: t('changes.rowChanged'),
  outside: t('changes.rowOutside'),
  grown: t('changes.rowGrown'),
  shrunk: t('changes.rowShrunk'),
  'not-so': t('changes.rowNotSo'),
  'no-value': t('changes.rowNoValue'),
  reset: t('changes.rowReset'),
}

/** `10.40.0.1: changed, established → idle` */
export function rowWords({ key, code, before, after }: CheckRowView): string {
  const values = before === null && after === null ? '' : `, ${before ?? '-'} → ${after ?? '-'}`
  return `${key === '' ? '' : `${key}: `}${ROW_CODES[code]}${values}`
}

export const CHECK_OUTCOME_WORDS: Readonly<Record<CheckResultView['outcome'], string>> = {
  pass: t('changes.standingPass'),
  fail: t('changes.standingFail'),
  unknown: t('changes.standingUnknown'),
  error: t('changes.checkError'),
  notchecked: t('changes.checkNotChecked'),
  pending: t('changes.standingPending'),
}

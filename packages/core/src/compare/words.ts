/** Comparisons in words, for texts and reports; pages have words of their own. */
import type { AccessListChange } from './access-list-changes.ts'
import type { ComparisonDoubt, DeviceComparison, ShownStatement } from './device-comparison.ts'
import type { ModelChange } from './model-changes.ts'
import type { StateChange } from './state-changes.ts'

const MARKS = { removed: '-', added: '+', moved: '~' } as const

/** `- interface Vlan30 › ip access-group KIOSK-IN in` */
export function statementWords({ change, around, text, inner, unparsed }: ShownStatement): string {
  const more = inner === 0 ? '' : ` (and ${inner} ${inner === 1 ? 'line' : 'lines'} in it)`
  return `${MARKS[change]} ${[...around, text].join(' › ')}${more}${unparsed ? ' [unparsed]' : ''}`
}

/** `interface Vlan30: mtu 1500 → 9000` */
export function modelWords({ change, subject, field, before, after }: ModelChange): string {
  const head = [subject.join(', '), field].filter((part) => part !== '').join(': ')
  if (change === 'added') return field === '' ? `${head}: added${detail(after)}` : `${head}: now also ${after ?? ''}`
  if (change === 'removed')
    return field === '' ? `${head}: removed${detail(before)}` : `${head}: no longer ${before ?? ''}`
  return `${head} ${cut(before) ?? 'not stated'} → ${cut(after) ?? 'not stated'}`
}

function detail(value: string | null): string {
  return value === null || value === '' ? '' : ` (${cut(value) ?? ''})`
}

/** Banners and descriptions may be long: their lines say the rest. */
const LONGEST = 120
function cut(value: string | null): string | null {
  return value !== null && value.length > LONGEST ? `${value.slice(0, LONGEST)}…` : value
}

/** `access list CARDS (Vlan30 in): now also permits tcp and dst port 8080` */
export function accessListWords(change: AccessListChange): string[] {
  const where = change.interfaces.length === 0 ? '' : ` (${change.interfaces.join(', ')})`
  const head = `access list ${change.list}${where}`
  if (change.tooComplex) return [`${head}: changed; too complex to compare as packets`]
  const lines = (
    [
      ['now also permits', change.permits],
      ['no longer permits', change.denies],
      ['may decide otherwise', change.undecided],
    ] as const
  ).flatMap(([words, set]) =>
    set === null ? [] : [`${head}: ${words} ${set.classes.join('; or ')}${set.whole ? '' : '; and more'}`],
  )
  return lines.length > 0 ? lines : [`${head}: other lines, the same packets`]
}

/** `route 10.40.0.0/16: metric 20 → 30` */
export function stateWords({ title, key, change, fields }: StateChange): string {
  const head = `${title} ${key}`.trim()
  if (change !== 'changed') return `${head}: ${change}`
  const changes = fields.map(({ field, before, after }) => `${field} ${before ?? '-'} → ${after ?? '-'}`)
  return `${head}: ${changes.join(', ')}`
}

const SIDES = { a: 'A', b: 'B' } as const
const DOUBTS: Readonly<Record<ComparisonDoubt['code'], string>> = {
  incomplete: 'a record is incomplete',
  'not-captured': 'not captured',
  dialects: 'the dialects differ: lines are not compared',
  listings: 'one side lists defaults, the other does not: configurations are not compared',
  'unparsed-output': 'lines of an output were not parsed',
  'no-configuration': 'no configuration was captured',
}

export function doubtWords({ code, side, part, reason }: ComparisonDoubt): string {
  const about = [side === null ? null : SIDES[side], part].flatMap((one) => (one === null ? [] : [`${one}: `]))
  return `${about.join('')}${DOUBTS[code]}${reason === null ? '' : ` (${reason})`}`
}

/** Everything that a comparison of two sides says, a line each. */
export function comparisonLines({ records, model, accessLists, state, doubts }: DeviceComparison): string[] {
  return [
    ...accessLists.flatMap(accessListWords),
    ...model.map(modelWords),
    ...records.flatMap(({ statements }) => statements.map(statementWords)),
    ...state.map(stateWords),
    ...doubts.map((doubt) => `? ${doubtWords(doubt)}`),
  ]
}

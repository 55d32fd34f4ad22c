import type { Condition } from '@jurybox/core/rules'

/** One part of a condition that people fill in. */
export interface Field {
  /** Keys that lead to it; none for the condition itself. */
  readonly path: readonly string[]
  readonly title: string
  readonly as: 'text' | 'lines' | 'number' | 'flag' | 'choice' | 'condition' | 'conditions'
  readonly choices?: readonly string[]
  readonly optional?: true
  readonly hint?: string
}

export interface Kind {
  /** The key that tells a condition of this kind from others. */
  readonly key: string
  readonly title: string
  readonly fields: readonly Field[]
  /** What a new one begins with. */
  readonly start: Condition
}

const IN: Field = {
  path: ['in'],
  title: 'In the block',
  as: 'lines',
  optional: true,
  hint: 'Patterns of the blocks that lead there, outermost first',
}
const WHERE: Field = {
  path: ['where'],
  title: 'Where',
  as: 'text',
  optional: true,
  hint: 'An expression over what the pattern names',
}

export const KINDS: readonly Kind[] = [
  {
    key: 'line',
    title: 'there is a line',
    fields: [{ path: ['line'], title: 'Line', as: 'lines' }, IN, WHERE],
    start: 'ip domain name *',
  },
  {
    key: 'absent',
    title: 'there is no line',
    fields: [{ path: ['absent'], title: 'Line', as: 'lines' }, IN, WHERE],
    start: { absent: 'ip http server' },
  },
  {
    key: 'all',
    title: 'all of',
    fields: [{ path: ['all'], title: '', as: 'conditions' }],
    start: { all: ['ip domain name *'] },
  },
  {
    key: 'any',
    title: 'any of',
    fields: [{ path: ['any'], title: '', as: 'conditions' }],
    start: { any: ['ip domain name *'] },
  },
  {
    key: 'none',
    title: 'none of',
    fields: [{ path: ['none'], title: '', as: 'conditions' }],
    start: { none: ['ip http server'] },
  },
  {
    key: 'exactly',
    title: 'exactly these lines',
    fields: [
      { path: ['exactly', 'of'], title: 'Of the lines', as: 'lines' },
      { path: ['exactly', 'lines'], title: 'These', as: 'lines' },
      IN,
    ],
    start: { exactly: { of: 'ntp server ...', lines: ['ntp server 192.0.2.1'] } },
  },
  {
    key: 'order',
    title: 'lines in this order',
    fields: [
      { path: ['order'], title: 'Lines', as: 'lines' },
      { path: ['contiguous'], title: 'Nothing between them', as: 'flag' },
      IN,
    ],
    start: { order: ['permit ...', 'deny ...'] },
  },
  {
    key: 'count',
    title: 'so many lines',
    fields: [
      { path: ['count', 'of'], title: 'Line', as: 'lines' },
      { path: ['count', 'atLeast'], title: 'At least', as: 'number', optional: true },
      { path: ['count', 'atMost'], title: 'At most', as: 'number', optional: true },
      IN,
    ],
    start: { count: { of: 'ntp server ...', atLeast: 2 } },
  },
  {
    key: 'holds',
    title: 'all of a pasted part',
    fields: [{ path: ['holds'], title: 'Part of a listing', as: 'lines' }],
    start: { holds: 'line vty 0 4\n transport input ssh' },
  },
  {
    key: 'matching',
    title: 'a line with a text',
    fields: [{ path: ['matching'], title: 'RE2 pattern', as: 'text' }, IN],
    start: { matching: 'ssh' },
  },
  {
    key: 'some',
    title: 'in some block',
    fields: [
      { path: ['some', 'block'], title: 'Block', as: 'lines' },
      { path: ['some', 'has'], title: 'has', as: 'condition' },
    ],
    start: { some: { block: 'line vty ...', has: 'transport input ssh' } },
  },
  {
    key: 'model',
    title: 'the device model says',
    fields: [{ path: ['model'], title: 'Expression', as: 'text' }],
    start: { model: 'system.services.http.enabled == false' },
  },
  {
    key: 'expr',
    title: 'values and names say',
    fields: [{ path: ['expr'], title: 'Expression', as: 'text' }],
    start: { expr: 'true' },
  },
  {
    key: 'state',
    title: 'its state says',
    fields: [
      { path: ['state'], title: 'Expression', as: 'text' },
      { path: ['of'], title: 'Kinds of output', as: 'lines' },
      { path: ['maxAge'], title: 'Not older than, seconds', as: 'number', optional: true },
    ],
    start: { state: 'size(state.neighbours) > 0', of: 'neighbours' },
  },
  {
    key: 'change',
    title: 'since the snapshot before',
    fields: [
      { path: ['change', 'of'], title: 'Value', as: 'text' },
      {
        path: ['change', 'is'],
        title: 'is',
        as: 'choice',
        choices: ['unchanged', 'appeared', 'vanished', 'grew', 'kept', 'within'],
      },
      { path: ['change', 'by'], title: 'within', as: 'number', optional: true },
      { path: ['change', 'percent'], title: 'within, %', as: 'number', optional: true },
    ],
    start: { change: { of: 'system.hostname', is: 'unchanged' } },
  },
  {
    key: 'same',
    title: 'the same on all devices',
    fields: [
      { path: ['same'], title: 'Value', as: 'text' },
      { path: ['among'], title: 'Among devices for which', as: 'text', optional: true },
    ],
    start: { same: 'system.domainName' },
  },
  {
    key: 'unique',
    title: 'on no other device',
    fields: [{ path: ['unique'], title: 'Value', as: 'text' }],
    start: { unique: 'interfaces.map(i, i.ipv4)' },
  },
  {
    key: 'ends',
    title: 'both ends of links agree',
    fields: [
      {
        path: ['ends'],
        title: 'about',
        as: 'choice',
        choices: ['known', 'mtu', 'speed', 'vlans', 'ospf', 'protection'],
      },
    ],
    start: { ends: 'mtu' },
  },
  {
    key: 'device',
    title: 'on the whole device',
    fields: [{ path: ['device'], title: '', as: 'condition' }],
    start: { device: 'ip domain name *' },
  },
]

/** The kind of a condition; null where it is written as text only. */
export function kindOf(condition: unknown): Kind | null {
  if (typeof condition === 'string') return KINDS[0] ?? null
  if (typeof condition !== 'object' || condition === null) return null
  return KINDS.find(({ key }) => key in condition) ?? null
}

/** What a field of a condition holds. */
export function fieldOf(condition: unknown, path: readonly string[]): unknown {
  const whole = typeof condition === 'string' ? { line: condition } : condition
  return path.reduce<unknown>(
    (at, key) => (typeof at === 'object' && at !== null ? (at as Record<string, unknown>)[key] : undefined),
    whole,
  )
}

/** The condition with one field changed; a plain line stays as short as it is written. */
export function withField(condition: unknown, path: readonly string[], value: unknown): unknown {
  const whole = typeof condition === 'string' ? { line: condition } : condition
  const changed = put(whole, path, value) as Record<string, unknown>
  const only = Object.keys(changed)
  return only.length === 1 && only[0] === 'line' && typeof changed['line'] === 'string' ? changed['line'] : changed
}

function put(at: unknown, [key, ...rest]: readonly string[], value: unknown): unknown {
  if (key === undefined) return value
  const held = typeof at === 'object' && at !== null ? { ...(at as Record<string, unknown>) } : {}
  const inner = rest.length === 0 ? value : put(held[key], rest, value)
  if (inner === undefined) delete held[key]
  else held[key] = inner
  return held
}

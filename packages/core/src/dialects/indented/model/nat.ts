import { addressWords } from '../../../model/address.ts'
import { blank } from '../../../model/blank.ts'
import { PORTS } from '../../../model/names.ts'
import { accessEntrySchema, type DeviceModel } from '../../../model/schema/index.ts'

type Nat = DeviceModel['nat'][number]

/** What follows an address and does not change which packets are translated to what. */
const WITHOUT_EFFECT = new Set(['extendable', 'no-alias', 'no-payload', 'forced'])
const PROTOCOLS: Readonly<Record<string, number>> = { tcp: 6, udp: 17 }

/**
 * `ip nat inside source list L interface X overload`, `… list L pool P`, `… static LOCAL GLOBAL`, `… static tcp LOCAL
 * PORT GLOBAL PORT` (traditional NAT, RFC 3022): which packets, and what becomes of their source. A statement that was
 * not understood has neither `list` nor `match`.
 */
export function natOfLine(side: string, what: string): Partial<Nat> {
  const common = { kind: `source ${side}`, statement: what }
  if (side !== 'inside') return common
  const words = what.split(/\s+/).filter((word) => !WITHOUT_EFFECT.has(word))
  const [kind = '', name = '', by = '', target = '', ...more] = words
  if (
    kind === 'list' &&
    (by === 'interface' || by === 'pool') &&
    target !== '' &&
    more.every((word) => word === 'overload')
  ) {
    const overload = more.includes('overload')
    const where = by === 'interface' ? { interface: target, address: 'interface' } : { pool: target }
    // Of several hosts behind one address any port may come out.
    return { ...common, changes: 'source', list: name, ...where, ...(overload ? { ports: '0-65535' } : {}) }
  }
  if (kind !== 'static') return common
  const protocol = PROTOCOLS[name]
  const [local = '', localPort, global = '', globalPort, ...rest] =
    protocol === undefined ? [name, null, by, null, ...words.slice(3)] : mapped(words.slice(2))
  if (rest.length > 0 || !isAddress(local) || !(isAddress(global) || global.startsWith('interface '))) return common
  const ports = protocol === undefined ? [] : [portNumber(localPort, name), portNumber(globalPort, name)]
  if (ports.includes(null)) return common
  const match = {
    ...blank(accessEntrySchema),
    action: 'permit' as const,
    text: what,
    sources: [`${local}/${local.includes(':') ? 128 : 32}`],
    ...(protocol === undefined
      ? {}
      : {
          protocols: [[protocol, protocol]] as [number, number][],
          sourcePorts: [[ports[0] ?? 0, ports[0] ?? 0]] as [number, number][],
        }),
  }
  const where = global.startsWith('interface ')
    ? { interface: global.slice(10), address: 'interface' }
    : { address: global }
  return {
    ...common,
    changes: 'source',
    match,
    ...where,
    ...(protocol === undefined ? {} : { ports: String(ports[1]) }),
  }
}

/** `LOCAL PORT GLOBAL PORT`, or `LOCAL PORT interface X PORT`. */
function mapped(
  words: readonly string[],
): [local: string, localPort: string | null, global: string, globalPort: string | null, ...rest: string[]] {
  const [local = '', localPort = null, global = '', next = null, ...rest] = words
  if (global !== 'interface') return [local, localPort, global, next, ...rest]
  const [port = null, ...more] = rest
  return [local, localPort, `interface ${next ?? ''}`, port, ...more]
}

/** `NAME START END netmask MASK`, or `NAME START END prefix-length N`: addresses that are handed out. */
export function natPoolOfLine(what: string): Partial<Nat> {
  const [name = '', from = '', to = ''] = what.split(/\s+/)
  return {
    kind: 'pool',
    statement: what,
    ...(isAddress(from) && isAddress(to) ? { pool: name, address: `${from}-${to}` } : {}),
  }
}

function isAddress(text: string): boolean {
  return addressWords(text, text.includes(':') ? 'ipv6' : 'ipv4') !== null
}

function portNumber(text: string | null | undefined, protocol: string): number | null {
  if (/^\d+$/.test(text ?? '')) return Number(text)
  return (protocol === 'udp' ? PORTS.udp : PORTS.tcp)[text ?? ''] ?? null
}

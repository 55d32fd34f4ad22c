/**
 * Route maps that choose where packets are sent before the table is asked: by lists, to a next hop, an interface or
 * another table.
 * Common practice; no published source.
 */
import { addressWords, type DeviceModel, type Family } from '../../model/index.ts'
import { ALL, NOTHING, type MatchContext } from '../../headers/index.ts'
import type { CompiledDevice } from './compiled.ts'
import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import { inSubnet } from '../network/interfaces.ts'

type MapEntry = DeviceModel['routePolicies'][number]['entries'][number]

/** Where packets are sent. */
export type PolicyHop =
  | { readonly kind: 'gateway'; readonly port: string; readonly gateway: string }
  | { readonly kind: 'port'; readonly port: string }
  | { readonly kind: 'table'; readonly vrf: string | null }
  | { readonly kind: 'discard' }
  /** The table is asked. */
  | { readonly kind: 'earlier table' }
  | { readonly kind: 'unknown'; readonly why: string }

/**
 * Packets that an entry decides, and how. `default`: only those that the table has no route for but the one to
 * everywhere.
 */
export interface PolicyPart {
  readonly set: number
  readonly hop: PolicyHop
  readonly onlyWithoutRoute: boolean
  readonly words: string
  readonly exhibits: readonly Exhibit[]
}

/** The parts into which the route map of an interface divides packets; what none takes goes by the table. */
export function policyParts(
  compiled: CompiledDevice,
  name: string,
  set: number,
  family: Family,
  context: MatchContext,
): PolicyPart[] {
  const { diagrams } = compiled.network.headers
  const model = compiled.model
  const at = model?.routePolicies.findIndex((one) => one.name === name) ?? -1
  const map = model?.routePolicies[at]
  // A route map that is not defined changes nothing.
  if (!map)
    return [
      {
        set,
        hop: { kind: 'earlier table' },
        onlyWithoutRoute: false,
        words: `the route map ${name} is not defined`,
        exhibits: [],
      },
    ]
  const parts: PolicyPart[] = []
  let left = set
  for (const [i, entry] of sequenced(map.entries)) {
    if (left === NOTHING) break
    const exhibits = exhibitsOf(compiled.device, 'model', `routePolicies[${at}].entries[${i}]`)
    const words = `${name} ${entry.sequence}`
    const met = matchOf(compiled, entry, family, context)
    const packets = diagrams.and(left, met.set)
    if (packets === NOTHING) continue
    left = diagrams.minus(left, packets)
    if (met.doubt !== null) {
      parts.push({
        set: packets,
        hop: { kind: 'unknown', why: `${words} matches “${met.doubt}”, which is not evaluated` },
        onlyWithoutRoute: false,
        words,
        exhibits,
      })
      continue
    }
    parts.push({ set: packets, ...hopOf(compiled, entry, family), words, exhibits })
  }
  if (left !== NOTHING)
    parts.push({
      set: left,
      hop: { kind: 'earlier table' },
      onlyWithoutRoute: false,
      words: `no entry of ${name} matches`,
      exhibits: [],
    })
  return parts
}

function sequenced(entries: readonly MapEntry[]): [number, MapEntry][] {
  return entries
    .map((entry, i): [number, MapEntry] => [i, entry])
    .sort(([, a], [, b]) => Number(a.sequence) - Number(b.sequence))
}

function matchOf(
  compiled: CompiledDevice,
  { matches }: MapEntry,
  family: Family,
  context: MatchContext,
): { readonly set: number; readonly doubt: string | null } {
  const { headers } = compiled.network
  let set = headers.family(family)
  let doubt: string | null = null
  for (const text of matches) {
    const [, word, names] = /^(ip|ipv6) address (.+)$/.exec(text) ?? []
    if (names === undefined || names.startsWith('prefix-list')) {
      doubt ??= text
      continue
    }
    // Of several lists one is enough; one of the other family asks nothing of these packets.
    const lists = names.split(' ').map((name) => compiled.lists.list(name, word === 'ip' ? 'ipv4' : 'ipv6'))
    if (lists.includes(null)) doubt ??= text
    const permitted = headers.any(
      lists.flatMap((list) => list ?? []),
      (list) => {
        const { permitted: yes, denied } = compiled.lists.decide(list, headers.family(list.family), context)
        if (headers.diagrams.meet(yes, denied)) doubt ??= text
        return yes
      },
    )
    set = headers.diagrams.and(set, permitted)
  }
  return { set: doubt === null ? set : headers.diagrams.and(headers.family(family), ALL), doubt }
}

/**
 * What an entry sets, in the order in which it is heeded: a table, a next hop, an interface, and the same as defaults.
 */
function hopOf(
  compiled: CompiledDevice,
  { action, sets }: MapEntry,
  family: Family,
): { readonly hop: PolicyHop; readonly onlyWithoutRoute: boolean } {
  const plain = (hop: PolicyHop, onlyWithoutRoute = false): ReturnType<typeof hopOf> => ({ hop, onlyWithoutRoute })
  if (action === 'deny') return plain({ kind: 'earlier table' })
  const odd = sets.find((text) => !HEEDED.test(text) && !PASSED_OVER.test(text))
  if (odd !== undefined) return plain({ kind: 'unknown', why: `it sets “${odd}”, which is not evaluated` })
  const word = family === 'ipv4' ? 'ip' : 'ipv6'
  const after = (head: string): string | null =>
    sets.flatMap((text) => (text.startsWith(`${head} `) ? [text.slice(head.length + 1)] : []))[0] ?? null
  const vrf = after('vrf')
  if (vrf !== null) return plain({ kind: 'table', vrf })
  if (sets.includes('global') || sets.includes(`${word} global`)) return plain({ kind: 'table', vrf: null })
  for (const [head, only] of [
    [`${word} next-hop`, false],
    [`${word} default next-hop`, true],
  ] as const) {
    const hops = after(head)
    if (hops !== null) return plain(nextHop(compiled, hops), only)
  }
  for (const [head, only] of [
    ['interface', false],
    ['default interface', true],
  ] as const) {
    const names = after(head)
    if (names !== null) return plain(outOf(compiled, names), only)
  }
  return plain({ kind: 'earlier table' })
}

const HEEDED =
  /^(?:vrf \S+|global|(?:ip|ipv6) global|(?:ip|ipv6) (?:default )?next-hop [\d.a-f: ]+|(?:default )?interface .+)$/i
/** Marks, which change no path. */
const PASSED_OVER = /^(?:ip (?:precedence|tos|dscp|df)|tag|metric|local-preference|community|weight|origin|as-path)\b/

/** The first of some gateways that is next door by an interface that is up; where none is, the table is asked. */
function nextHop({ device }: CompiledDevice, text: string): PolicyHop {
  for (const gateway of text.split(' ').filter(Boolean)) {
    const words = addressWords(gateway, gateway.includes(':') ? 'ipv6' : 'ipv4')
    if (!words) return { kind: 'unknown', why: `the next hop ${gateway} is not an address` }
    const port = device.interfaces.find(
      ({ addresses, down }) => down === null && addresses.some((address) => inSubnet(words, address)),
    )
    if (port) return { kind: 'gateway', port: port.name, gateway }
  }
  return { kind: 'earlier table' }
}

function outOf({ device }: CompiledDevice, text: string): PolicyHop {
  for (const name of text.split(' ').filter(Boolean)) {
    if (/^null0?$/i.test(name)) return { kind: 'discard' }
    const port = device.interfaces.find((one) => one.name.toLowerCase() === name.toLowerCase())
    if (!port) return { kind: 'unknown', why: `it uses the unknown interface ${name}` }
    if (port.down === null) return { kind: 'port', port: port.name }
  }
  return { kind: 'earlier table' }
}

import type { Writer } from '../model/index.ts'
import type { LineTemplate, OutputForm } from './lines.ts'
import type { DeviceState } from './schema.ts'

type Route = DeviceState['routes'][number]

/**
 * Letters that outputs use for where a route is from. Common practice; `show ip route` of Debian's frr lists its own.
 */
const BY_LETTER: Readonly<Record<string, string>> = {
  C: 'connected',
  L: 'local',
  S: 'static',
  O: 'ospf',
  B: 'bgp',
  R: 'rip',
  I: 'isis',
  i: 'isis',
  D: 'eigrp',
  K: 'kernel',
  E: 'eigrp',
  N: 'nhrp',
  T: 'table',
}
const BY_WORD: Readonly<Record<string, string>> = {
  direct: 'connected',
  local: 'local',
  static: 'static',
  ospf: 'ospf',
  ospf3: 'ospf',
  bgp: 'bgp',
  rip: 'rip',
  'is-is': 'isis',
  aggregate: 'aggregate',
}

/** A route that the following lines may add next hops to. */
function begin(
  w: Writer<DeviceState>,
  memory: Map<string, string>,
  route: Partial<Route> & { prefix: string },
): Writer<Route> {
  const writer = w.add('routes', {
    family: route.prefix.includes(':') ? 'ipv6' : 'ipv4',
    vrf: memory.get('vrf') ?? null,
    ...route,
  })
  memory.set('route', String(w.target.routes.length - 1))
  return writer
}

function addHop(w: Writer<DeviceState>, memory: Map<string, string>, hop: Partial<Route['nextHops'][number]>): void {
  w.more('routes', Number(memory.get('route') ?? -1))?.add('nextHops', hop)
}

/** `[110/20] via 10.0.0.1, Gi0/1, weight 1, 00:01:02`, `is directly connected, Null0`, `unreachable (blackhole)`. */
function hopOf(text: string): Partial<Route['nextHops'][number]> {
  const via = /\bvia ([\da-fA-F.:]+)/.exec(text)?.[1] ?? null
  const direct = /directly connected, ([^\s,]+)/.exec(text)?.[1] ?? null
  const named =
    text
      .split(',')
      .slice(1)
      .map((part) => part.trim())
      .find(
        (part) =>
          /^[A-Za-z][\w./-]*$/.test(part) &&
          !/^(?:weight|onlink|recursive|inactive|label)\b/.test(part) &&
          !/^\d+[wdhy]/.test(part),
      ) ?? null
  const discard = /\b(?:Null0?|blackhole|unreachable|reject|discard)\b/i.test(text)
  return { address: via, interface: discard ? null : (direct ?? named), discard }
}

const LETTERED: readonly LineTemplate[] = [
  { line: /^VRF (?<vrf>\S+):$/, apply: (_, { vrf = '' }, memory) => void memory.set('vrf', vrf) },
  { line: /^Routing Table: (?<vrf>\S+)$/, apply: (_, { vrf = '' }, memory) => void memory.set('vrf', vrf) },
  {
    line: /^(?<letter>[A-Za-z])(?<marks>[>*%+a-zA-Z0-9 ]{0,6}?)\s+(?<prefix>[\da-fA-F.:]+\/\d+)\s+(?:\[(?<distance>\d+)\/(?<metric>\d+)\]\s+)?(?<rest>(?:via|is directly|unreachable|directly).*)$/,
    apply: (w, { letter = '', marks = '', prefix = '', distance = '', metric = '', rest = '' }, memory) => {
      const lettersOnly = /[>*]/.test(marks) || !memory.has('legend-selected')
      begin(w, memory, {
        prefix: prefix.toLowerCase(),
        protocol: BY_LETTER[letter] ?? letter,
        distance: distance === '' ? null : Number(distance),
        metric: metric === '' ? null : Number(metric),
        selected: memory.has('legend-selected') ? marks.includes('>') : lettersOnly,
      })
      addHop(w, memory, hopOf(rest))
    },
  },
  {
    line: /^[\s*>q]*(?:\[\d+\/\d+\]\s+)?(?<rest>via .*)$/,
    apply: (w, { rest = '' }, memory) => addHop(w, memory, hopOf(rest)),
  },
  { line: /^.*> - selected route.*$/, apply: (_, __, memory) => void memory.set('legend-selected', 'yes') },
]

/** `show ip route` of the indented dialect and of Debian's frr. */
export const LETTERED_ROUTES: OutputForm = {
  id: 'routes by letters',
  kinds: ['routes', 'routes6'],
  looksLike: /^Codes: /m,
  templates: LETTERED,
  noted:
    /^(?:Codes:|\s+[A-Za-z0-9*>+%~&-]+ - |Gateway of last resort|IPv6 Routing Table|\s+[\d.]+\/\d+ is (?:variably )?subnetted|\s+[\d.]+ is (?:variably )?subnetted)/,
}

const TABLED: readonly LineTemplate[] = [
  {
    line: /^(?<table>[\w.-]+?)\.?inet6?\.0: \d+ destinations/,
    apply: (_, { table = '' }, memory) => void memory.set('vrf', table),
  },
  { line: /^inet6?\.0: \d+ destinations/, apply: (_, __, memory) => void memory.delete('vrf') },
  {
    line: /^(?<prefix>[\da-fA-F.:]+\/\d+)?\s+(?<active>[*+-]|\s)\[(?<protocol>[\w-]+)\/(?<distance>\d+)\](?<rest>.*)$/,
    apply: (w, { prefix = '', active = '', protocol = '', distance = '', rest = '' }, memory) => {
      if (prefix !== '') memory.set('prefix', prefix)
      const metric = /\bmetric (\d+)/.exec(rest)?.[1]
      begin(w, memory, {
        prefix: (memory.get('prefix') ?? '').toLowerCase(),
        protocol: BY_WORD[protocol.toLowerCase()] ?? protocol.toLowerCase(),
        distance: Number(distance),
        metric: metric === undefined ? null : Number(metric),
        selected: active === '*',
      })
    },
  },
  {
    line: /^\s+(?:>\s*)?to (?<address>[\da-fA-F.:]+) via (?<interface>\S+)$/,
    apply: (w, { address = '', interface: port = '' }, memory) => addHop(w, memory, { address, interface: port }),
  },
  {
    line: /^\s+(?:>\s*)?(?:Local )?via (?<interface>\S+)$/,
    apply: (w, { interface: port = '' }, memory) => addHop(w, memory, { interface: port }),
  },
  { line: /^\s+(?:>\s*)?(?:Discard|Reject)$/, apply: (w, _, memory) => addHop(w, memory, { discard: true }) },
]

/** `show route` of the braced dialect. */
export const TABLED_ROUTES: OutputForm = {
  id: 'routes by tables',
  kinds: ['routes', 'routes6'],
  looksLike: /^[\w.-]*inet6?\.0: \d+ destinations/m,
  templates: TABLED,
  noted: /^(?:\+ = Active Route|[\w.-]+@)/,
}

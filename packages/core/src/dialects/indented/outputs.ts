/** What commands of the indented dialect print; Debian's frr prints routes alike. Common practice. */
import {
  INTERFACE_LINES,
  addHop,
  beginInterface,
  beginRoute,
  upDown,
  type DeviceState,
  type LineTemplate,
  type OutputForm,
} from '../../state/index.ts'

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
/** `[110/20] via 10.0.0.1, Gi0/1, weight 1, 00:01:02`, `is directly connected, Null0`, `unreachable (blackhole)`. */
function hopOf(text: string): Partial<DeviceState['routes'][number]['nextHops'][number]> {
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
      beginRoute(w, memory, {
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
const LETTERED_ROUTES: OutputForm = {
  id: 'routes by letters',
  kinds: ['routes', 'routes6'],
  looksLike: /^Codes: /m,
  templates: LETTERED,
  noted:
    /^(?:Codes:|\s+[A-Za-z0-9*>+%~&-]+ - |Gateway of last resort|IPv6 Routing Table|\s+[\d.]+\/\d+ is (?:variably )?subnetted|\s+[\d.]+ is (?:variably )?subnetted)/,
}

const INTERFACES: OutputForm = {
  id: 'interfaces',
  kinds: ['interfaces'],
  looksLike: /line protocol is/m,
  templates: [
    {
      line: /^(?:Interface )?(?<name>\S+) is (?<admin>administratively down|up|down), line protocol is (?<oper>up|down)/,
      apply: (w, { name = '', admin = '', oper = '' }, memory) =>
        void beginInterface(w, memory, name)
          .set('admin', admin.startsWith('admin') ? 'down' : admin === 'down' ? null : 'up')
          .set('oper', upDown(oper)),
    },
    ...INTERFACE_LINES,
  ],
  noted: /^\s+|^VRF /,
}

export const INDENTED_OUTPUTS: readonly OutputForm[] = [LETTERED_ROUTES, INTERFACES]

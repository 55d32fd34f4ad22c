/** What commands of the hierarchical dialects print. Common practice. */
import {
  INTERFACE_LINES,
  addHop,
  beginInterface,
  beginRoute,
  namedInterface,
  upDown,
  type LineTemplate,
  type OutputForm,
} from '../../state/index.ts'

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
      beginRoute(w, memory, {
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
const TABLED_ROUTES: OutputForm = {
  id: 'routes by tables',
  kinds: ['routes', 'routes6'],
  looksLike: /^[\w.-]*inet6?\.0: \d+ destinations/m,
  templates: TABLED,
  noted: /^(?:\+ = Active Route|[\w.-]+@)/,
}

const INTERFACES: OutputForm = {
  id: 'interfaces',
  kinds: ['interfaces'],
  looksLike: /^Physical interface: /m,
  templates: [
    ...INTERFACE_LINES,
    {
      line: /^Physical interface: (?<name>[^,\s]+), (?<admin>Enabled|Administratively down), Physical link is (?<oper>Up|Down)/,
      apply: (w, { name = '', admin = '', oper = '' }, memory) =>
        void beginInterface(w, memory, name)
          .set('admin', admin === 'Enabled' ? 'up' : 'down')
          .set('oper', upDown(oper)),
    },
    {
      line: /^\s+Logical interface (?<name>\S+) /,
      apply: (w, { name = '' }, memory) => void beginInterface(w, memory, name),
    },
    {
      line: /^\s+(?:Destination: \S+, )?Local: (?<address>[\da-fA-F.:]+)/,
      apply: (w, { address = '' }, memory) => namedInterface(w, memory)?.push('addresses', address),
    },
  ],
  noted: /^\s+|^VRF /,
}

export const HIERARCHY_OUTPUTS: readonly OutputForm[] = [TABLED_ROUTES, INTERFACES]

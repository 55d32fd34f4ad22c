import type { LineTemplate, OutputForm } from './lines.ts'
import type { DeviceState } from './schema.ts'
import type { Writer } from '../model/index.ts'

type Port = Writer<DeviceState['interfaces'][number]>

export function namedInterface(w: Writer<DeviceState>, memory: Map<string, string>): Port | null {
  const name = memory.get('interface')
  return name === undefined ? null : w.entry('interfaces', { name })
}

export function beginInterface(w: Writer<DeviceState>, memory: Map<string, string>, name: string): Port {
  memory.set('interface', name)
  return w.entry('interfaces', { name })
}

export function upDown(word: string): 'up' | 'down' {
  return /^up\b/i.test(word) ? 'up' : 'down'
}

/** Lines about the interface that was named last, which listings of several dialects have. */
export const INTERFACE_LINES: readonly LineTemplate[] = [
  {
    line: /^\s+(?:Internet address is|inet6?) (?<address>[\da-fA-F.:]+\/\d+)/,
    apply: (w, { address = '' }, memory) => namedInterface(w, memory)?.push('addresses', address),
  },
  {
    line: /^\s+MTU (?<mtu>\d+) bytes(?:, BW (?<kbit>\d+) Kbit)?/,
    apply: (w, { mtu = '', kbit = '' }, memory) =>
      namedInterface(w, memory)
        ?.set('mtu', Number(mtu))
        .set('speed', kbit === '' ? null : Number(kbit) * 1000),
  },
  {
    line: /\bmtu (?<mtu>\d+)\b/,
    apply: (w, { mtu = '' }, memory) => namedInterface(w, memory)?.set('mtu', Number(mtu)),
  },
  {
    line: /(?:address is|HWaddr:?) (?<mac>[\da-fA-F]{4}\.[\da-fA-F]{4}\.[\da-fA-F]{4}|[\da-fA-F]{2}(?::[\da-fA-F]{2}){5})/,
    apply: (w, { mac = '' }, memory) => namedInterface(w, memory)?.set('mac', plainMac(mac)),
  },
  {
    line: /^\s+(?<packets>\d+) packets input, (?<bytes>\d+) bytes/,
    apply: (w, { bytes = '' }, memory) => namedInterface(w, memory)?.at('counters').set('inOctets', Number(bytes)),
  },
  {
    line: /^\s+(?<packets>\d+) packets output, (?<bytes>\d+) bytes/,
    apply: (w, { bytes = '' }, memory) => namedInterface(w, memory)?.at('counters').set('outOctets', Number(bytes)),
  },
  {
    line: /^\s+(?<errors>\d+) input errors/,
    apply: (w, { errors = '' }, memory) => namedInterface(w, memory)?.at('counters').set('inErrors', Number(errors)),
  },
  {
    line: /^\s+(?<errors>\d+) output errors/,
    apply: (w, { errors = '' }, memory) => namedInterface(w, memory)?.at('counters').set('outErrors', Number(errors)),
  },
]

/** MAC addresses as six pairs, whatever their spelling. */
export function plainMac(mac: string): string {
  return (
    mac
      .toLowerCase()
      .replace(/[^\da-f]/g, '')
      .match(/../g) ?? []
  ).join(':')
}

const ADDRESS = '(?<address>[\\da-fA-F.:]+)'

/** Outputs that are tables or lists of one line an entry. Words and columns by common practice. */
export const OUTPUTS: readonly OutputForm[] = [
  {
    id: 'neighbours',
    kinds: ['neighbours'],
    looksLike: /Device ID|Local Interface|System Name/i,
    templates: [
      {
        line: /^(?<system>[\w.-]+)\s{1,20}(?<local>[A-Z][A-Za-z]{1,3}\d[\w./]*)\s{1,20}\d+\s{1,20}(?<capability>[A-Z](?:,[A-Z])*)\s{1,20}(?<port>\S+)(?:\s{1,20}(?<address>[\da-fA-F.:]+))?$/,
        apply: (w, { system = '', local = '', port: remote = '', capability = '', address = '' }) =>
          void w.add('neighbours', {
            system,
            interface: local,
            port: remote,
            capability,
            managementAddress: address || null,
          }),
      },
      {
        line: /^(?<local>[a-z]{2}-\d+\/\d+\/\d+(?:\.\d+)?|et-\S+|ae\d+|fxp\d|em\d)\s{1,20}\S+\s{1,20}(?<mac>[\da-f]{2}(?::[\da-f]{2}){5})\s{1,20}(?<port>\S+)\s{1,20}(?<system>\S+)(?:\s{1,20}(?<address>[\da-fA-F.:]+))?$/,
        apply: (w, { system = '', local = '', port: remote = '', address = '' }) =>
          void w.add('neighbours', { system, interface: local, port: remote, managementAddress: address || null }),
      },
    ],
    noted: /^(?:Capability codes|\s+\(|Device ID|Local Interface|Total entries)/i,
  },
  {
    id: 'address resolution',
    kinds: ['arp'],
    looksLike: /Hardware Addr|MAC Address|^Address\b|Protocol\s+Address/i,
    templates: [
      {
        line: new RegExp(
          `^Internet\\s+${ADDRESS}\\s+(?<age>\\S+)\\s+(?<mac>[\\da-fA-F.]{14}|Incomplete)\\s+ARPA(?:\\s+(?<port>\\S+))?$`,
        ),
        apply: (w, { address = '', mac = '', port: at = '' }) =>
          void w.add('addresses', {
            address,
            family: 'ipv4',
            mac: /^I/.test(mac) ? null : plainMac(mac),
            interface: at || null,
            state: /^I/.test(mac) ? 'incomplete' : 'reachable',
          }),
      },
      {
        line: new RegExp(
          `^(?<mac>[\\da-f]{2}(?::[\\da-f]{2}){5})\\s+${ADDRESS}\\s+(?:\\S+\\s+)?(?<port>\\S+)\\s+none$`,
        ),
        apply: (w, { address = '', mac = '', port: at = '' }) =>
          void w.add('addresses', { address, family: 'ipv4', mac, interface: at, state: 'reachable' }),
      },
    ],
    noted: /^(?:Protocol|MAC Address|Address|Total entries)/i,
  },
  {
    id: 'MAC addresses',
    kinds: ['mac'],
    looksLike: /Mac Address Table|Vlan\s+Mac/i,
    templates: [
      {
        line: /^[*\s]*(?<vlan>\d+|All)\s+(?<mac>[\da-fA-F]{4}\.[\da-fA-F]{4}\.[\da-fA-F]{4})\s+(?<kind>\w+)\s+(?<port>\S+)$/,
        apply: (w, { vlan = '', mac = '', kind = '', port: at = '' }) =>
          void w.add('macs', {
            vlan: /^\d+$/.test(vlan) ? Number(vlan) : null,
            mac: plainMac(mac),
            interface: at,
            kind: kind.toLowerCase(),
          }),
      },
    ],
    noted: /^(?:\s*-+|\s*Mac Address Table|\s*Vlan|\s*Total|-)/i,
  },
  {
    id: 'clock',
    kinds: ['clock'],
    looksLike: /./,
    templates: [
      {
        line: /^(?<mark>[*.]?)(?<time>\d{1,2}:\d{2}:\d{2}(?:\.\d+)? .*\d{4})$/,
        apply: (w, { mark = '', time = '' }) =>
          void w
            .at('clock')
            .set('time', time)
            .set('source', mark === '' ? 'synchronised' : 'not authoritative'),
      },
      {
        line: /^(?:Current time|System clock): (?<time>.*)$/,
        apply: (w, { time = '' }) => void w.at('clock').set('time', time),
      },
      {
        line: /^Time [Ss]ource(?: is)?:? (?<source>.*)$/,
        apply: (w, { source = '' }) => void w.at('clock').set('source', source),
      },
    ],
    noted: /^(?:No time source|Protocols started|System booted)/i,
  },
  {
    id: 'time servers',
    kinds: ['ntp'],
    looksLike: /stratum|refid|reach|Clock is/i,
    templates: [
      {
        line: /^Clock is (?<state>synchronized|unsynchronized), stratum (?<stratum>\d+)(?:, reference is (?<reference>\S+))?/,
        apply: (w, { state = '', stratum = '', reference = '' }) =>
          void w
            .at('ntp')
            .set('synchronised', state === 'synchronized')
            .set('stratum', Number(stratum))
            .set('reference', reference === '' || reference === 'none' ? null : reference),
      },
      {
        line: new RegExp(
          `^\\s?(?<mark>[*#+~.x -]{0,3}?)${ADDRESS}\\s+(?<refid>\\S+)\\s+(?<stratum>\\d+)\\s+(?:[ulbs]\\s+)?(?<when>\\S+)\\s+(?<poll>\\d+)\\s+(?<reach>\\d+)\\s+(?<delay>-?[\\d.]+)\\s+(?<offset>[-+]?[\\d.]+)\\s+(?<disp>[\\d.]+)$`,
        ),
        apply: (w, { mark = '', address = '', stratum = '', reach = '', offset = '' }) =>
          void associate(w, mark, {
            address,
            stratum: Number(stratum),
            reach: parseInt(reach, 8),
            offset: Number(offset),
          }),
      },
    ],
    noted:
      /^(?:\s*address|\s*remote|=+|\s*\* ?sys|nominal|ntp uptime|reference time|clock offset|root|loopfilter|system poll)/i,
  },
  {
    id: 'OSPF neighbours',
    kinds: ['ospf'],
    looksLike: /Neighbor ID|Pri\s+State/i,
    templates: [
      {
        line: /^(?<id>\d{1,3}(?:\.\d{1,3}){3})\s+(?<pri>\d+)\s+(?<state>[\w-]+)\s*\/\s*(?<role>\S+)\s+(?<rest>\S.*)$/,
        apply: (w, { id = '', state = '', rest = '' }) => adjacent(w, id, state, rest),
      },
      {
        line: new RegExp(
          `^${ADDRESS}\\s+(?<port>\\S+)\\s+(?<state>Full|2Way|Init|ExStart|Exchange|Loading|Down|Attempt)\\s+(?<id>[\\d.]+)\\s+\\d+\\s+\\d+$`,
        ),
        apply: (w, { address = '', port: at = '', state = '', id = '' }) =>
          void w.add('adjacencies', {
            protocol: 'ospf',
            neighbour: id,
            address,
            interface: at,
            state: state.toLowerCase(),
            up: state === 'Full',
          }),
      },
    ],
    noted: /^(?:Neighbor ID|Address\s+Interface)/i,
  },
  {
    id: 'BGP neighbours',
    kinds: ['bgp'],
    looksLike: /MsgRcvd|OutQ|local AS/i,
    templates: [
      {
        line: new RegExp(
          `^${ADDRESS}(?:\\([\\w.-]+\\))?\\s+(?:4\\s+)?(?<as>\\d+)\\s+(?:\\d+\\s+){2,6}(?<up>\\S+)\\s+(?<last>\\S+)(?:\\s.*)?$`,
        ),
        apply: (w, { address = '', as = '', last = '' }) =>
          void w.add('adjacencies', {
            protocol: 'bgp',
            neighbour: address,
            address,
            state: /^\d+/.test(last) ? 'established' : last.toLowerCase(),
            up: /^\d+$/.test(last),
            remoteAs: as,
            prefixes: /^\d+$/.test(last) ? Number(last) : null,
          }),
      },
    ],
    noted: /^(?:BGP |Neighbor|IPv|RIB|Peers|Total|Groups|Peer\s|\s*inet)/i,
  },
  {
    id: 'version',
    kinds: ['version'],
    looksLike: /./,
    templates: [
      {
        line: /^\S+(?: uptime is|: in service for) (?<uptime>.+)$/,
        apply: (w, { uptime = '' }) => void w.at('software').set('uptime', uptime),
      },
      {
        line: /(?:^|\s)(?:Version|release):? (?<version>[\w.()-]+)/i,
        apply: (w, { version = '' }) => void w.at('software').set('version', w.target.software.version ?? version),
      },
      {
        line: /^(?:Hardware )?Model(?: number)?\s*: (?<model>.*\S)/i,
        apply: (w, { model = '' }) => void w.at('software').set('model', model),
      },
      {
        line: /^(?:System |Hardware )?[Ss]erial(?: [Nn]umber)?\s*: (?<serial>\S+)/,
        apply: (w, { serial = '' }) => void w.at('software').set('serial', serial),
      },
    ],
    noted: /./,
  },
]

function associate(
  w: Writer<DeviceState>,
  mark: string,
  values: { address: string; stratum: number; reach: number; offset: number },
): void {
  const selected = mark.includes('*')
  w.at('ntp').add('associations', { ...values, selected })
  if (selected && w.target.ntp.synchronised === null) w.at('ntp').set('synchronised', true)
}

/**
 * Columns between state and address differ between softwares: the address is the last one, the interface follows it.
 */
function adjacent(w: Writer<DeviceState>, neighbour: string, state: string, rest: string): void {
  const words = rest.trim().split(/\s+/)
  const at = words.findIndex((word) => /^\d{1,3}(?:\.\d{1,3}){3}$/.test(word))
  w.add('adjacencies', {
    protocol: 'ospf',
    neighbour,
    address: words[at] ?? null,
    interface: words[at + 1]?.split(':')[0] ?? null,
    state: state.toLowerCase(),
    up: /^full/i.test(state),
  })
}

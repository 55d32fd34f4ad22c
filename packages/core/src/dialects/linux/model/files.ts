/**
 * Files of a Linux gateway, as they speak to the device model: sshd_config(5), chrony.conf(5), ntp.conf(5),
 * rsyslog.conf(5), login.defs(5), resolv.conf(5), ss(8).
 */
import type { Scope, Statement } from '../../../syntax/index.ts'
import type { SystemFile } from '../files.ts'
import { MappingTable, NOT_TAKEN, partly, type Bound, type Harmless, type Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { ssh, SSHD_HARMLESS, SSHD } from './sshd.ts'

type System = DeviceModel['system']

const CLOCK_HARMLESS: readonly Harmless[] = [
  [
    'it chooses no server',
    [
      'driftfile ...',
      'makestep ...',
      'rtcsync',
      'logdir ...',
      'log ...',
      'leapsectz ...',
      'maxupdateskew ...',
      'hwtimestamp ...',
      'minsources ...',
      'bindcmdaddress ...',
      'cmdallow ...',
      'cmddeny ...',
      'cmdport ...',
      'port ...',
      'statsdir ...',
      'statistics ...',
      'filegen ...',
      'tinker ...',
      'tos ...',
      'leapfile ...',
      'user ...',
      'ntsdumpdir ...',
      'dumpdir ...',
      'dumponexit',
      'local ...',
      'smoothtime ...',
      'authselectmode ...',
      'restrict ...',
      'allow ...',
      'deny ...',
      'disable ...',
      'enable ...',
      'lock_all',
      'sched_priority ...',
      'mailonchange ...',
      'logchange ...',
    ],
  ],
]

function server(w: Writer<System>, b: Bound, peer: boolean): unknown {
  const options = b.words('options')
  const key = options.indexOf('key')
  const entry = w
    .at('ntp')
    .entry('servers', { address: b.text('address') })
    .set('peer', peer)
  if (key >= 0) entry.set('key', Number(options[key + 1]))
  if (options.includes('prefer')) entry.set('prefer', true)
  return entry.set('secured', options.includes('nts'))
}

const CLOCK: readonly Mapping<System>[] = [
  [['server <address> <options...>', 'server <address>'], (w, b) => server(w, b, false)],
  [['peer <address> <options...>', 'peer <address>'], (w, b) => server(w, b, true)],
  // How many servers a name stands for is not known from here.
  [['pool <address> <options...>', 'pool <address>'], (w, b) => partly(server(w, b, false))],
  [['keyfile <file>', 'keys <file>'], (w) => w.at('ntp').set('authenticate', true)],
  ['trustedkey <keys...>', (w, b) => w.at('ntp').push('trustedKeys', ...b.words('keys'))],
]

const LOG_HARMLESS: readonly Harmless[] = [
  [
    'it sends and keeps nothing by itself',
    [
      'call module ...',
      'call input ...',
      'call global ...',
      'call main_queue ...',
      'call template ...',
      'call timezone ...',
      'directive ModLoad ...',
      'directive WorkDirectory ...',
      'directive FileOwner ...',
      'directive FileGroup ...',
      'directive FileCreateMode ...',
      'directive DirCreateMode ...',
      'directive Umask ...',
      'directive PrivDropToUser ...',
      'directive PrivDropToGroup ...',
      'directive UDPServerRun ...',
      'directive InputTCPServerRun ...',
      'directive UDPServerAddress ...',
      'directive RepeatedMsgReduction ...',
      'directive ActionQueueType ...',
      'directive ActionQueueFileName ...',
      'directive ActionQueueMaxDiskSpace ...',
      'directive ActionQueueSaveOnShutdown ...',
      'directive ActionResumeRetryCount ...',
      'directive KLogPermitNonKernelFacility ...',
      'directive MaxMessageSize ...',
    ],
  ],
]

/** Which messages a selector takes: `auth,authpriv.*;mail.none`. */
function facilitiesOf(selector: string): { facility: string; severity: string }[] {
  return selector.split(';').flatMap((part) => {
    const dot = part.lastIndexOf('.')
    const severity = part.slice(dot + 1).replace(/^=/, '')
    return part
      .slice(0, dot)
      .split(',')
      .map((facility) => ({
        facility: facility === '*' ? 'any' : facility,
        severity: severity === '*' ? 'any' : severity,
      }))
  })
}

function sendTo(w: Writer<System>, address: string, protocol: string, selector: string, source?: string): unknown {
  const host = w.at('logging').entry('hosts', { address }).set('protocol', protocol)
  for (const facility of facilitiesOf(selector)) host.add('facilities', facility)
  return source === undefined ? host : host.set('source', source)
}

function keepIn(w: Writer<System>, file: string, selector: string): unknown {
  const logging = w.at('logging').set('buffered', file)
  const kept = logging.entry('files', { name: file })
  for (const facility of facilitiesOf(selector)) kept.add('facilities', facility)
  return kept
}

/** `@host`, `@@host:port`, with an IPv6 address in brackets. */
const SENT = /^(@@?)(?:\([^)]*\))?(?:\[([^\]]+)\]|([^\s:;]+))(?::\d+)?(?:;\S+)?$/

const LOG: readonly Mapping<System>[] = [
  [
    'selector <selector> <target> ...',
    (w, b) => {
      const [target, selector] = [b.text('target'), b.text('selector')]
      const sent = SENT.exec(target)
      if (sent) return sendTo(w, sent[2] ?? sent[3] ?? '', sent[1] === '@@' ? 'tcp' : 'udp', selector)
      return /^-?\//.test(target) ? keepIn(w, target.replace(/^-/, ''), selector) : NOT_TAKEN
    },
  ],
  [
    'call action <parameters...>',
    (w, b) => {
      const parameters = new Map(
        b.words('parameters').map((word) => [word.slice(0, word.indexOf('=')), word.slice(word.indexOf('=') + 1)]),
      )
      const target = parameters.get('target')
      // An action alone takes every message.
      if (parameters.get('type') === 'omfwd' && target !== undefined)
        return sendTo(w, target, parameters.get('protocol') ?? 'udp', '*.*', parameters.get('address'))
      const file = parameters.get('file')
      return parameters.get('type') === 'omfile' && file !== undefined ? keepIn(w, file, '*.*') : NOT_TAKEN
    },
  ],
  [
    'directive ActionFileDefaultTemplate <template> ...',
    (w, b) =>
      w.at('logging').set('timestamps', /traditional/i.test(b.text('template')) ? 'traditional' : b.text('template')),
  ],
]

const LOGIN: readonly Mapping<System>[] = [
  ['PASS_MIN_LEN <length:int>', (w, b) => w.set('passwordLength', b.number('length'))],
  ['ENCRYPT_METHOD <method>', (w, b) => w.set('passwordHash', b.text('method'))],
]

const NAMES: readonly Mapping<System>[] = [
  ['nameserver <address>', (w, b) => w.push('nameServers', b.text('address'))],
  [['domain <name>', 'search <name> ...'], (w, b) => w.set('domainName', b.text('name'))],
]

/** Ports of services that rules ask about (IANA, RFC 6335), by protocol. */
const LISTENING: Readonly<
  Record<
    string,
    | 'ssh'
    | 'telnet'
    | 'http'
    | 'https'
    | 'ftp'
    | 'tftp'
    | 'bootp'
    | 'rsh'
    | 'finger'
    | 'smallServers'
    | 'netconf'
    | 'snmp'
    | 'rcp'
  >
> = {
  'tcp 22': 'ssh',
  'tcp 23': 'telnet',
  'tcp 80': 'http',
  'tcp 443': 'https',
  'tcp 21': 'ftp',
  'udp 69': 'tftp',
  'udp 67': 'bootp',
  'tcp 514': 'rsh',
  'tcp 513': 'rsh',
  'tcp 512': 'rsh',
  'tcp 79': 'finger',
  'tcp 830': 'netconf',
  'tcp 7': 'smallServers',
  'udp 7': 'smallServers',
  'tcp 9': 'smallServers',
  'udp 9': 'smallServers',
  'tcp 13': 'smallServers',
  'udp 13': 'smallServers',
  'tcp 19': 'smallServers',
  'udp 19': 'smallServers',
  'udp 161': 'snmp',
}

/** Services by which a whole list of sockets says whether they are asked: those that are not in it do not answer. */
const LISTED = [
  'telnet',
  'http',
  'https',
  'ftp',
  'tftp',
  'bootp',
  'rsh',
  'rcp',
  'finger',
  'smallServers',
  'netconf',
] as const

const SOCKETS: readonly Mapping<System>[] = [
  [
    'listens {tcp|udp} {LISTEN|UNCONN} * * <local> ...',
    (w, b, s) => {
      const local = b.text('local')
      const port = local.slice(local.lastIndexOf(':') + 1)
      const service = LISTENING[`${s.command.lowerWords[1] ?? ''} ${port}`]
      const own = /^(?:127\.|\[::1\]|::1)/.test(local)
      // What listens for the device itself alone answers nobody else.
      return service === undefined || service === 'snmp' || own
        ? w.set('listens', true)
        : w.at('services').at(service).set('enabled', true)
    },
  ],
]

interface FileReader {
  readonly table: MappingTable<System>
  /** Parts of the model that such a file speaks of: of what it does not let be read, they may say anything. */
  readonly parts: readonly string[]
  /** When all lines were read. */
  readonly settle?: (w: Writer<System>) => void
}

const READERS: Readonly<Record<SystemFile, FileReader>> = {
  sshd_config: {
    table: new MappingTable(SSHD, SSHD_HARMLESS),
    parts: ['system.services.ssh', 'system.banners'],
    settle: (w) => void ssh(w).presume('enabled', true),
  },
  'chrony.conf': { table: new MappingTable(CLOCK, CLOCK_HARMLESS), parts: ['system.ntp'] },
  'ntp.conf': { table: new MappingTable(CLOCK, CLOCK_HARMLESS), parts: ['system.ntp'] },
  'rsyslog.conf': { table: new MappingTable(LOG, LOG_HARMLESS), parts: ['system.logging'] },
  'login.defs': { table: new MappingTable(LOGIN, []), parts: ['system.passwordLength', 'system.passwordHash'] },
  'resolv.conf': {
    table: new MappingTable(NAMES, [['how names are asked for', ['options ...', 'sortlist ...']]]),
    parts: ['system.nameServers', 'system.domainName'],
  },
  timezone: {
    table: new MappingTable<System>([['zone <zone>', (w, b) => w.set('timeZone', b.text('zone'))]]),
    parts: ['system.timeZone'],
  },
  sockets: {
    table: new MappingTable(SOCKETS),
    parts: LISTED.map((service) => `system.services.${service}`),
    settle: (w) =>
      LISTED.forEach((service) =>
        w
          .at('services')
          .at(service)
          .presume('enabled', w.target.services[service].enabled ?? false),
      ),
  },
}

/** Reads such a file into the model; returns what was not read, with the parts of the model that it may speak of. */
export function readFile(
  file: SystemFile,
  scope: Scope,
  write: Writer<DeviceModel>,
): { readonly statements: readonly Statement[]; readonly parts: readonly string[] } {
  const { table, parts, settle } = READERS[file]
  const system = write.at('system')
  table.read(scope, system)
  settle?.(system)
  const all = scope.statements.flatMap((statement) => [statement, ...(statement.scope?.statements ?? [])])
  // Most of login.defs is about users that are still to be made.
  const meant =
    file === 'login.defs'
      ? all.filter(({ command }) => /^(?:PASS_MIN_LEN|ENCRYPT_METHOD)$/.test(command.words[0] ?? ''))
      : all
  return { statements: meant.filter((statement) => write.provenance.isUnread(statement)), parts }
}

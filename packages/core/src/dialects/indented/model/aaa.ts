/** Users, and the servers and methods by which they are let in. */
import type { Statement } from '../../../syntax/index.ts'
import { MappingTable, type Bound, type Harmless, type Mapping } from '../../../model/mapping.ts'
import { ARCHIVE_HARMLESS } from './harmless.ts'
import { secret, secretOfType } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type System = DeviceModel['system']

/** Forms of both protocols, in the spelling of one line for a server. */
function either(...forms: string[]): string[] {
  return ['tacacs-server', 'radius-server'].flatMap((protocol) => forms.map((form) => `${protocol} ${form}`))
}

export const ACCESS: readonly Mapping<System>[] = [
  ['aaa new-model', (w) => w.at('aaa').set('enabled', true)],
  ['no aaa new-model', (w) => w.at('aaa').set('enabled', false)],
  [
    'aaa accounting commands <level:int> <name>',
    (w, b, s) => accounting(w, `commands ${b.text('level')}`, b.text('name'), s),
  ],
  ['aaa accounting <purpose> <name>', (w, b, s) => accounting(w, b.text('purpose'), b.text('name'), s)],
  [
    'aaa {authorization|accounting} commands <level:int> <name> <methods...>',
    (w, b, s) =>
      w
        .at('aaa')
        .add('methods', {
          purpose: `${s.command.lowerWords[1] ?? ''} commands ${b.text('level')}`,
          name: b.text('name'),
          methods: b.words('methods'),
        }),
  ],
  [
    'aaa {authentication|authorization|accounting} <purpose> <name> <methods...>',
    (w, b, s) =>
      w
        .at('aaa')
        .add('methods', {
          purpose: `${s.command.lowerWords[1] ?? ''} ${b.text('purpose')}`,
          name: b.text('name'),
          methods: b.words('methods'),
        }),
  ],
  [
    'aaa local authentication attempts max-fail <attempts:int>',
    (w, b) => w.at('lockout').set('attempts', b.number('attempts')).set('untilUnlocked', true),
  ],
  [
    'login block-for <lock:int> attempts <attempts:int> within <window:int>',
    (w, b) =>
      w
        .at('lockout')
        .set('attempts', b.number('attempts'))
        .set('lockSeconds', b.number('lock'))
        .set('windowSeconds', b.number('window')),
  ],
  [
    ['tacacs server <name>', 'radius server <name>'],
    (w, b, s) =>
      AAA_SERVER.read(s.scope, w.at('aaa').entry('servers', { protocol: s.command.first, name: b.text('name') })),
  ],
  [
    'aaa group server <protocol> <name>',
    (w, b, s) =>
      AAA_GROUP.read(s.scope, w.at('aaa').entry('groups', { name: b.text('name'), protocol: b.text('protocol') })),
  ],
  [
    'ip {tacacs|radius} source-interface <interface> ...',
    (w, b, s) =>
      w.at('aaa').add('sources', { protocol: s.command.lowerWords[1] ?? '', interface: b.text('interface') }),
  ],
  [
    'aaa authorization console',
    (w) => w.at('aaa').add('methods', { purpose: 'authorization console', name: 'console' }),
  ],
  // The methods of accounting may stand in a block of their own.
  ['archive', (w, _, s) => ARCHIVE.read(s.scope, w)],
  [either('host <address> <options...>', 'host <address>'), (w, b, s) => oldServer(w, b, s)],
  [
    either('key <form:int> <secret...>'),
    (w, b, s) => sharedKey(w, s, secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
  ],
  [either('key <secret...>'), (w, b, s) => sharedKey(w, s, secret('clear', b.text('secret'), w.provenance.mask))],
  [
    'enable secret level * <form:int> <secret...>',
    (w, b) => w.set('enableSecret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
  ],
  [
    'enable {secret|password} <form:int> <secret...>',
    (w, b) => w.set('enableSecret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
  ],
  [
    'enable algorithm-type <algorithm> secret <secret...>',
    (w, b) =>
      w.set(
        'enableSecret',
        secret(b.text('algorithm') === 'scrypt' ? 'scrypt' : 'pbkdf2', b.text('secret'), w.provenance.mask),
      ),
  ],
  [
    'enable {secret|password} <secret...>',
    (w, b) => w.set('enableSecret', secretOfType(null, b.text('secret'), w.provenance.mask)),
  ],
  ['username <name> <options...>', (w, b) => user(w, b)],
  ['username <name>', (w, b) => w.entry('users', { name: b.text('name') })],
]

const AAA_HARMLESS: readonly Harmless[] = [
  [
    'how long a server is waited for, and by which port',
    ['timeout ...', 'single-connection', 'port ...', 'retransmit ...', 'deadtime ...', 'exit', 'automate-tester ...'],
  ],
]

/** Methods in a block: `action-type start-stop` and `group NAME` in lines of their own. */
export const ACCOUNTING = new MappingTable<System['aaa']['methods'][number]>([
  ['action-type <how>', (w, b) => w.push('methods', b.text('how'))],
  ['group <name>', (w, b) => w.push('methods', 'group', b.text('name'))],
  ['broadcast', (w) => w.push('methods', 'broadcast')],
])

function accounting(w: Writer<System>, purpose: string, name: string, statement: Statement): void {
  ACCOUNTING.read(statement.scope, w.at('aaa').add('methods', { purpose: `accounting ${purpose}`, name }))
}

/** A server in one line, with its key perhaps. */
function oldServer(w: Writer<System>, b: Bound, statement: Statement): void {
  const options = b.words('options')
  const key = options.indexOf('key')
  const server = w
    .at('aaa')
    .entry('servers', { protocol: statement.command.first.replace('-server', ''), name: b.text('address') })
    .set('address', b.text('address'))
  const typed = /^\d$/.test(options[key + 1] ?? '') && options.length > key + 2
  if (key >= 0)
    server.set(
      'secret',
      typed
        ? secretOfType(options[key + 1] ?? null, options.slice(key + 2).join(' '), w.provenance.mask)
        : secret('clear', options.slice(key + 1).join(' '), w.provenance.mask),
    )
}

/** The key of all servers of a protocol that state none of their own; read when all servers are known. */
function sharedKey(w: Writer<System>, statement: Statement, kept: ReturnType<typeof secret>): void {
  const protocol = statement.command.first.replace('-server', '')
  w.at('aaa').presume('sharedKeys', [
    ...w.target.aaa.sharedKeys.filter((one) => one.protocol !== protocol),
    { protocol, secret: kept },
  ])
}

export const AAA_SERVER = new MappingTable<System['aaa']['servers'][number]>(
  [
    ['address {ipv4|ipv6} <address> ...', (w, b) => w.set('address', b.text('address'))],
    [
      'key <form:int> <secret...>',
      (w, b) => w.set('secret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
    ],
    ['key <secret...>', (w, b) => w.set('secret', secret('clear', b.text('secret'), w.provenance.mask))],
  ],
  AAA_HARMLESS,
)

export const AAA_GROUP = new MappingTable<System['aaa']['groups'][number]>(
  [
    [['server name <name>', 'server <name> ...'], (w, b) => w.push('servers', b.text('name'))],
    [
      ['ip tacacs source-interface <source>', 'ip radius source-interface <source>'],
      (w, b) => w.set('source', b.text('source')),
    ],
    ['server-private <address> <options...>', (w, b) => w.push('servers', b.text('address'))],
    ['ip vrf forwarding <vrf>', (w, b) => w.set('vrf', b.text('vrf'))],
  ],
  AAA_HARMLESS,
)

export const ARCHIVE = new MappingTable<System>(
  [['log config', (w, _, s) => ARCHIVE_LOG.read(s.scope, w)]],
  ARCHIVE_HARMLESS,
)
/** A log of configuration commands on the device itself is accounting of its own kind. */
export const ARCHIVE_LOG = new MappingTable<System>(
  [
    [
      'logging enable',
      (w) => w.at('aaa').add('methods', { purpose: 'accounting archive', name: 'log config', methods: ['local'] }),
    ],
  ],
  ARCHIVE_HARMLESS,
)

/** `username NAME [privilege N] [algorithm-type A] {secret|password} [TYPE] TEXT`, in one line or several. */
function user(w: Writer<System>, b: Bound): void {
  const words = b.words('options')
  const entry = w.entry('users', { name: b.text('name') })
  const privilege = words.indexOf('privilege')
  if (privilege >= 0 && /^\d+$/.test(words[privilege + 1] ?? '')) entry.set('privilege', Number(words[privilege + 1]))
  const role = words.indexOf('role')
  if (role >= 0) entry.set('role', words[role + 1] ?? null)
  const at = words.findIndex((word) => word === 'secret' || word === 'password')
  if (at < 0) return
  const algorithm = words[words.indexOf('algorithm-type') + 1 || words.length]
  const typed = /^\d+$/.test(words[at + 1] ?? '') && words.length > at + 2
  const text = words.slice(at + (typed ? 2 : 1)).join(' ')
  const kept =
    algorithm === 'scrypt' || algorithm === 'sha256'
      ? secret(algorithm === 'scrypt' ? 'scrypt' : 'pbkdf2', text, w.provenance.mask)
      : secretOfType(typed ? (words[at + 1] ?? null) : null, text, w.provenance.mask)
  entry.set('secret', kept)
}

/** Servers that state no key of their own have that of their protocol. */
export function shareKeys(w: Writer<System>): void {
  for (const { protocol, secret: kept } of w.target.aaa.sharedKeys) {
    for (const server of w.at('aaa').every('servers', { protocol }))
      if (server.target.secret === null) server.presume('secret', kept)
  }
}

/** What an XML listing says to the device model. */
import { Scope, type Statement } from '../../../syntax/index.ts'
import { prefixesOfRange } from '../../../model/address-ranges.ts'
import { settleServers } from '../../../model/aaa.ts'
import type { ModelRules } from '../../../model/dialect.ts'
import { MappingTable, partly, type Bound, type Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import { tableAt } from '../../../model/tables.ts'
import type { Writer } from '../../../model/writer.ts'
import { XMLENTRIES_DEFAULTS } from './defaults.ts'
import { HARMLESS } from './harmless.ts'
import { NETWORK, settleServices } from './network.ts'
import { RULES, settlePolicies } from './rules.ts'
import { SYSTEM } from './system.ts'

type Application = DeviceModel['applications'][number]

/** Objects stand with the device, or are shared among its virtual systems. */
const PLACES = ['', 'shared ']

function group(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['addressGroups'][number]> {
  return w.entry('addressGroups', { name: b.text('name') })
}
function service(w: Writer<DeviceModel>, b: Bound): Writer<Application> {
  return w.entry('applications', { name: b.text('name') })
}

function ports(w: Writer<Application>, field: 'sourcePorts' | 'destinationPorts', text: string): unknown {
  const ranges = text.split(',').map((part) => /^(\d{1,5})(?:-(\d{1,5}))?$/.exec(part.trim()))
  if (ranges.includes(null)) return partly(w.push('notWeighed', `port ${text}`))
  return w.set(
    field,
    ranges.flatMap((range): [number, number][] => (range ? [[Number(range[1]), Number(range[2] ?? range[1])]] : [])),
  )
}

const OBJECTS: readonly Mapping<DeviceModel>[] = PLACES.flatMap((place): Mapping<DeviceModel>[] => [
  [`${place}address <name> ip-netmask <prefix>`, (w, b) => group(w, b).push('members', b.text('prefix'))],
  [
    `${place}address <name> ip-range <range>`,
    (w, b) => {
      const [from = '', to = ''] = b.text('range').split('-')
      return group(w, b).push('members', ...(prefixesOfRange(from, to) ?? [`range ${b.text('range')}`]))
    },
  ],
  // Address and bits that may be anything.
  [
    `${place}address <name> ip-wildcard <wildcard>`,
    (w, b) => group(w, b).push('members', b.text('wildcard').replace('/', ' ')),
  ],
  [`${place}address <name> fqdn <host>`, (w, b) => group(w, b).push('members', `fqdn ${b.text('host')}`)],
  [`${place}address <name> {description|tag} ...`, (w, b) => group(w, b)],
  [`${place}address-group <name> static <member>`, (w, b) => group(w, b).push('members', b.text('member'))],
  // Members that are found by their tags are not followed.
  [
    `${place}address-group <name> dynamic filter <what...>`,
    (w, b) => group(w, b).push('members', `tagged ${b.text('what')}`),
  ],
  [`${place}address-group <name> {description|tag} ...`, (w, b) => group(w, b)],
  ...(['tcp', 'udp', 'sctp'] as const).flatMap((protocol): Mapping<DeviceModel>[] => [
    [
      `${place}service <name> protocol ${protocol} port <ports>`,
      (w, b) => ports(service(w, b).set('protocol', protocol), 'destinationPorts', b.text('ports')),
    ],
    [
      `${place}service <name> protocol ${protocol} source-port <ports>`,
      (w, b) => ports(service(w, b).set('protocol', protocol), 'sourcePorts', b.text('ports')),
    ],
    // How long a session is kept.
    [`${place}service <name> protocol ${protocol} override ...`, (w, b) => service(w, b)],
  ]),
  [`${place}service <name> {description|tag} ...`, (w, b) => service(w, b)],
  [`${place}service-group <name> members <member>`, (w, b) => service(w, b).push('members', b.text('member'))],
  [`${place}service-group <name> {description|tag} ...`, (w, b) => service(w, b)],
  [
    `${place}application-group <name> members <member>`,
    (w, b) => service(w, b).push('notWeighed', `application ${b.text('member')}`),
  ],
])

const DEVICE = new MappingTable<DeviceModel>([...SYSTEM, ...NETWORK, ...OBJECTS, ...RULES], HARMLESS)

/** Rules that are switched off, by the words that lead to them. */
function rulesThatAreOff(scope: Scope): ReadonlySet<string> {
  return new Set(
    scope.statements.flatMap(({ command: { words } }) =>
      words[0] === 'rulebase' && words[4] === 'disabled' && words[5] === 'yes' ? [`${words[1]} ${words[3]}`] : [],
    ),
  )
}

/** Objects of the device by kind and name: they go before shared ones of the same name (common practice). */
function ownObjects(scope: Scope): ReadonlySet<string> {
  return new Set(
    scope.statements.flatMap(({ command: { words } }) =>
      /^(?:address|address-group|service|service-group)$/.test(words[0] ?? '')
        ? [`${words[0]?.startsWith('a') ? 'address' : 'service'} ${words[1] ?? ''}`]
        : [],
    ),
  )
}

const INTRAZONE = 'rulebase default-security-rules rules intrazone-default action'

function read(scope: Scope, write: Writer<DeviceModel>): void {
  const [off, own] = [rulesThatAreOff(scope), ownObjects(scope)]
  const held: Statement[] = []
  // Within a zone everything goes, unless something else is stated (common practice).
  let within: { readonly action: string; readonly nodes: Statement['nodes'] } = { action: 'allow', nodes: [] }
  for (const statement of scope.statements) {
    const { words } = statement.command
    if (words.slice(0, 5).join(' ') === INTRAZONE) {
      within = { action: words[5] ?? '', nodes: statement.nodes }
      write.provenance.used.add(statement)
      continue
    }
    if (words[0] === 'rulebase' && off.has(`${words[1]} ${words[3]}`))
      write.provenance.harmless.set(statement, 'its rule is switched off')
    else if (words[0] === 'shared' && own.has(`${words[1]?.startsWith('a') ? 'address' : 'service'} ${words[2] ?? ''}`))
      write.provenance.harmless.set(statement, 'an object of the device has its name, and goes before it')
    else held.push(statement)
  }
  DEVICE.read(new Scope(held, scope.openers, scope.inactive), write)
  settlePolicies(write, within)
  settleServices(write)
  settleServers(write.at('system'))
}

export const XMLENTRIES_MODEL: ModelRules = {
  read,
  tables: [tableAt(null, '', DEVICE)],
  entryForms: [],
  pathStatements: true,
  defaults: XMLENTRIES_DEFAULTS,
}

/** What edit blocks say to the device model. */
import { Scope, type Statement } from '../../../syntax/index.ts'
import { settleServers } from '../../../model/aaa.ts'
import type { ModelRules } from '../../../model/dialect.ts'
import { MappingTable } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import { tableAt } from '../../../model/tables.ts'
import type { Writer } from '../../../model/writer.ts'
import { lineOf } from '../../words.ts'
import { partsOf } from '../paths.ts'
import { EDITBLOCKS_DEFAULTS } from './defaults.ts'
import { FIREWALL, settleNames } from './firewall.ts'
import { INTERFACES, ZONES, settleZones } from './interfaces.ts'
import { HARMLESS } from './harmless.ts'
import { ROUTING } from './routing.ts'
import { SYSTEM } from './system.ts'
import { VPN } from './vpn.ts'

const DEVICE = new MappingTable<DeviceModel>(
  [...SYSTEM, ...INTERFACES, ...ZONES, ...FIREWALL, ...ROUTING, ...VPN],
  HARMLESS,
)

/** Tables whose entries can be switched off one by one. */
const SWITCHED = /^config (?:firewall (?:policy|policy6)|router static6?|router policy6?) edit /

function read(scope: Scope, write: Writer<DeviceModel>): void {
  const off = new Set(scope.statements.flatMap(({ command: { words } }) => entryThatIsOff(words) ?? []))
  const held: Statement[] = []
  for (const statement of scope.statements) {
    if (off.size > 0 && off.has(entryOf(statement.command.words)))
      write.provenance.harmless.set(statement, 'its entry is switched off')
    else held.push(statement)
  }
  DEVICE.read(new Scope(held, scope.openers, scope.inactive), write)
  settleZones(write)
  settleNames(write)
  settleServers(write.at('system'))
}

function entryThatIsOff(words: readonly string[]): string | null {
  const { name, values } = partsOf(words)
  return name === 'status' && values[0] === 'disable' && SWITCHED.test(words.join(' ')) ? entryOf(words) : null
}

function entryOf(words: readonly string[]): string {
  return lineOf(partsOf(words).blocks.flat())
}

export const EDITBLOCKS_MODEL: ModelRules = {
  read,
  tables: [tableAt(null, '', DEVICE)],
  entryForms: [],
  pathStatements: true,
  defaults: EDITBLOCKS_DEFAULTS,
}

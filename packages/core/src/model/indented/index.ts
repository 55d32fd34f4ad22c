/** The indented dialect's commands, as they speak to the device model. */
import type { HeldConfig } from '../held-config.ts'
import { MappingTable } from '../mapping.ts'
import type { DeviceModel } from '../schema/index.ts'
import type { Writer } from '../writer.ts'
import { readAccessLists } from './filters.ts'
import { readInterface } from './interfaces.ts'
import { ROUTING } from './routing.ts'
import { SECURITY } from './security.ts'
import { SYSTEM, readTerminal } from './system.ts'

const DEVICE = new MappingTable<DeviceModel>([
  ['interface ...', (w, _, s) => readInterface(w, s)],
  ['line ...', (w, _, s) => readTerminal(w.at('system'), s)],
  ...ROUTING,
  ...SECURITY,
])

export function readIndentedModel(held: HeldConfig, write: Writer<DeviceModel>): void {
  DEVICE.read(held.scope, write)
  SYSTEM.read(held.scope, write.at('system'))
  readAccessLists(write, held.accessLists)
  for (const service of ['ssh', 'telnet'] as const) readLoginService(write.at('system'), service)
  for (const { zone, name } of write.target.interfaces) if (zone !== null) write.find('zones', { name: zone })?.push('interfaces', name)
}

/** Terminals for remote logins say which services answer: one that says nothing leaves it open (the default differs). */
function readLoginService(write: Writer<DeviceModel['system']>, service: 'ssh' | 'telnet'): void {
  const remote = write.target.terminals.filter(({ kind }) => kind === 'remote')
  const accepting = remote.filter(({ protocols }) => protocols?.some((protocol) => protocol === service || protocol === 'all'))
  const settled = accepting.length > 0 || (remote.length > 0 && remote.every(({ protocols }) => protocols !== null))
  if (!settled) return
  write.at('services').at(service).presume('enabled', accepting.length > 0)
  for (const terminal of accepting.length > 0 ? accepting : remote) {
    write.sheet.origins.note(write.at('services').at(service).place, 'enabled', { kind: 'of', path: `${write.path}.terminals[${write.target.terminals.indexOf(terminal)}].protocols` })
  }
}

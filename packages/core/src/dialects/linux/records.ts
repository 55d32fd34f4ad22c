/**
 * A Linux gateway has no listing of its own: its filter rules are what it is judged by; its interfaces and routes are
 * those that the kernel lists, its settings those of sysctl and of files.
 */
import { maskLine, type Mask } from '../../syntax/index.ts'
import {
  EffectiveConfig,
  ROOT,
  ProvenanceRecorder,
  Writer,
  deviceModelSchema,
  kindOfInterface,
  unreadLines,
  type BesideLine,
  type ModelledDevice,
  type UnreadLine,
} from '../../model/index.ts'
import { textOfRecord, type ReadRecord, type StateReading } from '../../state/index.ts'
import type { RecordRules } from '../record-rules.ts'
import { SYSTEM_FILES, readSystemFile, type SystemFile } from './files.ts'
import { readFile } from './model/files.ts'
import { readFilterRules } from './model/rules.ts'
import { readSettings } from './model/settings.ts'
import { readKernelSettings } from './settings.ts'

export const LINUX_RECORDS: RecordRules = {
  configuration: 'filters',
  listings: ['filters', 'filters6'],
  files: SYSTEM_FILES.filter((name) => name !== 'sockets'),
  beside: {
    isPart: (kind) => kind === 'sysctl' || fileOf(kind) !== null || kind.startsWith('state/'),
    read: (modelled, records, reading, mask) => {
      readKernelState(modelled, reading, mask)
      return records.flatMap((record) => readBeside(modelled, record, mask))
    },
  },
}

/** Which file of the system a kind of record is. */
function fileOf(kind: string): SystemFile | null {
  return SYSTEM_FILES.find((file) => kind === (file === 'sockets' ? file : `files/${file}`)) ?? null
}

/** Interfaces, and the routes that a person has entered. */
function readKernelState({ model, notes }: ModelledDevice, { state, origins }: StateReading, mask: Mask): void {
  const provenance = new ProvenanceRecorder('', mask, notes)
  const write = new Writer(model, deviceModelSchema, ROOT, provenance)
  state.interfaces.forEach((one, i) => {
    provenance.from(origins.get(`interfaces[${i}]`) ?? null)
    const entry = write
      .entry('interfaces', { name: one.name })
      .presume('kind', kindOfInterface(one.name))
      .set('enabled', one.admin === null ? null : one.admin === 'up')
      .set('mtu', one.mtu)
    for (const text of one.addresses) {
      const [address = '', length = ''] = text.split('/')
      entry.add('addresses', { address, prefixLength: Number(length), family: address.includes(':') ? 'ipv6' : 'ipv4' })
    }
  })
  state.routes.forEach(({ prefix, protocol, vrf, metric, nextHops }, i) => {
    if (protocol !== 'static' && protocol !== 'boot') return
    provenance.from(origins.get(`routes[${i}]`) ?? null)
    for (const { address, interface: port, discard } of nextHops)
      write.add('staticRoutes', { prefix, vrf, nextHop: address, interface: port, discard, distance: metric })
  })
}

/** A record beside the filter rules; returns the lines that nothing was made of. */
function readBeside({ model, notes, dialect }: ModelledDevice, record: ReadRecord, mask: Mask): UnreadLine[] {
  const provenance = new ProvenanceRecorder(record.id, mask, notes)
  const write = new Writer(model, deviceModelSchema, ROOT, provenance)
  const shown = (line: string): string => maskLine(line, null, dialect, mask)
  if (record.kind === 'filters6') {
    const effective = EffectiveConfig.of(record.tree ?? dialect.read(textOfRecord(record)), dialect)
    readFilterRules(effective.scope, write, 'ipv6')
    return unreadLines(effective, record.id, provenance, mask)
  }
  const file = fileOf(record.kind)
  if (file !== null) {
    const { statements, parts } = readFile(file, readSystemFile(file, textOfRecord(record)), write)
    return statements.map(({ text, nodes: [node] }): BesideLine => ({
      record: record.id,
      line: node?.line ?? 1,
      lastLine: node?.lastLine ?? 1,
      text: shown(node?.text ?? text),
      block: null,
      parts,
    }))
  }
  if (record.kind !== 'sysctl') return []
  const { scope, unread } = readKernelSettings(textOfRecord(record))
  readSettings(scope, write)
  const lines = textOfRecord(record).split('\n')
  return unread.map((line) => ({ record: record.id, line, text: shown((lines[line - 1] ?? '').trim()), block: null }))
}

/** All records of one device together: its model, and what it was doing. */
import {
  SYSTEM_FILES,
  dialectById,
  maskLine,
  readKernelSettings,
  readSystemFile,
  type Dialect,
  type LocatedTree,
  type Mask,
  type SystemFile,
} from '../config/index.ts'
import {
  HeldConfig,
  ROOT,
  Sheet,
  Writer,
  deviceModelSchema,
  kindOfInterface,
  modelOf,
  readFilterRules,
  readSettings,
  readSystemFileInto,
  unreadLines,
  unreadLinesOf,
  type BesideLine,
  type ModelledDevice,
  type UnreadLine,
} from '../model/index.ts'
import { stateOf, type StateReading } from './reading.ts'

/** One record of a device: read, or kept as text where it is the output of a command. */
export type ReadRecord = Captured & ({ readonly tree: LocatedTree } | { readonly tree: null; readonly text: string })

interface Captured {
  readonly id: string
  readonly kind: string
  /** RFC 3339; null where it is not known. */
  readonly takenAt?: string | null
}

type Configuration = Extract<ReadRecord, { tree: LocatedTree }>

/** The record that a device is judged by: the listing that shows defaults where there is one, else the ordinary one. */
export function judgedRecord(records: readonly ReadRecord[]): Configuration | null {
  return judgedOf(records.filter((record): record is Configuration => record.tree !== null))
}

/** The same of records that are not read. */
export function judgedOf<R extends { readonly kind: string }>(records: readonly R[]): R | null {
  return records.find(({ kind }) => kind === 'config.full') ?? records.find(({ kind }) => kind === 'config') ?? null
}

/**
 * The records whose lines are counted for a device: the one it is judged by and those beside it; of a second listing of
 * the same configuration, and of outputs of commands, no line is counted.
 */
export function countedOf<R extends { readonly kind: string }>(records: readonly R[]): R[] {
  const judged = judgedOf(records)
  return records.filter((record) => record === judged || !/^(?:config|state\/)/.test(record.kind))
}

/** How many lines a device has, and how many of them no reader used: the one computation for every page and report. */
export function linesOf(
  records: readonly { readonly kind: string; readonly lineCount: number; readonly unread: readonly number[] }[],
): { lines: number; unread: number } {
  const counted = countedOf(records)
  const sum = (of: (record: (typeof counted)[number]) => number): number =>
    counted.reduce((all, record) => all + of(record), 0)
  return { lines: sum(({ lineCount }) => lineCount), unread: sum(({ unread }) => unread.length) }
}

/** By record of a device, the numbers of the lines that no reader used. */
export function unreadByRecord(dialect: Dialect, records: readonly ReadRecord[]): Map<string, number[]> {
  const judged = judgedRecord(records)
  const model = judged && modelOfDevice(HeldConfig.of(judged.tree, dialect), judged, records, () => '')
  return new Map(
    records.map((record) => {
      const second = record.tree !== null && record.id !== judged?.id && record.kind.startsWith('config')
      const lines = second
        ? unreadLinesOf(record.tree)
        : (model?.unread ?? []).filter((line) => line.record === record.id).map(({ line }) => line)
      return [record.id, [...new Set(lines)].sort((a, b) => a - b)]
    }),
  )
}

/** Whether what is made of a record belongs to the model of a device. */
export function isPartOfModel(kind: string, dialect: string): boolean {
  return (
    kind.startsWith('config') ||
    kind.startsWith('filters') ||
    (dialect === 'linux' && (kind === 'sysctl' || fileOf(kind) !== null || kind.startsWith('state/')))
  )
}

/** What the outputs of a device's commands say. */
export function stateOfDevice(records: readonly ReadRecord[]): StateReading {
  return stateOf(
    records
      .filter(({ kind }) => kind.startsWith('state/'))
      .map((record) => ({ record: record.id, kind: record.kind.slice('state/'.length), text: textOf(record) })),
  )
}

/**
 * The model of a device from all of its records. A Linux gateway has no listing: its interfaces and routes are those
 * that
 * the kernel lists, and its settings those of sysctl.
 */
export function modelOfDevice(
  held: HeldConfig,
  judged: Configuration,
  records: readonly ReadRecord[],
  mask: Mask,
): ModelledDevice {
  const modelled = modelOf(held, {
    record: judged.id,
    mask,
    listing: judged.kind === 'config.full' ? 'full' : 'ordinary',
  })
  if (held.dialect.id !== 'linux') return modelled
  takeFromKernel(modelled, stateOfDevice(records), mask)
  const unread = records.flatMap((record) => readBeside(modelled, record, mask))
  return modelled.with(unread)
}

/** Which file of the system a kind of record is. */
function fileOf(kind: string): SystemFile | null {
  return SYSTEM_FILES.find((file) => kind === (file === 'sockets' ? file : `files/${file}`)) ?? null
}

function textOf(record: ReadRecord): string {
  return record.tree === null ? record.text : record.tree.lines.text
}

/** Interfaces, and the routes that a person has entered. */
function takeFromKernel({ model, notes }: ModelledDevice, { state, origins }: StateReading, mask: Mask): void {
  const sheet = new Sheet('', mask, notes)
  const write = new Writer(model, deviceModelSchema, ROOT, sheet)
  state.interfaces.forEach((one, i) => {
    sheet.from(origins.get(`interfaces[${i}]`) ?? null)
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
    sheet.from(origins.get(`routes[${i}]`) ?? null)
    for (const { address, interface: port, discard } of nextHops)
      write.add('staticRoutes', { prefix, vrf, nextHop: address, interface: port, discard, distance: metric })
  })
}

/** A record beside the filter rules; returns the lines that nothing was made of. */
function readBeside({ model, notes, dialect }: ModelledDevice, record: ReadRecord, mask: Mask): UnreadLine[] {
  const sheet = new Sheet(record.id, mask, notes)
  const write = new Writer(model, deviceModelSchema, ROOT, sheet)
  const shown = (line: string): string => maskLine(line, null, dialect, mask)
  if (record.kind === 'filters6') {
    const linux = dialectById('linux')
    if (!linux) return []
    const held = HeldConfig.of(record.tree ?? linux.read(textOf(record)), linux)
    readFilterRules(held.scope, write, 'ipv6')
    return unreadLines(held, record.id, sheet, mask)
  }
  const file = fileOf(record.kind)
  if (file !== null) {
    const { statements, parts } = readSystemFileInto(file, readSystemFile(file, textOf(record)), write)
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
  const { scope, unread } = readKernelSettings(textOf(record))
  readSettings(scope, write)
  const lines = textOf(record).split('\n')
  return unread.map((line) => ({ record: record.id, line, text: shown((lines[line - 1] ?? '').trim()), block: null }))
}

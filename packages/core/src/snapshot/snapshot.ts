import type { Refusal, SnapshotFile } from './file.ts'
import { detectDialect, dialectById, dialects, type Dialect } from '../dialects/index.ts'
import { z } from 'zod'
import {
  CoreError,
  beyondLimits,
  decodeText,
  firstLineOf,
  readYaml,
  schemaFault,
  sha256Hex,
  type LocatedTree,
  type TextSource,
} from '../syntax/index.ts'
import { captureTimeIn } from './capture-time.ts'
import { deviceFactsSchema, type DeviceFacts, snapshotFactsSchema } from './device-facts.ts'
import { unpacked, plainFiles, folderRoot } from './unpack.ts'

/**
 * `config`: what runs; `config.full`: the listing with defaults; `config.saved`: for the next boot; `state/…`: outputs.
 */
export type RecordKind =
  | 'config'
  | 'config.full'
  | 'config.saved'
  | 'filters'
  | 'filters6'
  | 'sysctl'
  | 'sockets'
  | `files/${string}`
  | `state/${string}`

/** Where a time of capture comes from; the order is that of trust. */
export type TimeSource = 'stated' | 'listing' | 'unknown'

export interface DeviceRecord {
  /** Unique in the snapshot: its path. */
  readonly id: string
  readonly device: string
  readonly kind: RecordKind
  readonly path: string
  readonly sha256: string
  readonly takenAt: string | null
  readonly timeSource: TimeSource
  /** As they were imported; `sha256` is that of these bytes. */
  readonly bytes: Uint8Array
  readonly text: string
  /** Configurations are read; outputs of commands are kept as they are. */
  readonly tree: LocatedTree | null
  /**
   * How much of the text reads as its dialect, from 0 to 1; 1 where a person has named the dialect, null of outputs.
   */
  readonly confidence: number | null
}

/** Files of the system that may stand in a device folder. */
const SYSTEM_FILES = dialects.flatMap(({ records }) => records.files)

export interface SnapshotDevice {
  readonly name: string
  readonly dialect: Dialect
  readonly facts: DeviceFacts
  readonly records: readonly DeviceRecord[]
}

export interface CompanionFile {
  readonly path: string
  readonly text: string
}

export interface Snapshot {
  readonly title: string
  readonly takenAt: string | null
  readonly note: string
  readonly devices: readonly SnapshotDevice[]
  /** What stands beside the devices: known links, and what is expected of traffic. Null where there is no such file. */
  readonly links: CompanionFile | null
  readonly expectations: CompanionFile | null
  readonly refused: readonly Refusal[]
  /** Devices that several files claim to be; none of the later files was taken. */
  readonly sameName: readonly { name: string; paths: readonly string[] }[]
}

/**
 * Sorts files into devices with their records. Takes a snapshot folder (`snapshot.yaml`, `devices/<name>/…`), bare
 * `*.cfg *.conf *.txt` files (one device each), zips of either, and mixtures. Everything that is not taken is named
 * in `refused` with its reason: nothing disappears.
 */
export function readSnapshot(input: readonly SnapshotFile[]): Snapshot {
  const refused: Refusal[] = []
  const files = plainFiles(unpacked(input, refused), refused)
  const root = folderRoot(files)
  const builder = new SnapshotBuilder(refused)
  for (const file of files) {
    const inside = root !== null && file.path.startsWith(root) ? file.path.slice(root.length) : null
    if (inside === 'snapshot.yaml') builder.takeSnapshotFacts(file)
    else if (inside !== null && inside.startsWith('devices/')) builder.takeDeviceFile(file, inside)
    else if (inside === 'links.yaml' || inside === 'expectations.yaml')
      builder.takeBeside(file, inside === 'links.yaml' ? 'links' : 'expectations')
    else builder.takeBareFile(file)
  }
  return builder.finish()
}

const KIND_BY_FILE: Readonly<Record<string, RecordKind>> = {
  'config.txt': 'config',
  'config.full.txt': 'config.full',
  'config.saved.txt': 'config.saved',
  'filters.txt': 'filters',
  'nftables.json': 'filters',
  'filters6.txt': 'filters6',
  'sysctl.txt': 'sysctl',
  'sockets.txt': 'sockets',
}

interface Reading {
  readonly text: string
  readonly tree: LocatedTree | null
  readonly dialect: Dialect | null
  readonly confidence: number | null
}

interface Draft {
  facts: DeviceFacts | null
  dialect: Dialect | null
  records: DeviceRecord[]
  paths: string[]
}

class SnapshotBuilder {
  #facts: z.infer<typeof snapshotFactsSchema> = {}
  readonly #beside: { links: CompanionFile | null; expectations: CompanionFile | null } = {
    links: null,
    expectations: null,
  }
  readonly #drafts = new Map<string, Draft>()
  readonly #sameName = new Map<string, string[]>()

  constructor(readonly refused: Refusal[]) {}

  takeSnapshotFacts(file: SnapshotFile): void {
    const parsed = this.#yaml(file, snapshotFactsSchema)
    if (parsed) this.#facts = parsed
  }

  takeBeside(file: SnapshotFile, what: 'links' | 'expectations'): void {
    const decoded = decodeText(file.bytes)
    if (decoded.ok) this.#beside[what] = { path: file.path, text: decoded.text }
    else this.refused.push({ path: file.path, reason: decoded.reason })
  }

  takeDeviceFile(file: SnapshotFile, inside: string): void {
    const [, name = '', ...rest] = inside.split('/')
    const within = rest.join('/')
    if (within === 'device.yaml') {
      const facts = this.#yaml(file, deviceFactsSchema)
      if (facts) this.#draft(name).facts = facts
      return
    }
    const state = /^state\/([\w-]+)\.(?:txt|json)$/.exec(within)?.[1]
    const named = /^files\/([\w.-]+?)(?:\.txt)?$/.exec(within)?.[1]
    const isSystemFile = named !== undefined && SYSTEM_FILES.includes(named)
    const kind =
      KIND_BY_FILE[within] ??
      (isSystemFile ? (`files/${named}` as const) : state === undefined ? null : (`state/${state}` as const))
    if (kind === null)
      this.refused.push({
        path: file.path,
        reason:
          `not a file of a device folder (expected device.yaml, ${Object.keys(KIND_BY_FILE).join(', ')}, ` +
          `state/<kind>.txt or files/<name>.txt with the names ${SYSTEM_FILES.join(', ')})`,
      })
    // A gateway without a listing of its own: its saved filter rules are its configuration.
    else
      this.#takeRecord(
        file,
        name,
        kind === 'filters' && !this.#drafts.get(name)?.records.some((record) => record.kind === 'config')
          ? 'config'
          : kind,
      )
  }

  takeBareFile(file: SnapshotFile): void {
    if (!/\.(?:cfg|conf|txt)$/i.test(file.path)) {
      const decoded = decodeText(file.bytes.subarray(0, 4096))
      this.refused.push({
        path: file.path,
        reason: decoded.ok
          ? 'not a configuration file by its name (expected .cfg, .conf, .txt or .zip)'
          : decoded.reason,
      })
      return
    }
    const read = this.#read(file)
    if (!read) return
    const name = read.tree.hostname ?? (file.path.split('/').at(-1) ?? file.path).replace(/\.\w+$/, '')
    const earlier = this.#drafts.get(name)
    if (earlier) {
      const paths = this.#sameName.get(name) ?? [...earlier.paths]
      this.#sameName.set(name, [...paths, file.path])
      this.refused.push({
        path: file.path,
        reason:
          `has the same host name "${name}" as ${earlier.paths[0]}: skip one of them, or put each into a ` +
          'folder devices/<name>/',
      })
      return
    }
    this.#keep(file, name, 'config', read)
  }

  finish(): Snapshot {
    const devices: SnapshotDevice[] = []
    const names = new Set<string>()
    for (const [folder, draft] of this.#drafts) {
      if (draft.records.length === 0) continue
      const { name = folder, ...facts } = draft.facts ?? { labels: {} }
      if (names.has(name)) {
        this.refused.push(
          ...draft.records.map(({ path }) => ({
            path,
            reason: `the name "${name}" in its device.yaml is that of another device`,
          })),
        )
        continue
      }
      if (!draft.dialect) {
        this.refused.push(
          ...draft.records.map(({ path }) => ({
            path,
            reason: `device "${name}" has no configuration that was read (config.txt)`,
          })),
        )
        continue
      }
      devices.push({
        name,
        dialect: draft.dialect,
        facts,
        records: draft.records.map((record) => ({ ...this.#dated(record), device: name })),
      })
      names.add(name)
    }
    devices.sort((a, b) => (a.name < b.name ? -1 : 1))
    return {
      title: this.#facts.title ?? 'Imported files',
      takenAt: this.#facts.takenAt ?? null,
      note: this.#facts.note ?? '',
      devices,
      ...this.#beside,
      refused: this.refused,
      sameName: [...this.#sameName].map(([name, paths]) => ({ name, paths })),
    }
  }

  /** What the snapshot states holds for its records, unless a listing states its own time. */
  #dated(record: DeviceRecord): DeviceRecord {
    if (record.takenAt !== null || this.#facts.takenAt === undefined) return record
    return { ...record, takenAt: this.#facts.takenAt, timeSource: 'stated' }
  }

  #takeRecord(file: SnapshotFile, device: string, kind: RecordKind): void {
    if (!kind.startsWith('config')) {
      const decoded = textOf(file)
      const dialect = dialects.find(({ records }) => records.listings.includes(kind)) ?? null
      if (decoded.ok)
        this.#keep(file, device, kind, {
          text: decoded.text,
          tree: dialect?.read(decoded.text) ?? null,
          dialect,
          confidence: null,
        })
      else this.refused.push({ path: file.path, reason: decoded.reason })
      return
    }
    const read = this.#read(file, this.#drafts.get(device)?.facts?.dialect)
    if (read) this.#keep(file, device, kind, read)
  }

  #read(file: SnapshotFile, named?: string): (Reading & { tree: LocatedTree; dialect: Dialect }) | null {
    const decoded = textOf(file)
    const override = named === undefined ? undefined : dialectById(named)
    const detected = !decoded.ok
      ? decoded
      : override
        ? { ok: true as const, dialect: override, share: 1 }
        : detectDialect(decoded.text)
    if (!decoded.ok || !detected.ok) {
      this.refused.push({ path: file.path, reason: detected.ok ? 'not read' : detected.reason })
      return null
    }
    const tree = detected.dialect.read(decoded.text)
    const second = secondHost(tree)
    if (second) {
      this.refused.push({
        path: file.path,
        reason:
          `contains the configurations of two devices (line ${second.line} states the host name ` +
          `"${second.name}"): put each into a file of its own`,
      })
      return null
    }
    return { text: decoded.text, tree, dialect: detected.dialect, confidence: detected.share }
  }

  #keep(file: SnapshotFile, device: string, kind: RecordKind, { text, tree, dialect, confidence }: Reading): void {
    const draft = this.#draft(device)
    const stated = captureTimeIn(text)
    draft.paths.push(file.path)
    if (kind === 'config' && dialect) draft.dialect = dialect
    if (kind === 'config.full') draft.dialect ??= dialect
    draft.records.push({
      id: file.path,
      device,
      kind,
      path: file.path,
      sha256: sha256Hex(file.bytes),
      takenAt: stated,
      timeSource: stated === null ? 'unknown' : 'listing',
      bytes: file.bytes,
      text,
      tree,
      confidence,
    })
  }

  #draft(name: string): Draft {
    const known = this.#drafts.get(name)
    if (known) return known
    const draft: Draft = { facts: null, dialect: null, records: [], paths: [] }
    this.#drafts.set(name, draft)
    return draft
  }

  #yaml<T extends z.ZodType>(file: SnapshotFile, schema: T): z.infer<T> | null {
    const decoded = decodeText(file.bytes)
    if (!decoded.ok) {
      this.refused.push({ path: file.path, reason: decoded.reason })
      return null
    }
    try {
      const parsed = schema.safeParse(readYaml(decoded.text))
      if (parsed.success) return parsed.data
      this.refused.push({ path: file.path, reason: schemaFault(parsed.error) })
    } catch (error) {
      this.refused.push({ path: file.path, reason: `not valid YAML: ${firstLineOf(error)}` })
    }
    return null
  }
}

/** The text of a file, where it asks for no more than is read. */
function textOf({ bytes }: SnapshotFile): TextSource {
  const decoded = decodeText(bytes)
  const beyond = decoded.ok ? beyondLimits(decoded.text) : null
  return beyond === null ? decoded : { ok: false, reason: beyond }
}

/** Reads one stored record again, in the dialect that was detected on import. @throws CoreError `dialect` */
export function readRecord(text: string, dialectId: string): LocatedTree {
  const dialect = dialectById(dialectId)
  if (!dialect) throw new CoreError('dialect', `Unknown dialect "${dialectId}"`)
  return dialect.read(text)
}

const HOST = /^(?:hostname|set system host-name|host-name) "?([^\s";]+)/

/** Where a file begins to speak of another device; null where it is of one. */
function secondHost({ nodes }: LocatedTree): { readonly name: string; readonly line: number } | null {
  let first: string | null = null
  for (const node of nodes.flatMap((top) => (/^system\b/.test(top.text) ? top.children : [top]))) {
    const name = node.body === undefined ? HOST.exec(node.text)?.[1] : undefined
    if (name === undefined) continue
    first ??= name
    if (name !== first) return { name, line: node.line }
  }
  return null
}

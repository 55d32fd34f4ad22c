import { zipSync } from 'fflate'
import { stringify } from 'yaml'
import { dialectById } from '../dialects/index.ts'
import { deviceFolder } from './file-name.ts'

export interface PackedRecord {
  readonly device: string
  readonly dialect: string
  readonly kind: string
  readonly text: string
}

export interface PackedSnapshot {
  readonly title: string
  /** RFC 3339. */
  readonly takenAt: string
  readonly note: string
  readonly devices: readonly {
    readonly name: string
    readonly dialect: string
    readonly facts: Readonly<Record<string, unknown>>
  }[]
  readonly records: readonly PackedRecord[]
}

/** Where a record of a kind stands in the folder of its device. */
function fileOf({ dialect, kind, text }: PackedRecord): string {
  // The rules of a gateway are what it is judged by; in its folder they are a file of their own.
  const name = kind === 'config' ? (dialectById(dialect)?.records.configuration ?? kind) : kind
  return `${name}.${kind.startsWith('state/') && /^\s*[[{]/.test(text) ? 'json' : 'txt'}`
}

/** Where a record stands in the folder of its snapshot. */
export function recordPath(record: PackedRecord): string {
  return `${deviceFolder(record.device).folder}/${fileOf(record)}`
}

/** A snapshot folder as files by their paths: imported it is the same snapshot. */
export function snapshotFiles({ title, takenAt, note, devices, records }: PackedSnapshot): Map<string, Uint8Array> {
  const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
  return new Map([
    ['snapshot.yaml', bytes(stringify({ title, takenAt, note }))],
    ...devices.map(({ name, dialect, facts }) => {
      const { folder, named } = deviceFolder(name)
      return [`${folder}/device.yaml`, bytes(stringify({ ...named, dialect, ...facts }))] as const
    }),
    ...records.map((record) => [recordPath(record), bytes(record.text)] as const),
  ])
}

/** The same as a zip. The same content gives the same bytes. */
export function packSnapshot(snapshot: PackedSnapshot): Uint8Array {
  // A zip knows no year before 1980; times of files say nothing here.
  const at = new Date(1980, 0, 1)
  return zipSync(
    Object.fromEntries(
      [...snapshotFiles(snapshot)]
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([path, content]) => [path, [content, { mtime: at, level: 6 }] as const]),
    ) as Parameters<typeof zipSync>[0],
  )
}

/**
 * Runs in worker threads of their own: whatever comes from outside is taken apart here, never where people are
 * answered.
 */
import {
  MaskedLines,
  dialectById,
  maskWithKey,
  readExpectations,
  readSnapshot,
  type Snapshot,
  type SnapshotDevice,
  type SnapshotFile,
} from '@jurybox/core'
import { readRecord, type Refusal } from '@jurybox/core/snapshot'
import { analysisOf } from '@jurybox/core/analysis'
import { readLinksFile } from '@jurybox/core/forwarding'
import type { DeviceFacts, RecordKind } from '@jurybox/core/snapshot'
import { maskedOutput } from '@jurybox/core/dialects'
import { CompanionFileError, beyondLimits, decodeText, stableText, type Fault } from '@jurybox/core/syntax'
import { sha256 } from '../vault/vault.ts'

type CompanionFile = NonNullable<Snapshot['links']>

/** A file as a record of a device: what is kept of it, and what was found in reading it. */
export interface ImportedRecord {
  readonly kind: RecordKind
  readonly path: string
  readonly sha256: string
  readonly bytes: Uint8Array
  /** `none`: the output of a command. */
  readonly dialect: string
  readonly lineCount: number
  /** Numbers of the lines that no reader used. */
  readonly unread: number[]
  /** SHA-256 of the text less what its listing says of itself. */
  readonly settled: string
  readonly faults: readonly Fault[]
  /** How much of it reads as its dialect, from 0 to 1. */
  readonly confidence: number | null
  readonly takenAt: string | null
  readonly timeSource: SnapshotDevice['records'][number]['timeSource']
}

export interface ImportedDevice {
  readonly name: string
  readonly dialect: string
  readonly facts: DeviceFacts
  readonly records: readonly ImportedRecord[]
}

/** What files are, once they have been taken apart. */
export interface Taken {
  readonly title: string
  readonly takenAt: string | null
  readonly note: string
  readonly devices: readonly ImportedDevice[]
  readonly links: CompanionFile | null
  readonly expectations: CompanionFile | null
  readonly refused: readonly Refusal[]
  readonly sameName: Snapshot['sameName']
  /** Files whose device is not settled: a person may say yet what they are. */
  readonly unsettled: readonly SnapshotFile[]
}

/** @param folders files that belong together, each read by itself */
export function importFolders(folders: readonly (readonly SnapshotFile[])[]): Taken {
  const parts = folders.map((files) => takenOf(readSnapshot(files), files))
  const [first = takenOf(readSnapshot([]), [])] = parts
  return {
    ...first,
    devices: parts.flatMap(({ devices }) => devices),
    refused: parts.flatMap(({ refused }) => refused),
    sameName: parts.flatMap(({ sameName }) => sameName),
    unsettled: parts.flatMap(({ unsettled }) => unsettled),
  }
}

// The pool looks for it before it looks for any other.
export default importFolders

function takenOf(snapshot: Snapshot, files: readonly SnapshotFile[]): Taken {
  const { title, takenAt, note, sameName } = snapshot
  const refused = [...snapshot.refused]
  const beside = (kind: 'links' | 'expectations'): CompanionFile | null => {
    const file = snapshot[kind]
    const why = file && faultOf(kind, file)
    if (file && why) refused.push({ path: file.path, reason: why })
    return why === null ? file : null
  }
  const doubtful = new Set(sameName.flatMap(({ paths }) => paths))
  return {
    title,
    takenAt,
    note,
    sameName,
    refused,
    links: beside('links'),
    expectations: beside('expectations'),
    devices: snapshot.devices.map(deviceOf),
    unsettled: files.filter(({ path }) => doubtful.has(path)),
  }
}

function faultOf(kind: 'links' | 'expectations', file: CompanionFile): string | null {
  try {
    if (kind === 'links') readLinksFile(file)
    else readExpectations(file)
    return null
  } catch (error) {
    if (!(error instanceof CompanionFileError)) throw error
    return error.message.replace(`${file.path}: `, '')
  }
}

function deviceOf(device: SnapshotDevice): ImportedDevice {
  const { name, dialect, facts, records } = device
  // Of what is unparsed only the numbers of its lines are kept.
  const { unread } = analysisOf(device, () => '')
  return {
    name,
    facts,
    dialect: dialect.id,
    records: records.map(({ id, kind, path, sha256: hash, bytes, text, tree, confidence, takenAt, timeSource }) => ({
      kind,
      path,
      bytes,
      confidence,
      takenAt,
      timeSource,
      sha256: hash,
      dialect: tree?.dialect ?? 'none',
      lineCount: tree?.lines.length ?? text.split('\n').length,
      unread: [...(unread.get(id) ?? [])],
      settled: sha256(stableText(text)),
      faults: (tree?.faults ?? []).map((fault) => ({ ...fault })),
    })),
  }
}

/** The data of a JSON text; an error where it asks for more than is read. */
export function parseJson(bytes: Uint8Array): unknown {
  const text = new TextDecoder().decode(bytes)
  const beyond = beyondLimits(text)
  if (beyond !== null) throw new SyntaxError(beyond)
  return JSON.parse(text) as unknown
}

/**
 * The lines of a record as people may see them. An output of a command has no dialect: what any of them takes for a
 * secret is hidden.
 */
export function maskedLines({
  bytes,
  dialect: id,
  maskKey,
}: {
  readonly bytes: Uint8Array
  readonly dialect: string
  readonly maskKey: Uint8Array
}): string[] {
  const decoded = decodeText(bytes)
  const text = decoded.ok ? decoded.text : ''
  const mask = maskWithKey(maskKey)
  const dialect = dialectById(id)
  if (dialect) return new MaskedLines(readRecord(text, id), dialect, mask).all()
  return maskedOutput(text, mask)
}

export { changeFile, citedLines, deviceModel, deviceState, draft, faultsIn, pasted, stated } from './device-tasks.ts'

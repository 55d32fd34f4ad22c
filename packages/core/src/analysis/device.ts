/** The records of one device: which of them it is judged by, and what is made of them together. */
import { modelOf, type EffectiveConfig, type ModelledDevice } from '../model/index.ts'
import type { Mask } from '../syntax/index.ts'
import { dialectById, dialects } from '../dialects/index.ts'
import {
  readOutputs,
  textOfRecord,
  type ReadConfiguration,
  type ReadRecord,
  type StateReading,
} from '../state/index.ts'

/** The record that a device is judged by: the listing that shows defaults where there is one, else the ordinary one. */
export function judgedRecord(records: readonly ReadRecord[]): ReadConfiguration | null {
  return judgedOf(records.filter((record): record is ReadConfiguration => record.tree !== null))
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

/** Whether what is made of a record belongs to the model of a device. */
export function isPartOfModel(kind: string, dialect: string): boolean {
  return (
    kind.startsWith('config') ||
    kind.startsWith('filters') ||
    dialectById(dialect)?.records.beside?.isPart(kind) === true
  )
}

/** Forms of output that some dialect has of its own. */
const OWN_FORMS = [...new Set(dialects.flatMap(({ outputs }) => outputs))]

/**
 * Reads the outputs of one device together. Never throws.
 * @param outputs `kind` without `state/`, as in the snapshot's folder
 */
export function stateOf(
  outputs: readonly { readonly record: string; readonly kind: string; readonly text: string }[],
): StateReading {
  return readOutputs(outputs, OWN_FORMS)
}

/** What the outputs of a device's commands say. */
export function stateOfDevice(records: readonly ReadRecord[]): StateReading {
  return stateOf(
    records
      .filter(({ kind }) => kind.startsWith('state/'))
      .map((record) => ({ record: record.id, kind: record.kind.slice('state/'.length), text: textOfRecord(record) })),
  )
}

/**
 * The model of a device from all of its records. A Linux gateway has no listing: its interfaces and routes are those
 * that the kernel lists, and its settings those of sysctl.
 * @param state what the outputs of its commands say; asked for where the dialect has records beside the configuration
 */
export function modelOfDevice(
  effective: EffectiveConfig,
  judged: ReadConfiguration,
  records: readonly ReadRecord[],
  mask: Mask,
  state: () => StateReading = () => stateOfDevice(records),
): ModelledDevice {
  const modelled = modelOf(effective, {
    record: judged.id,
    mask,
    listing: judged.kind === 'config.full' ? 'full' : 'ordinary',
  })
  const beside = dialectById(effective.dialect.id)?.records.beside
  return beside ? modelled.with(beside.read(modelled, records, state(), mask)) : modelled
}

import { dialectById, type Dialect } from '../dialects/index.ts'
import { EffectiveConfig, unreadLinesOf, type ModelledDevice } from '../model/index.ts'
import type { DeviceRecord, SnapshotDevice } from '../snapshot/index.ts'
import { textOfRecord, type ReadConfiguration, type ReadRecord, type StateReading } from '../state/index.ts'
import type { Mask } from '../syntax/index.ts'
import { judgedRecord, modelOfDevice, stateOfDevice } from './device.ts'

/**
 * What the records of one device say: its effective configurations, model, state and unparsed lines. Each is computed
 * when first asked for, and once; judging, the estate and traffic share it.
 */
export class DeviceAnalysis {
  /** The record that the device is judged by; null where none is a configuration. */
  readonly judged: ReadConfiguration | null
  readonly #effective = new Map<ReadConfiguration, EffectiveConfig>()
  #modelled: ModelledDevice | null = null
  #state: StateReading | null = null
  #unread: ReadonlyMap<string, readonly number[]> | null = null

  constructor(
    readonly dialect: Dialect,
    readonly records: readonly ReadRecord[],
    readonly mask: Mask,
  ) {
    this.judged = judgedRecord(records)
  }

  /** What holds of one of its configurations. */
  effectiveOf(record: ReadConfiguration): EffectiveConfig {
    let effective = this.#effective.get(record)
    if (!effective) {
      effective = EffectiveConfig.of(record.tree, dialectById(record.tree.dialect) ?? this.dialect)
      this.#effective.set(record, effective)
    }
    return effective
  }

  /** What holds of the configuration that it is judged by. */
  get effective(): EffectiveConfig | null {
    return this.judged && this.effectiveOf(this.judged)
  }

  /** Null where no record is a configuration. */
  get modelled(): ModelledDevice | null {
    if (!this.judged) return null
    return (this.#modelled ??= modelOfDevice(
      this.effectiveOf(this.judged),
      this.judged,
      this.records,
      this.mask,
      () => this.state,
    ))
  }

  /** What the outputs of its commands say. */
  get state(): StateReading {
    return (this.#state ??= stateOfDevice(this.records))
  }

  /** By record, the numbers of the lines that no reader used, in order. */
  get unread(): ReadonlyMap<string, readonly number[]> {
    return (this.#unread ??= new Map(
      this.records.map((record) => [record.id, [...new Set(this.#unreadIn(record))].sort((a, b) => a - b)]),
    ))
  }

  #unreadIn(record: ReadRecord): number[] {
    const isSecondListing = record.tree !== null && record !== this.judged && record.kind.startsWith('config')
    return isSecondListing
      ? unreadLinesOf(record.tree, dialectById(record.tree.dialect) ?? this.dialect)
      : (this.modelled?.unread ?? []).filter((line) => line.record === record.id).map(({ line }) => line)
  }

  /** Characters of its records; the memory that it takes is proportional to them. */
  get size(): number {
    return this.records.reduce((sum, record) => sum + textOfRecord(record).length, 0)
  }
}

/** A device of a snapshot. @param mask by which its secrets are shown */
export function analysisOf(
  { dialect, records }: Pick<SnapshotDevice, 'dialect' | 'records'>,
  mask: Mask,
): DeviceAnalysis {
  return new DeviceAnalysis(dialect, records.map(readRecordOf), mask)
}

function readRecordOf({ id, kind, tree, text, takenAt }: DeviceRecord): ReadRecord {
  return tree ? { id, kind, tree, takenAt } : { id, kind, tree, text, takenAt }
}

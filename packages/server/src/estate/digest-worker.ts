import { dialectById, EffectiveConfig, maskWithKey } from '@jurybox/core'
import { modelOfDevice } from '@jurybox/core/analysis'
import { judgedRecord } from '@jurybox/core/analysis'
import { digestOf } from '@jurybox/core/estate'
import { judgedDevice, compileScope } from '@jurybox/core/rules'
import { readOf, type TaskRecord } from '../audits/worker.ts'

/** Runs in a worker thread: reads the records of one device for the estate. */
export interface DigestTask {
  readonly dialect: string
  readonly records: readonly TaskRecord[]
  readonly maskKey: Uint8Array
}

/** The device as JSON; empty where no record of it can be read. */
export default function digestTask({ dialect: id, records, maskKey }: DigestTask): Uint8Array {
  const dialect = dialectById(id)
  const read = dialect ? digestOf(dialect, records.map(readOf), maskWithKey(maskKey)) : null
  return read ? new TextEncoder().encode(JSON.stringify(read)) : new Uint8Array()
}

/** Filters that read the device model, put to one device. */
export interface FilterTask extends DigestTask {
  readonly filters: readonly string[]
  /** What a filter knows of the device besides its model. */
  readonly names: Readonly<Record<string, unknown>>
}

export type FilterAnswer = { readonly inside: boolean | 'unknown'; readonly why: string | null }

export function filterTask({ dialect: id, records, maskKey, filters, names }: FilterTask): FilterAnswer[] {
  const dialect = dialectById(id)
  const read = records.map(readOf)
  const judged = dialect ? judgedRecord(read) : null
  if (!dialect || !judged) return filters.map(() => ({ inside: 'unknown', why: 'no record of it can be read' }))
  const held = EffectiveConfig.of(judged.tree, dialect)
  const mask = maskWithKey(maskKey)
  const device = judgedDevice({
    name: '',
    record: judged.id,
    held,
    model: () => modelOfDevice(held, judged, read, mask),
    records: read,
  })
  const known = { ...device.modelled().model, state: device.stated().state, ...names }
  return filters.map((filter) => {
    const { inside, why, term } = compileScope(filter)(known)
    return { inside, why: inside === 'unknown' ? (why ?? term) : null }
  })
}

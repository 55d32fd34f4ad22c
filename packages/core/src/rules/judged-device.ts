import { stateOfDevice } from '../analysis/index.ts'
import type { EffectiveConfig, ModelledDevice } from '../model/index.ts'
import type { ReadRecord, StateReading } from '../state/index.ts'
import { maskWithKey, type Mask } from '../syntax/index.ts'
import { OpaqueLines } from './opaque.ts'
import { Clock } from './clock.ts'
import type { CapturedOutput, JudgedDevice } from './judged.ts'

/** For devices that are judged without an engagement. */
const UNNAMED = maskWithKey(new Uint8Array(32))

/** The parts that a judged device is made of; a part that is left out is unknown. */
export interface DeviceParts extends Partial<
  Pick<JudgedDevice, 'listing' | 'others' | 'facts' | 'clock' | 'before' | 'estate'>
> {
  readonly name: string
  /** Of the configuration that is judged. */
  readonly record: string
  readonly effective: EffectiveConfig
  readonly model: () => ModelledDevice
  /** Made of the records where left out. */
  readonly state?: () => StateReading
  readonly mask?: Mask
  /** All records: the outputs among them are its state. */
  readonly records?: readonly ReadRecord[]
}

/** A device as rules see it. Its model and its state are made when a rule asks for them, and once. */
export function judgedDevice({
  name,
  record,
  effective,
  model,
  state,
  listing = 'ordinary',
  others = new Map(),
  facts = { labels: {} },
  clock = new Clock(0),
  before = null,
  estate = null,
  records = [],
  mask = UNNAMED,
}: DeviceParts): JudgedDevice {
  const modelled = once(model)
  const stated = once(state ?? ((): StateReading => stateOfDevice(records)))
  const outputs = once(() => outputsOf(records, stated))
  return {
    name,
    record,
    listing,
    effective,
    opaque: new OpaqueLines(effective.dialect, mask),
    memo: new Map(),
    others,
    facts,
    clock,
    before,
    estate,
    modelled,
    stated,
    outputs,
    kindOf: (id) => records.find((one) => one.id === id)?.kind ?? '',
  }
}

/** The outputs of commands, and the files that are no configuration. */
function outputsOf(records: readonly ReadRecord[], stated: () => StateReading): CapturedOutput[] {
  return records.flatMap(({ id, kind, takenAt }): CapturedOutput[] => {
    const own = kind.startsWith('state/')
    if (!own && !kind.startsWith('files/') && kind !== 'sockets' && kind !== 'sysctl') return []
    return [
      {
        record: id,
        kind: own ? kind.slice('state/'.length) : kind,
        takenAt: takenAt === undefined || takenAt === null ? null : Date.parse(takenAt),
        recognised: stated().records.find((read) => read.record === id)?.form !== null,
      },
    ]
  })
}

function once<T>(make: () => T): () => T {
  let made: { readonly value: T } | null = null
  return () => (made ??= { value: make() }).value
}

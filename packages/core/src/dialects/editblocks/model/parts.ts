import { partly, ignored, type Bound, type Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { partsOf } from '../paths.ts'

type Apply<T extends object> = (write: Writer<T>, values: readonly string[], bound: Bound) => unknown

/**
 * Mappings of the values of one block or entry.
 * @param of the writer of what the block is about
 * @param silent names of values on which no answer rests; any other that has no mapping stays unread
 */
export function valuesOf<T extends object>(
  block: string,
  of: (write: Writer<DeviceModel>, bound: Bound) => Writer<T>,
  fields: Readonly<Record<string, Apply<T>>>,
  silent = '',
): Mapping<DeviceModel>[] {
  return [
    ...Object.entries(fields).map(([name, apply]): Mapping<DeviceModel> => [
      `${block} set ${name} ...`,
      (w, b, s) => apply(of(w, b), partsOf(s.command.words).values, b),
    ]),
    // What is there and says nothing that is asked still says that there is such an entry.
    ...silent
      .split(/\s+/)
      .filter(Boolean)
      .map((name): Mapping<DeviceModel> => [`${block} set ${name} ...`, (w, b) => ignored(of(w, b))]),
    ...(block.endsWith('>') ? [[block, (w: Writer<DeviceModel>, b: Bound) => of(w, b)] as const] : []),
  ]
}

/** Of a value by which something is done, though not all of it is weighed. */
export const inPart = partly

export function isOn([value]: readonly string[]): boolean {
  return value === 'enable'
}

/** `10.0.0.0 255.255.0.0` or `10.0.0.0/16` as address and length; null where the mask is none. */
export function maskedAddress(values: readonly string[]): { address: string; length: number } | null {
  const [first = '', mask] = values
  const [address = '', length] = first.split('/')
  if (length !== undefined) return /^\d{1,3}$/.test(length) ? { address, length: Number(length) } : null
  if (mask === undefined) return { address, length: address.includes(':') ? 128 : 32 }
  const bits = mask
    .split('.')
    .map((part) => Number(part).toString(2).padStart(8, '0'))
    .join('')
  return /^1*0*$/.test(bits) && bits.length === 32 ? { address, length: bits.lastIndexOf('1') + 1 } : null
}

/** Places of entries by what their tables call them, while one device is read. */
const slots = new WeakMap<object, Map<string, number>>()

/** The entry of a list that an entry of a table speaks of, where the model has no name for it. */
export function inSlot<T extends object, E extends object>(
  w: Writer<T>,
  slot: string,
  at: { find(place: number): Writer<E> | null; add(): Writer<E>; readonly length: number },
): Writer<E> {
  let places = slots.get(w.provenance)
  if (!places) slots.set(w.provenance, (places = new Map()))
  const known = places.get(slot)
  const found = known === undefined ? null : at.find(known)
  if (found) return found
  places.set(slot, at.length)
  return at.add()
}

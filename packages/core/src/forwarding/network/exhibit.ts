import { originOf } from '../../model/index.ts'
import type { NetworkDevice } from './interfaces.ts'

/** Lines that something of a device rests on. */
export interface Exhibit {
  readonly device: string
  readonly record: string
  readonly from: number
  readonly to: number
}

/** The lines that a value of the model, or of the state, is from; none where no line states it. */
export function exhibitsOf(
  { device }: { readonly device: NetworkDevice },
  of: 'model' | 'state',
  path: string,
): Exhibit[] {
  const origins = of === 'model' ? device.modelled?.origins : device.reading.origins
  const origin = origins && originOf(origins, path)
  return origin?.kind === 'line'
    ? origin.lines.map(({ from, to }) => ({ device: device.name, record: origin.record, from, to: Math.max(from, to) }))
    : []
}

import { forwardingRulesOf, type ForwardingRules } from '../dialects/index.ts'
import { originOf } from '../model/index.ts'
import { portsOf, type NetworkDevice, type Port } from './ports.ts'
import { tablesOf, type RoutingTable } from './tables.ts'
import { unparsedOf, type Unparsed } from './unparsed.ts'

/** One device as it forwards, by itself: a function of its records alone. */
export interface ForwardingDevice {
  readonly name: string
  readonly dialect: string
  readonly rules: ForwardingRules
  readonly device: NetworkDevice
  readonly ports: readonly Port[]
  readonly tables: readonly RoutingTable[]
  /** Lines that were not understood and that packets may meet. */
  readonly unparsed: Unparsed
}

export function forwardingOf(device: NetworkDevice): ForwardingDevice {
  const ports = portsOf(device)
  return {
    name: device.name,
    dialect: device.dialect,
    rules: forwardingRulesOf(device.dialect),
    device,
    ports,
    tables: tablesOf(device, ports),
    unparsed: unparsedOf(device),
  }
}

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

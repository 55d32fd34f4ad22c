import { forwardingRulesOf, type ForwardingRules } from '../../dialects/index.ts'
import { portsOf, type NetworkDevice, type Port } from './ports.ts'
import { unparsedOf, type Unparsed } from './unparsed.ts'

/** One device as it forwards, by itself: a function of its records alone. */
export interface ForwardingDevice {
  readonly name: string
  readonly dialect: string
  readonly rules: ForwardingRules
  readonly device: NetworkDevice
  readonly ports: readonly Port[]
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
    unparsed: unparsedOf(device),
  }
}

import { forwardingRulesOf, type ForwardingRules } from '../../dialects/index.ts'
import { interfacesOf, type NetworkDevice, type DeviceInterface } from './interfaces.ts'
import { unparsedOf, type Unparsed } from './unparsed.ts'

/** One device as it forwards, by itself: a function of its records alone. */
export interface ForwardingDevice {
  readonly name: string
  readonly dialect: string
  readonly rules: ForwardingRules
  readonly device: NetworkDevice
  readonly interfaces: readonly DeviceInterface[]
  /** Lines that were not understood and that packets may meet. */
  readonly unparsed: Unparsed
}

export function forwardingOf(device: NetworkDevice): ForwardingDevice {
  const ports = interfacesOf(device)
  return {
    name: device.name,
    dialect: device.dialect,
    rules: forwardingRulesOf(device.dialect),
    device,
    interfaces: ports,
    unparsed: unparsedOf(device),
  }
}

import { canonicalAddress, portNames } from '../../model/index.ts'
import type { Network } from './network.ts'

/** What addresses are called where a configuration names them, and ports where the registry of IANA does (RFC 6335). */
export function namesIn(network: Network): {
  readonly hosts: Record<string, string>
  readonly ports: Record<string, string>
} {
  const hosts: Record<string, string> = {}
  for (const {
    device: { modelled },
  } of network.devices) {
    for (const { name, addresses } of modelled?.model.system.hosts ?? [])
      for (const address of addresses) hosts[canonicalAddress(address)] ??= name
  }
  for (const {
    name,
    device: { modelled },
  } of network.devices) {
    for (const port of modelled?.model.interfaces ?? [])
      for (const { address } of port.addresses) hosts[canonicalAddress(address)] ??= `${name} ${port.name}`
  }
  return { hosts, ports: portNames() }
}

import { forwardingRulesOf } from '../../dialects/index.ts'
import { addressWords, prefixMatch, type DeviceModel, type Family, type ModelledDevice } from '../../model/index.ts'
import { sameName } from '../../rules/index.ts'
import type { StateReading } from '../../state/index.ts'

/** What is known of one device of a network. */
export interface NetworkDevice {
  readonly name: string
  readonly dialect: string
  /** Null where no record of it could be read. */
  readonly modelled: ModelledDevice | null
  readonly reading: StateReading
  readonly site?: string | undefined
  readonly labels?: Readonly<Record<string, string | number | boolean>> | undefined
  readonly managementAddress?: string | undefined
}

export interface InterfaceAddress {
  readonly text: string
  readonly words: readonly number[]
  readonly length: number
  readonly family: Family
}

/** Why an interface is down: by configuration, or when it was captured. */
export type Down = 'switched-off' | 'down-when-captured'

export const DOWN_WORDS: Readonly<Record<Down, string>> = {
  'switched-off': 'it is disabled',
  'down-when-captured': 'it was down when its state was captured',
}

/** An interface that packets of the network layer come in or go out by. */
export interface DeviceInterface {
  readonly name: string
  /** Its place in the model; -1 where only the state names it. */
  readonly at: number
  /** Why it is down; null where it is up, or nothing says otherwise. */
  readonly down: Down | null
  readonly addresses: readonly InterfaceAddress[]
  /** Addresses of redundancy groups, which it may answer for. */
  readonly shared: readonly InterfaceAddress[]
  readonly vrf: string | null
  readonly zone: string | null
  readonly kind: DeviceModel['interfaces'][number]['kind'] | null
  readonly mtu: number | null
}

export function portAddress(address: string, length: number): InterfaceAddress | null {
  const family = address.includes(':') ? 'ipv6' : 'ipv4'
  const words = addressWords(address, family)
  return words ? { text: address, words, length, family } : null
}

export function interfacesOf({ modelled, reading, dialect }: NetworkDevice): DeviceInterface[] {
  const { interfaces: states } = reading.state
  const stated = modelled?.model.interfaces ?? []
  const fromModel = stated.map((one, at): DeviceInterface => {
    const state = states.find(({ name }) => name === one.name) ?? states.find(({ name }) => sameName(name, one.name))
    const own = one.addresses.flatMap(({ address, prefixLength }) => portAddress(address, prefixLength) ?? [])
    // An address from DHCP is only in the state.
    const drawn =
      own.length > 0 || !state
        ? []
        : state.addresses.flatMap((text) => portAddress(text.split('/')[0] ?? '', Number(text.split('/')[1])) ?? [])
    const unnumbered = /^unnumbered (.+)$/.exec(one.addressBy ?? '')?.[1]
    const borrowed =
      unnumbered === undefined
        ? []
        : (stated.find(({ name }) => sameName(unnumbered, name))?.addresses ?? []).flatMap(
            ({ address, family }) => portAddress(address, family === 'ipv4' ? 32 : 128) ?? [],
          )
    return {
      name: one.name,
      at,
      vrf: one.vrf,
      zone: one.zone,
      kind: one.kind,
      mtu: one.mtu ?? state?.mtu ?? null,
      down: one.enabled === false ? 'switched-off' : state?.oper === 'down' ? 'down-when-captured' : null,
      addresses: [...own, ...drawn, ...borrowed],
      shared: one.redundancy.flatMap(({ address }) => (address === null ? [] : (portAddress(address, 32) ?? []))),
    }
  })
  if (forwardingRulesOf(dialect).tables === 'vrf' || stated.length > 0) return fromModel
  return states.map(({ name, oper, addresses, mtu }) => ({
    name,
    at: -1,
    vrf: null,
    zone: null,
    kind: null,
    mtu,
    down: oper === 'down' ? 'down-when-captured' : null,
    addresses: addresses.flatMap((text) => portAddress(text.split('/')[0] ?? '', Number(text.split('/')[1])) ?? []),
    shared: [],
  }))
}

/** The interface with a name, written in full or abbreviated. */
export function interfaceNamed<P extends { readonly name: string }>(ports: readonly P[], name: string): P | undefined {
  return ports.find((port) => port.name === name) ?? ports.find((port) => sameName(name, port.name))
}

/** Whether an address is in the subnet of another. */
export function inSubnet(words: readonly number[], { words: own, length }: InterfaceAddress): boolean {
  if (own.length !== words.length) return false
  const [a, b] = [prefixMatch(own, length).value, prefixMatch(words, length).value]
  return a.every((word, i) => word === b[i])
}

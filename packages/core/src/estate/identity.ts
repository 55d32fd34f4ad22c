import { canonicalAddress } from '../model/index.ts'

/** What is known of a device that belongs to the estate already. */
export interface KnownDevice {
  readonly name: string
  readonly serial: string | null
  /** Addresses of its interfaces. */
  readonly addresses: readonly string[]
  /** Where it is reached, as `address:port`; null where nobody said. */
  readonly reachedAt: string | null
  /** Where it was seen last, as a neighbour of whom; empty where that is not known. */
  readonly neighbourOf?: readonly string[]
}

/** What a discovery found at one address. */
export interface FoundDevice {
  readonly name: string
  readonly reachedAt: string
  readonly dialect: string
  readonly model: string | null
  readonly version: string | null
  readonly serial: string | null
  readonly addresses: readonly string[]
  /** Devices that see it as a neighbour. */
  readonly neighbourOf: readonly string[]
}

/**
 * `appeared`: a device that the estate does not have; `known`: one that it has, where it was; `moved`: one that it has,
 * reached or connected elsewhere; `replaced`: other hardware in the place of one that it has; `duplicate`: perhaps one
 * that it has, or that was found already, under another name.
 */
export type SightingKind = 'appeared' | 'known' | 'moved' | 'replaced' | 'duplicate'

export interface Sighting {
  readonly kind: SightingKind
  readonly found: FoundDevice
  /** The device that it is, or is taken for; its name when it appeared. */
  readonly as: string
  readonly why: string
}

/** Addresses that many devices have, and that identify none. */
function tells(address: string): boolean {
  return !/^(?:127\.|::1$|169\.254\.|fe80:|0\.0\.0\.0$)/i.test(address)
}

/**
 * Says of each device that was found what it is to the estate. Serial numbers decide before names, names before
 * addresses. What one device of the estate has been recognised as is not given to a second one: that is a duplicate.
 */
export function recognise(found: readonly FoundDevice[], known: readonly KnownDevice[]): Sighting[] {
  const bySerial = indexed(known, ({ serial }) => (serial === null ? [] : [serial]))
  const byName = indexed(known, ({ name }) => [name.toLowerCase()])
  const byAddress = indexed(known, ({ addresses }) => addresses.filter(tells).map(canonicalAddress))
  const before: FoundDevice[] = []
  const taken = new Map<string, FoundDevice>()
  return found.map((one): Sighting => {
    const sighting = sightingOf(one)
    before.push(one)
    if (sighting.kind !== 'duplicate' && sighting.kind !== 'appeared') taken.set(sighting.as, one)
    return sighting
  })

  function sightingOf(one: FoundDevice): Sighting {
    const twin = before.find((other) => one.serial !== null && other.serial === one.serial)
    if (twin)
      return {
        kind: 'duplicate',
        found: one,
        as: twin.name,
        why: `${twin.name}, found at ${twin.reachedAt}, has the same serial number ${one.serial}`,
      }
    const same = one.serial === null ? undefined : bySerial.get(one.serial)
    if (same) return sameHardware(one, same)
    const named = byName.get(one.name.toLowerCase())
    if (named) {
      if (taken.has(named.name))
        return {
          kind: 'duplicate',
          found: one,
          as: named.name,
          why: `${named.name} was found at ${taken.get(named.name)?.reachedAt} already`,
        }
      if (one.serial !== null && named.serial !== null)
        return {
          kind: 'replaced',
          found: one,
          as: named.name,
          why: `${named.name} had the serial number ${named.serial} before, now ${one.serial}`,
        }
      return place(one, named, 'name')
    }
    const shared = one.addresses.filter(tells).map(canonicalAddress)
    const twice = before.find(({ addresses }) =>
      shared.some((address) => addresses.map(canonicalAddress).includes(address)),
    )
    if (twice)
      return {
        kind: 'duplicate',
        found: one,
        as: twice.name,
        why:
          `${twice.name}, found at ${twice.reachedAt}, has an address of it: ` +
          `${shared.find((address) => twice.addresses.map(canonicalAddress).includes(address))}`,
      }
    const at = shared.map((address) => byAddress.get(address)).find((device) => device !== undefined)
    if (at) {
      const which = shared.find((address) => byAddress.get(address) === at)
      return !taken.has(at.name) && one.reachedAt === at.reachedAt && one.serial !== null && at.serial !== null
        ? {
            kind: 'replaced',
            found: one,
            as: at.name,
            why: `it stands at the address of ${at.name} (${which}) with another serial number and another name`,
          }
        : { kind: 'duplicate', found: one, as: at.name, why: `${at.name} has an address of it: ${which}` }
    }
    return {
      kind: 'appeared',
      found: one,
      as: one.name,
      why: 'no device in the inventory has its serial number, name or addresses',
    }
  }

  function sameHardware(one: FoundDevice, device: KnownDevice): Sighting {
    if (taken.has(device.name))
      return {
        kind: 'duplicate',
        found: one,
        as: device.name,
        why: `${device.name} was found at ${taken.get(device.name)?.reachedAt} already`,
      }
    return place(one, device, `serial number ${device.serial}`)
  }

  function place(one: FoundDevice, device: KnownDevice, by: string): Sighting {
    if (device.reachedAt !== null && device.reachedAt !== one.reachedAt)
      return {
        kind: 'moved',
        found: one,
        as: device.name,
        why: `the same ${by}, reached at ${one.reachedAt} instead of ${device.reachedAt}`,
      }
    const [was, is] = [device.neighbourOf ?? [], one.neighbourOf]
    if (was.length > 0 && is.length > 0 && !was.some((name) => is.includes(name)))
      return {
        kind: 'moved',
        found: one,
        as: device.name,
        why: `the same ${by}, a neighbour of ${is.join(', ')} instead of ${was.join(', ')}`,
      }
    return { kind: 'known', found: one, as: device.name, why: `the same ${by}` }
  }
}

/** Devices of the estate that were looked for and not found. */
export function vanishedOf(sightings: readonly Sighting[], looked: readonly KnownDevice[]): KnownDevice[] {
  const seen = new Set(sightings.flatMap(({ kind, as }) => (kind === 'appeared' || kind === 'duplicate' ? [] : [as])))
  return looked.filter(({ name }) => !seen.has(name))
}

function indexed(
  known: readonly KnownDevice[],
  keysOf: (device: KnownDevice) => readonly string[],
): Map<string, KnownDevice> {
  const index = new Map<string, KnownDevice>()
  for (const device of known) for (const key of keysOf(device)) if (!index.has(key)) index.set(key, device)
  return index
}

import { NOTHING } from '../../headers/index.ts'
import { prefixMatch } from '../../model/index.ts'
import type { Walker } from '../engine/walk.ts'
import type { Place } from './place.ts'
import { ownAddresses } from './places.ts'
import { firstPackets, reach } from './reach.ts'
import type { Step } from './survey.ts'

/** Whether packets that begin a connection reach a device itself from a place. */
export type Exposed = 'yes' | 'no' | 'undecided'

/** By device, from which of some places it is reached, in their order. */
export function exposureOf(walker: Walker, places: readonly Place[], step?: Step): Map<string, Exposed[]> {
  const { network } = walker
  const { addressed } = network
  const to: Place = { text: 'devices', origins: [], destinations: ownAddresses(network, 'destination') }
  const own = network.devices.map(({ name, interfaces }) => ({
    name,
    set: addressed.any(
      interfaces.flatMap(({ addresses, shared }) => [...addresses, ...shared]),
      ({ words }) => addressed.address('destination', prefixMatch(words, words.length * 32)),
    ),
  }))
  const exposed = new Map(own.map(({ name }) => [name, places.map((): Exposed => 'no')]))
  places.forEach((from, i) => {
    step?.(i, places.length)
    const { parts } = reach(walker, from, to, firstPackets(network))
    for (const { name, set } of own) {
      const met = parts.filter((part) => part.set !== NOTHING && addressed.diagrams.meet(part.set, set))
      const arrives = met.some(({ fate, device }) => fate === 'arrives' && device === name)
      const row = exposed.get(name)
      if (row) row[i] = arrives ? 'yes' : met.some(({ fate }) => fate === 'undecided') ? 'undecided' : 'no'
    }
  })
  return exposed
}

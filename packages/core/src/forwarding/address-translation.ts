import type { Family } from '../model/index.ts'
import { NOTHING, type Circumstance } from '../headers/index.ts'
import type { CompiledDevice } from './compiled.ts'
import { SidedTranslations } from './sided-translations.ts'
import { Translations, type Translated, type Undoing } from './translations.ts'
import { ZonedTranslations } from './zoned-translations.ts'

/**
 * Translation of addresses as the dialect of a device states it: chains of a kernel, sides of ports, or rules between
 * zones.
 */
export class AddressTranslation {
  readonly #chains: Translations
  readonly #sided: SidedTranslations
  readonly #zoned: ZonedTranslations

  constructor(
    readonly compiled: CompiledDevice,
    zoneOf: (port: number) => string | null,
  ) {
    this.#chains = new Translations(compiled)
    this.#sided = new SidedTranslations(compiled)
    this.#zoned = new ZonedTranslations(compiled, zoneOf)
  }

  /** What becomes of packets; null where nothing translates between these ports. */
  meet(
    changes: 'source' | 'destination',
    inPort: number,
    outPort: number,
    set: number,
    circumstance: Circumstance,
  ): readonly Translated[] | null {
    const { device } = this.compiled
    if (device.rules.translation === 'sides') return this.#sided.meet(changes, inPort, outPort, set, circumstance)
    if (device.rules.translation === 'zones') return this.#zoned.meet(changes, inPort, outPort, set)
    const port = changes === 'source' ? outPort : inPort
    const addresses = (family: Family): (readonly number[])[] =>
      (device.ports[port]?.addresses ?? []).filter((address) => address.family === family).map(({ words }) => words)
    return this.#chains.meet(changes === 'destination' ? 'PREROUTING' : 'POSTROUTING', set, circumstance, addresses)
  }

  /** Answers to what was translated get back what was written over; the rest of them goes on as it is. */
  undo(changes: 'source' | 'destination', set: number, remembered: readonly Undoing[]): readonly Translated[] {
    const { headers } = this.compiled.network
    const { diagrams } = headers
    const undoings = remembered.filter((one) => one.changes === changes)
    const rest = diagrams.minus(
      set,
      headers.any(undoings, ({ met }) => met),
    )
    const parts = undoings.map((undone): Translated => ({
      set: diagrams.and(set, undone.met),
      rewrite: undone.rewrite,
      doubt: null,
      rule: undone.rule,
      undone,
    }))
    return [{ set: rest, rewrite: null, doubt: null, rule: -1 }, ...parts].filter((part) => part.set !== NOTHING)
  }
}

import type { Family } from '../model/index.ts'
import { NOTHING, type Circumstance } from '../headers/index.ts'
import type { CompiledDevice } from './compiled.ts'
import type { Branch } from './passage-run.ts'
import { PolicyTranslations } from './policy-translations.ts'
import { RuleTranslations } from './rule-translations.ts'
import { SidedTranslations } from './sided-translations.ts'
import { Translations, type Translated, type Undoing } from './translations.ts'
import type { ZonePolicies } from './zones.ts'
import { ZonedTranslations } from './zoned-translations.ts'

/**
 * Translation of addresses as the dialect of a device states it: chains of a kernel, sides of ports, rules between
 * zones, what policies say, or one list of rules.
 */
export class AddressTranslation {
  readonly #chains: Translations
  readonly #sided: SidedTranslations
  readonly #zoned: ZonedTranslations
  readonly #policies: PolicyTranslations
  readonly #rules: RuleTranslations

  constructor(
    readonly compiled: CompiledDevice,
    zones: ZonePolicies,
  ) {
    this.#chains = new Translations(compiled)
    this.#sided = new SidedTranslations(compiled)
    this.#zoned = new ZonedTranslations(compiled, (port) => zones.zoneOf(port))
    this.#policies = new PolicyTranslations(compiled, zones)
    this.#rules = new RuleTranslations(compiled, zones)
  }

  /** What becomes of packets; null where nothing translates between these ports. */
  meet(changes: 'source' | 'destination', branch: Branch, circumstance: Circumstance): readonly Translated[] | null {
    const { device } = this.compiled
    const { inPort, outPort, set } = branch
    if (device.rules.translation === 'policies') return this.#policies.meet(changes, branch)
    if (device.rules.translation === 'rules') return this.#rules.meet(changes, branch)
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

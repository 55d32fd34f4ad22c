import type { ForwardingRules } from '../../../dialects/index.ts'
import { NOTHING, type MatchContext } from '../../../headers/index.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { Branch } from '../branch.ts'
import type { ZonePolicies } from '../zones/zone-policies.ts'
import { ChainTranslations } from './chains.ts'
import { PolicyTranslations } from './policies.ts'
import { RuleTranslations } from './rules.ts'
import { SidedTranslations } from './sides.ts'
import type { Side, Translated, Translator } from './translated.ts'
import type { ReverseTranslation } from '../rewrite.ts'
import { ZonedTranslations } from './zones.ts'

/** The ways in which dialects state translation, one file each. */
const TRANSLATORS: {
  readonly [Way in ForwardingRules['translation']]: (compiled: CompiledDevice, zones: ZonePolicies) => Translator
} = {
  chains: (compiled) => new ChainTranslations(compiled),
  sides: (compiled) => new SidedTranslations(compiled),
  zones: (compiled, zones) => new ZonedTranslations(compiled, (port) => zones.zoneOf(port)),
  policies: (compiled, zones) => new PolicyTranslations(compiled, zones),
  rules: (compiled, zones) => new RuleTranslations(compiled, zones),
}

/** Translation of addresses as the dialect of a device states it. */
export class AddressTranslation {
  readonly #translator: Translator

  constructor(
    readonly compiled: CompiledDevice,
    zones: ZonePolicies,
  ) {
    this.#translator = TRANSLATORS[compiled.device.rules.translation](compiled, zones)
  }

  /** What becomes of packets; null where nothing translates between these interfaces. */
  meet(changes: Side, branch: Branch, context: MatchContext): readonly Translated[] | null {
    return this.#translator.meet(changes, branch, context)
  }

  /** Answers to translated packets are translated back; others are not changed. */
  undo(changes: Side, set: number, remembered: readonly ReverseTranslation[]): readonly Translated[] {
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

import type { Branch } from './branch.ts'
import type { Context } from './context.ts'
import type { MatchContext } from '../../headers/index.ts'
import type { CompiledDevice } from './compiled.ts'
import type { Exhibit } from '../network/exhibit.ts'
import type { Fate, Reason } from './fates.ts'
import type { ReverseTranslation } from './rewrite.ts'

/** Where packets of one device end, go on, and what was decided of them. */
export interface PassageOutcome {
  end(fate: Fate, reason: Reason, port: number, set: number, context: Context | null): void
  /** @param by the entry of a map that protects it on its way; -1: none */
  send(outInterface: number, device: number, port: number, set: number, context: Context | null, by: number): void
  change(change: Pick<Context, 'parent' | 'rule' | 'rewrite' | 'undone'>, before: number): Context
  /**
   * Told of every decision in turn, with the lines that it rests on, and whether it stops packets; absent where nobody
   * asks.
   */
  decided?(stage: string, result: string, exhibits: readonly Exhibit[], stops: boolean): void
  /** Told where one of several ways out begins: what is decided from here on is of that way alone. */
  parted?(): void
}

/** One device with packets before it: what every stage needs to know, and to whom it tells what it decides. */
export class PassageRun {
  constructor(
    readonly compiled: CompiledDevice,
    /** The reverse translation of the packets that these answer; null: it kept no session for them. */
    readonly remembered: readonly ReverseTranslation[] | null,
    /** Whether they came protected by a map. */
    readonly unwrapped: boolean,
    /** Whether they are answers, for which a stateful device needs a session. */
    readonly answers: boolean,
    readonly outcome: PassageOutcome,
  ) {}

  get headers(): CompiledDevice['network']['headers'] {
    return this.compiled.network.headers
  }

  context({ inInterface, outInterface, local }: Branch): MatchContext {
    const { interfaces: ports } = this.compiled.device
    return {
      inInterface: ports[inInterface]?.name ?? null,
      outInterface: local ? null : (ports[outInterface]?.name ?? null),
      connection: this.remembered ? 'established' : 'new',
    }
  }

  end(fate: Fate, reason: Reason, { outInterface, inInterface, set, context }: Branch): void {
    this.outcome.end(fate, reason, outInterface >= 0 ? outInterface : inInterface, set, context)
  }

  decided(stage: string, result: string, exhibits: readonly Exhibit[], stops = false): void {
    this.outcome.decided?.(stage, result, exhibits, stops)
  }
}

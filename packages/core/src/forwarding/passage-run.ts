import type { Circumstance } from '../headers/index.ts'
import type { CompiledDevice } from './compiled.ts'
import type { Exhibit } from './device.ts'
import type { Fate, Reason } from './fates.ts'
import type { Rewrite, Undoing } from './translations.ts'

/** Packets that were changed on their way: how, and those that were, so that it can be told how they were sent. */
export interface Context {
  readonly id: number
  readonly parent: Context | null
  readonly device: number
  /** The rule in its model by which they were. */
  readonly rule: number
  readonly rewrite: Rewrite
  /** Where answers got back what was written over. */
  readonly undone: Undoing | null
  /** The headers that came to be changed, as they were before. Grows while packets still come. */
  before: number
}

/** Where packets of one device end, go on, and what was decided of them. */
export interface PassageOutcome {
  end(fate: Fate, reason: Reason, port: number, set: number, context: Context | null): void
  /** @param by the entry of a map that protects it on its way; -1: none */
  send(outPort: number, device: number, port: number, set: number, context: Context | null, by: number): void
  change(change: Pick<Context, 'parent' | 'rule' | 'rewrite' | 'undone'>, before: number): Context
  /**
   * Told of every decision in turn, with the lines that it rests on, and whether it stops packets; absent where nobody
   * asks.
   */
  decided?(stage: string, result: string, exhibits: readonly Exhibit[], stops: boolean): void
  /** Told where one of several ways out begins: what is decided from here on is of that way alone. */
  parted?(): void
}

/** Packets of one way through a device. */
export interface Branch {
  readonly set: number
  readonly context: Context | null
  readonly inPort: number
  readonly vrf: string | null
  readonly outPort: number
  /** Null: the destination itself is next door. */
  readonly gateway: string | null
  /** To the device itself. */
  readonly local: boolean
  /** The rule of this device by which their destination was translated; -1: it was not. */
  readonly translatedBy: number
}

/** One device with packets before it: what every stage needs to know, and to whom it tells what it decides. */
export class PassageRun {
  constructor(
    readonly compiled: CompiledDevice,
    /** What it translated of packets that these answer and that it let through; null: it let none through. */
    readonly remembered: readonly Undoing[] | null,
    /** Whether they came protected by a map. */
    readonly unwrapped: boolean,
    /** Whether they answer others, so that whoever keeps sessions has to have seen those. */
    readonly answers: boolean,
    readonly outcome: PassageOutcome,
  ) {}

  get headers(): CompiledDevice['network']['headers'] {
    return this.compiled.network.headers
  }

  circumstance({ inPort, outPort, local }: Branch): Circumstance {
    const { ports } = this.compiled.device
    return {
      inInterface: ports[inPort]?.name ?? null,
      outInterface: local ? null : (ports[outPort]?.name ?? null),
      connection: this.remembered ? 'established' : 'new',
    }
  }

  end(fate: Fate, reason: Reason, { outPort, inPort, set, context }: Branch): void {
    this.outcome.end(fate, reason, outPort >= 0 ? outPort : inPort, set, context)
  }

  decided(stage: string, result: string, exhibits: readonly Exhibit[], stops = false): void {
    this.outcome.decided?.(stage, result, exhibits, stops)
  }
}

import type { Fate, Reason } from '../pipeline/fates.ts'
import type { Context } from '../pipeline/context.ts'
import type { ReverseTranslation } from '../pipeline/rewrite.ts'

/** Where packets begin: they come in by an interface of a device, or the device sends them itself (`port` -1). */
export interface Origin {
  readonly device: number
  readonly port: number
  readonly set: number
}

/** Where packets end: with the headers that they were sent with, and those that they end with. */
export interface Ending {
  readonly fate: Fate
  readonly reason: Reason
  readonly device: number
  readonly port: number
  readonly sent: number
  readonly ended: number
  /** How they were changed on their way. */
  readonly context: Context | null
}

/** Of packets that are answered: the devices that let their answers through, with what each translated of them. */
export type SessionState = ReadonlyMap<number, readonly ReverseTranslation[]>

/** Packets that go from one device to the next. */
export interface Crossing {
  readonly from: { readonly device: number; readonly port: number }
  readonly to: { readonly device: number; readonly port: number }
  /** The entry of a map that protects them; -1: none. */
  readonly by: number
  readonly set: number
}

export interface Walked {
  readonly endings: readonly Ending[]
  readonly crossings: readonly Crossing[]
}

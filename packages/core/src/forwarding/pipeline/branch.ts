import type { Context } from './context.ts'

/** Packets of one way through a device. */
export interface Branch {
  readonly set: number
  readonly context: Context | null
  readonly inInterface: number
  readonly vrf: string | null
  readonly outInterface: number
  /** Null: the destination itself is next door. */
  readonly gateway: string | null
  /** To the device itself. */
  readonly local: boolean
  /** The rule of this device by which their destination was translated; -1: it was not. */
  readonly translatedBy: number
}

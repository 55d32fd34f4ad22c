import type { EffectiveConfig, ModelledDevice } from '../model/index.ts'
import type { StateReading } from '../state/index.ts'
import type { Clock } from './clock.ts'
import type { EstateView } from './estate.ts'
import type { OpaqueLines } from './opaque.ts'

/** What people and snapshots say of a device, as scopes ask for it. */
export interface DeviceContext {
  readonly labels: Readonly<Record<string, string | number | boolean>>
  readonly groups?: readonly string[] | undefined
  readonly site?: string | undefined
  /** The site and the sites around it. */
  readonly sites?: readonly string[] | undefined
  readonly role?: string | undefined
  readonly model?: string | undefined
  readonly os?: string | undefined
  readonly version?: string | undefined
  /**
   * Whether it runs an approved version: `on` the list, `off` it, `none` where there is no list, `unknown` where its
   * version is not known.
   */
  readonly approved?: 'on' | 'off' | 'none' | 'unknown' | undefined
}

/** An output of a device: when it was taken, and whether a form of it was recognised. */
export interface CapturedOutput {
  readonly record: string
  readonly kind: string
  readonly takenAt: number | null
  readonly recognised: boolean
}

/** A device as rules see it: its running configuration and, by kind, what else was captured. */
export interface JudgedDevice {
  readonly name: string
  readonly facts: DeviceContext
  readonly clock: Clock
  /** The state that its outputs show; read when first asked for. */
  stated(): StateReading
  outputs(): readonly CapturedOutput[]
  /** The kind of one of its records; empty where it is none of them. */
  kindOf(record: string): string
  /** The same device in the snapshot that this one is compared with; null where there is none. */
  readonly before: JudgedDevice | null
  /** Null while the questions across devices have not been put to all of them. */
  readonly estate: EstateView | null
  readonly record: string
  /** Whether the configuration shows defaults; then what it does not state does not exist. */
  readonly listing: 'ordinary' | 'full'
  readonly effective: EffectiveConfig
  /** Its lines as conditions compare them. */
  readonly opaque: OpaqueLines
  /** What questions about it have found out (`memoOf`). */
  readonly memo: Map<object, unknown>
  /** The device model; made when first asked for. */
  modelled(): ModelledDevice
  readonly others: ReadonlyMap<string, { readonly record: string; readonly effective: EffectiveConfig }>
}

/** Names that expressions and notes can use. The values of the benchmark are their prototype, shared by all. */
export type Names = Record<string, unknown>

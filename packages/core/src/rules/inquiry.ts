import { lastLineOf, type Scope } from '../syntax/index.ts'
import type { StateReading } from '../state/index.ts'
import type { Clock } from './clock.ts'
import type { EstateView } from './estate.ts'
import { searched, type Place } from './evidence.ts'
import type { OpaqueLines } from './opaque.ts'
import { namesWithin } from './names.ts'
import { NO_NAMES, type Bindings, type AccessLists, type HeldConfig, type ModelledDevice } from '../model/index.ts'

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
  /** What it was doing; read when first asked for. */
  stated(): StateReading
  outputs(): readonly CapturedOutput[]
  /** The kind of one of its records; empty where it is none of them. */
  kindOf(record: string): string
  /** The same device in the snapshot that this one is compared with; null where there is none. */
  readonly before: JudgedDevice | null
  /** Null while the questions across devices have not been put to all of them. */
  readonly estate: EstateView | null
  readonly record: string
  /** Whether the configuration that is judged shows defaults: then what is silent is not there at all. */
  readonly listing: 'ordinary' | 'full'
  readonly held: HeldConfig
  /** Its lines as conditions compare them. */
  readonly opaque: OpaqueLines
  /** The device model; made when first asked for. */
  modelled(): ModelledDevice
  /** Its access lists, in whatever dialect; read when first asked for. */
  accessLists(): AccessLists
  readonly others: ReadonlyMap<string, { readonly record: string; readonly held: HeldConfig }>
}

/**
 * Names by which expressions and notes know things. The benchmark's values lie beneath as the prototype, shared by all.
 */
export type Names = Record<string, unknown>

const NO_PATHS: Readonly<Record<string, string>> = Object.freeze({})

/** One evaluation: where it looks, and the names bound so far (a condition may add to them). */
export class Inquiry {
  #names: Names | null = null

  constructor(
    readonly device: JudgedDevice,
    readonly scope: Scope,
    /** Names of what is around it; they stay as they are. */
    readonly around: Names,
    /** Names of its own. */
    readonly own: Bindings = NO_NAMES,
    /** Of names that stand for an entry of the model: its path. */
    readonly paths: Readonly<Record<string, string>> = NO_PATHS,
  ) {}

  /** A list of its own, made when first asked for: most evaluations end without a name being read. */
  get names(): Names {
    this.#names ??= namesWithin(this.around, this.own)
    return this.#names
  }

  /** What has been bound here, and what was bound when it was opened. */
  get ownNames(): Bindings {
    return this.#names ?? this.own
  }

  /** A block within: what is bound there stays there until it is taken over. */
  into(scope: Scope, names: Bindings): Inquiry {
    return new Inquiry(this.device, scope, this.names, names, this.paths)
  }

  bind(names: Bindings): void {
    if (names !== NO_NAMES) Object.assign(this.names, names)
  }

  /** The same evaluation in another place: what is bound there is bound here. */
  within(scope: Scope): Inquiry {
    const other = new Inquiry(this.device, scope, this.around, NO_NAMES, this.paths)
    other.#names = this.names
    return other
  }

  /** Whether lines that are not here may stand in the part of the record that was not captured. */
  get mayHideLines(): boolean {
    const { faults } = this.device.held.tree
    if (faults.length === 0) return false
    if (this.scope.openers.length === 0) return true
    return this.scope.openers.some((node) =>
      faults.some((fault) => fault.line >= node.line && fault.line <= lastLineOf(node) + 1),
    )
  }

  whole(): Place[] {
    return searched(this.device.record, this.device.held.tree, this.scope.openers)
  }
}

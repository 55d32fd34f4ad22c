import { lastLineOf, type Scope } from '../config/index.ts'
import { searched, type Place } from './evidence.ts'
import { NO_NAMES, type Bindings, type AccessLists, type HeldConfig, type ModelledDevice } from '../model/index.ts'

/** A device as rules see it: its running configuration and, by kind, what else was captured. */
export interface JudgedDevice {
  readonly name: string
  readonly record: string
  /** Whether the configuration that is judged shows defaults: then what is silent is not there at all. */
  readonly listing: 'ordinary' | 'full'
  readonly held: HeldConfig
  /** The device model; made when first asked for. */
  modelled(): ModelledDevice
  /** Its access lists, in whatever dialect; read when first asked for. */
  accessLists(): AccessLists
  readonly others: ReadonlyMap<string, { readonly record: string; readonly held: HeldConfig }>
}

/** Names by which expressions and notes know things. The benchmark's values lie beneath as the prototype, shared by all. */
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
    return this.scope.openers.some((node) => faults.some((fault) => fault.line >= node.line && fault.line <= lastLineOf(node) + 1))
  }

  whole(): Place[] {
    return searched(this.device.record, this.device.held.tree, this.scope.openers)
  }
}

/** A copy of some names, with more of them. */
export function namesWithin(around: Names, ...more: readonly Bindings[]): Names {
  const names = Object.create(Object.getPrototypeOf(around) as object) as Names
  return Object.assign(names, around, ...more)
}

import type { JudgedDevice, Names } from './judged.ts'
import { lastLineOf, type Scope } from '../syntax/index.ts'
import { searched, type CitedRange } from './evidence.ts'
import { namesWithin } from './names.ts'
import { NO_NAMES, type Bindings } from '../model/index.ts'

const NO_PATHS: Readonly<Record<string, string>> = Object.freeze({})

/** One evaluation: where it looks, and the names bound so far (a condition may add to them). */
export class EvaluationContext {
  #names: Names | null = null

  constructor(
    readonly device: JudgedDevice,
    readonly scope: Scope,
    /** Names of the surrounding evaluation; they do not change. */
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

  /** An evaluation of a block within this one: what is bound there stays there until it is taken over. */
  into(scope: Scope, names: Bindings): EvaluationContext {
    return new EvaluationContext(this.device, scope, this.names, names, this.paths)
  }

  bind(names: Bindings): void {
    if (names !== NO_NAMES) Object.assign(this.names, names)
  }

  /** The same evaluation in another place: what is bound there is bound here. */
  within(scope: Scope): EvaluationContext {
    const other = new EvaluationContext(this.device, scope, this.around, NO_NAMES, this.paths)
    other.#names = this.names
    return other
  }

  /** Whether lines that are not here may stand in the part of the record that was not captured. */
  get mayHideLines(): boolean {
    const { faults } = this.device.effective.tree
    if (faults.length === 0) return false
    if (this.scope.openers.length === 0) return true
    return this.scope.openers.some((node) =>
      faults.some((fault) => fault.line >= node.line && fault.line <= lastLineOf(node) + 1),
    )
  }

  whole(): CitedRange[] {
    return searched(this.device.record, this.device.effective.tree, this.scope.openers)
  }
}

/** Values that a line marks as secret must not reach a note. */
export function maskedIn({ device, scope }: EvaluationContext): (value: string) => string {
  return (value) => (scope.secrets(device.effective.dialect).has(value) ? '‹secret›' : value)
}

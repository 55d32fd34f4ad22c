import { lastLineOf, type Scope } from '../config/index.ts'
import type { DeviceModel } from '../model/index.ts'
import { searched, type Place } from './evidence.ts'

/** A device as rules see it: its running configuration and, by kind, what else was captured. */
export interface JudgedDevice {
  readonly name: string
  readonly record: string
  readonly model: DeviceModel
  readonly others: ReadonlyMap<string, { readonly record: string; readonly model: DeviceModel }>
}

/** One evaluation: where it looks, and the names bound so far (a condition may add to them). */
export class Inquiry {
  constructor(
    readonly device: JudgedDevice,
    readonly scope: Scope,
    readonly names: Record<string, unknown>,
  ) {}

  within(scope: Scope): Inquiry {
    return new Inquiry(this.device, scope, this.names)
  }

  /** Whether lines that are not here may stand in the part of the record that was not captured. */
  get mayHideLines(): boolean {
    const { faults } = this.device.model.tree
    if (faults.length === 0) return false
    if (this.scope.openers.length === 0) return true
    return this.scope.openers.some((node) => faults.some((fault) => fault.line >= node.line && fault.line <= lastLineOf(node) + 1))
  }

  whole(): Place[] {
    return searched(this.device.record, this.device.model.tree, this.scope.openers)
  }
}

/** A copy of some names, to bind more without a trace. The benchmark's values lie beneath as the prototype, shared by all. */
export function namesWithin(names: Record<string, unknown>): Record<string, unknown> {
  return Object.assign(Object.create(Object.getPrototypeOf(names) as object) as Record<string, unknown>, names)
}

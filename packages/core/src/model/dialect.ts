import type { Scope, Syntax } from '../syntax/index.ts'
import type { Default } from './defaults.ts'
import type { Pattern } from './pattern.ts'
import type { DeviceModel } from './schema/index.ts'
import type { TableAt } from './tables.ts'
import type { Writer } from './writer.ts'

/** How the effective configuration of a dialect becomes the device model. */
export interface ModelRules {
  /** Writes all that the statements say. */
  read(scope: Scope, write: Writer<DeviceModel>): void
  /** The tables of patterns by which it is read: they tell what an unparsed line may have meant. */
  readonly tables: readonly TableAt[]
  /** Forms of statement at the top level that are read entry by entry, not by a table: access lists. */
  readonly entryForms: readonly Pattern[]
  /** Whether a statement is a path, which may say several things of one at once. */
  readonly pathStatements: boolean
  readonly defaults: readonly Default[]
}

/** A dialect as far as the device model is concerned. */
export interface ModelDialect extends Syntax {
  readonly model: ModelRules
}

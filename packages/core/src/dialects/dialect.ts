import type { ModelDialect } from '../model/index.ts'
import type { OutputForm } from '../state/index.ts'
import type { CommandSet } from './collection.ts'
import type { ForwardingRules } from './forwarding-rules.ts'
import type { RecordRules } from './record-rules.ts'
import type { SessionRules } from './session-rules.ts'

/**
 * All that is known of one form in which devices are configured: how its text is read and typed, what it says to the
 * device model, how such devices forward, what their commands print, and how they are asked.
 */
export interface Dialect extends ModelDialect {
  readonly forwarding: ForwardingRules
  readonly records: RecordRules
  /** Forms of output that its devices have beside those that all devices have in common. */
  readonly outputs: readonly OutputForm[]
  readonly collection: CommandSet
  readonly session: SessionRules
  /** Null where listings are not written by hand. */
  readonly example: ExampleText | null
}

/** A statement with the blocks that it stands in, outermost first. */
export interface ExampleLine {
  readonly blocks: readonly (readonly string[])[]
  /** The whole path where statements are paths. */
  readonly words: readonly string[]
  readonly text: string
}

/** How an example of a listing is written. */
export interface ExampleText {
  /** What it begins with, so that it is recognised. */
  readonly head: string
  write(lines: readonly ExampleLine[]): readonly string[]
}

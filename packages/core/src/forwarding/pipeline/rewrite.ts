import type { FieldName } from '../../headers/index.ts'

/** Fields that a rule writes over, and the headers that have what it writes. */
export interface Rewrite {
  readonly fields: readonly FieldName[]
  readonly values: number
}

/** What a device does with answers to packets that it translated: they get back what was written over. */
export interface ReverseTranslation {
  /** What it changes of the answers: the other side than it changed of the packets. */
  readonly changes: 'source' | 'destination'
  /** The answers that it is done to, as they come. */
  readonly met: number
  readonly rewrite: Rewrite
  /** The rule in the model. */
  readonly rule: number
}

import type { FieldName } from '../../headers/index.ts'

/** Fields that a rule rewrites, and the headers that result. */
export interface Rewrite {
  readonly fields: readonly FieldName[]
  readonly values: number
}

/** How a device translates answers to packets that it translated: back to the original addresses and ports. */
export interface ReverseTranslation {
  /** What it changes of the answers: the other side than it changed of the packets. */
  readonly changes: 'source' | 'destination'
  /** The answers that it is done to, as they come. */
  readonly met: number
  readonly rewrite: Rewrite
  /** The rule in the model. */
  readonly rule: number
}

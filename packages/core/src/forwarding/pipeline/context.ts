import type { Rewrite, ReverseTranslation } from './rewrite.ts'

/** Packets that were changed on their way: how, and those that were, so that it can be told how they were sent. */
export interface Context {
  readonly id: number
  readonly parent: Context | null
  readonly device: number
  /** The rule in its model by which they were. */
  readonly rule: number
  readonly rewrite: Rewrite
  /** Where answers got back what was written over. */
  readonly undone: ReverseTranslation | null
  /** The headers before the change. Grows while packets still come. */
  before: number
}

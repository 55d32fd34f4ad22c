import type { Finding } from './evidence.ts'
import type { EvaluationContext } from './evaluation-context.ts'

/** A condition, ready to be put to devices. */
export type CompiledCondition = (context: EvaluationContext) => Finding

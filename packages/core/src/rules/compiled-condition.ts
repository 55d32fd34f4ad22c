import type { Finding, Reasons } from './evidence.ts'
import type { EvaluationContext } from './evaluation-context.ts'

/** A condition, ready to be put to devices. */
export type CompiledCondition = (context: EvaluationContext) => Finding

/** Why lines may be missing from what was captured. */
export function incomplete({ device }: EvaluationContext): Reasons | undefined {
  const fault = device.effective.tree.faults[0]
  return fault && { why: `the record is incomplete (line ${fault.line}: ${fault.reason})` }
}

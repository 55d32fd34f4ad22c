/** Lines that conditions found, as evidence. */
import type { Statement } from '../syntax/index.ts'
import { matchPattern, type Pattern } from '../model/index.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import { placeOf, type CitedRange } from './evidence.ts'

export function placesOfStatements({ device }: EvaluationContext, statements: readonly Statement[]): CitedRange[] {
  return statements.flatMap(({ nodes }) => nodes.map((node) => placeOf(device.record, node)))
}

/** Whether a statement is one of a pattern. */
export function isMatch(statement: Statement, pattern: Pattern, { device, scope }: EvaluationContext): boolean {
  return (
    statement.negated === pattern.negated && matchPattern(pattern, device.opaque.wordsOf(statement, scope)) !== null
  )
}

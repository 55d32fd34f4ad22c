import { z } from 'zod'
import { compilePattern } from '../model/index.ts'
import { compileExpression } from './expression.ts'
import { compileScope } from './scope.ts'

/** A text of a file that compiles; else the fault is what the compiler says. */
const compilable = (compile: (text: string) => unknown) =>
  z
    .string()
    .min(1)
    .max(500)
    .superRefine((text, context) => {
      try {
        compile(text)
      } catch (error) {
        context.addIssue({ code: 'custom', message: error instanceof Error ? error.message : String(error) })
      }
    })

/** CEL. */
export const expressionText = compilable(compileExpression)
/** A pattern of statements, as readers write them. */
export const patternText = compilable(compilePattern)
/** CEL by which devices something is for. */
export const scopeText = compilable(compileScope)

/** The expression language (CEL): what it knows, and how a text becomes a tree of it. */
import { Environment } from '@marcbachmann/cel-js'
import type { Node } from '../monotonicity.ts'
import { FUNCTIONS } from './functions.ts'

const environment = new Environment({
  unlistedVariablesAreDyn: true,
  limits: { maxAstNodes: 500, maxDepth: 24, maxListElements: 200, maxMapEntries: 50, maxCallArguments: 8 },
})
for (const { signature, run } of FUNCTIONS)
  environment.registerFunction(signature, run as (...args: unknown[]) => unknown)

/**
 * Functions of the language that look into a text, with those that stand in for them: the digits of a mark are no text
 * that anybody stated, so that they are not found.
 */
const LOOKING_INTO: Readonly<Record<string, string>> = {
  contains: 'holdsText',
  indexOf: 'placeOfText',
  lastIndexOf: 'lastPlaceOfText',
  split: 'partsOfText',
}

/** Puts the functions above in place of those that they stand in for. */
function lookIntoStatedText(node: unknown): void {
  if (Array.isArray(node)) return node.forEach(lookIntoStatedText)
  if (typeof node !== 'object' || node === null || !('args' in node)) return
  const { op, args } = node as { readonly op?: unknown; readonly args: unknown }
  if (op === 'rcall' && Array.isArray(args)) args[0] = LOOKING_INTO[String(args[0])] ?? args[0]
  lookIntoStatedText(args)
}

/** An expression as the language's own interpreter runs it. */
export interface Interpreted {
  readonly ast: Node
  /** Whether its types agree, as far as they are known. */
  isWellTyped(): boolean
  /** @throws Error with the expression's own message, where it cannot be evaluated */
  run(names: unknown): unknown
}

/** @throws Error that says what is wrong with it */
export function parse(source: string): Interpreted {
  const run = environment.parse(source)
  lookIntoStatedText(run.ast)
  return {
    ast: run.ast as unknown as Node,
    isWellTyped: () => run.check().valid,
    run: (names) => run(names as Record<string, unknown>) as unknown,
  }
}

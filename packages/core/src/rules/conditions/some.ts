import { z } from 'zod'
import type { Scope } from '../../syntax/index.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadLike } from '../doubt.ts'
import { EvaluationContext } from '../evaluation-context.ts'
import { Finding, NOWHERE, doubtsOf, placeOf, searched, type CitedRange } from '../evidence.ts'
import { LineMatcher, type LineMatch } from '../line-matcher.ts'
import { eitherOf, patternsSchema } from './fields.ts'
import { conditionKind, isClosed } from './kind.ts'

/** Some block of this kind in which the condition holds. */
export const some = conditionKind({
  key: 'some',
  schema: (nested) => z.strictObject({ some: z.strictObject({ block: patternsSchema, has: nested }) }),
  needs: (condition, nested) => nested(condition.some.has),
  compile: ({ some: { block, has } }, nested) =>
    compileSome([block].flat(), nested.compile(has), isClosed(nested.needs(has))),
  words: ({ some: { block, has } }, nested) => `some block ${eitherOf(block)} has that ${nested(has)}`,
  form: {
    title: 'in some block',
    fields: [
      { path: ['some', 'block'], title: 'Block', as: 'patterns' },
      { path: ['some', 'has'], title: 'has', as: 'condition' },
    ],
    start: { some: { block: 'line vty ...', has: 'transport input ssh' } },
  },
  docs: { form: '`{ some: { block: P, has: C } }`', holds: 'in some block' },
})

function compileSome(sources: readonly string[], ask: CompiledCondition, closed: boolean): CompiledCondition {
  const lines = new LineMatcher(sources)
  // Where nothing bound elsewhere plays a part, the answer is the same for every subject of a device.
  const answers = new WeakMap<Scope, Finding>()
  return (context) => {
    const known = closed ? answers.get(context.scope) : undefined
    if (known) return known
    const finding = lookIntoBlocks(context, lines, ask)
    if (closed) answers.set(context.scope, finding)
    return finding
  }
}

/** Where more blocks than these were searched in vain, the whole is the better account of it. */
const BLOCKS_SHOWN = 6

function lookIntoBlocks(context: EvaluationContext, lines: LineMatcher, ask: CompiledCondition): Finding {
  const { device } = context
  const blocks: readonly LineMatch[] = lines.all(context)
  const found: CitedRange[] = []
  const asked: Finding[] = [new Finding(true, NOWHERE, undefined, unreadLike(context, lines.patterns))]
  let unknown: Finding | null = null
  for (const { statement, names } of blocks) {
    if (!statement.scope) continue
    const finding = ask(new EvaluationContext(device, statement.scope, context.names, names))
    asked.push(finding)
    if (finding.truth === true)
      found.push(...statement.nodes.map((node) => placeOf(device.record, node)), ...finding.places())
    else if (finding.truth === 'unknown') unknown ??= finding
  }
  if (found.length > 0) return new Finding(true, () => found, undefined, doubtsOf(asked))
  if (unknown) return unknown
  return new Finding(
    context.mayHideLines ? 'unknown' : false,
    () =>
      blocks.length > 0 && blocks.length <= BLOCKS_SHOWN
        ? blocks.flatMap(({ statement }) => searched(device.record, device.effective.tree, statement.nodes))
        : context.whole(),
    incomplete(context),
    doubtsOf(asked),
  )
}

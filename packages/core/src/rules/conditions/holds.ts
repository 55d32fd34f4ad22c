import { z } from 'zod'
import { statementText } from '../../compare/index.ts'
import { withoutFingerprints, type Scope, type Statement } from '../../syntax/index.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadHere } from '../doubt.ts'
import { Finding, placeOf, type CitedRange } from '../evidence.ts'
import type { JudgedDevice } from '../judged.ts'
import { linesOf, quoted } from './fields.ts'
import { conditionKind } from './kind.ts'

/** Every line of a pasted part of a listing holds, each in its block, in the dialect of the device. */
export const holds = conditionKind({
  key: 'holds',
  schema: () => z.strictObject({ holds: z.string().min(1) }),
  compile: (condition) => compileHolds(condition.holds),
  words: (condition) => `all of this holds: ${quoted(linesOf(condition.holds))}`,
  form: {
    title: 'all of a pasted part',
    fields: [{ path: ['holds'], title: 'Part of a listing', as: 'listing' }],
    start: { holds: 'line vty 0 4\n transport input ssh' },
  },
  docs: { form: '`{ holds: "a pasted part of a listing" }`', holds: 'every line of it, each in its block' },
})

function compileHolds(text: string): CompiledCondition {
  const pasted = new Map<string, Scope>()
  return (context) => {
    const { dialect } = context.device.effective
    let wanted = pasted.get(dialect.id)
    if (!wanted) pasted.set(dialect.id, (wanted = dialect.evaluate([dialect.read(text)])))
    const missing: string[] = []
    const places: CitedRange[] = []
    lookFor(
      { wanted, held: context.device.effective.scope, around: [] },
      {
        device: context.device,
        missing,
        found: (statement) => places.push(...statement.nodes.map((node) => placeOf(context.device.record, node))),
      },
    )
    const doubts = unreadHere(context.within(context.device.effective.scope))
    if (missing.length === 0) return new Finding(true, () => places, undefined, doubts)
    const hidden = context.device.effective.tree.faults.length > 0
    return new Finding(
      hidden ? 'unknown' : false,
      () => (places.length > 0 ? places : context.whole()),
      { missing, ...(hidden ? incomplete(context) : {}) },
      doubts,
    )
  }
}

interface Looking {
  readonly wanted: Scope
  readonly held: Scope | null
  readonly around: readonly string[]
}

interface Looked {
  readonly device: JudgedDevice
  readonly missing: string[]
  readonly found: (statement: Statement) => void
}

/** What a rule states in the place of a secret counts for any: whether a line is there is no way to try secrets. */
function lookFor({ wanted, held, around }: Looking, out: Looked): void {
  for (const statement of wanted.statements) {
    const key = keyOf(statement, wanted, out.device)
    const match = held
      ?.startingWith(statement.command.first)
      .find((other) => other.negated === statement.negated && keyOf(other, held, out.device) === key)
    if (!match) {
      out.missing.push([...around, statementText(statement)].join(' › '))
      continue
    }
    if (statement.scope)
      lookFor({ wanted: statement.scope, held: match.scope, around: [...around, statement.text] }, out)
    else out.found(match)
  }
}

/** The words of a statement, the same for whatever secret it holds. */
function keyOf(statement: Statement, scope: Scope, { opaque }: JudgedDevice): string {
  return withoutFingerprints(opaque.wordsOf(statement, scope).lowerText)
}

import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadLike } from '../doubt.ts'
import { Finding, NOWHERE } from '../evidence.ts'
import { LineMatcher } from '../line-matcher.ts'
import { eitherOf, nameSchema, patternsSchema } from './fields.ts'
import { conditionKind } from './kind.ts'

const collectSchema = z.strictObject({ of: patternsSchema, take: nameSchema, as: nameSchema })
type Collect = z.infer<typeof collectSchema>

/** Binds the list of what matching lines name; always holds. */
export const collect = conditionKind({
  key: 'collect',
  schema: () => z.strictObject({ collect: collectSchema }),
  compile: (condition) => compileCollect(condition.collect),
  words: ({ collect: { of, take, as } }) => `${as} being the ${take} in ${eitherOf(of)}`,
  form: {
    title: 'list what lines name',
    fields: [
      { path: ['collect', 'of'], title: 'Line', as: 'patterns' },
      { path: ['collect', 'take'], title: 'Name in the line', as: 'text' },
      { path: ['collect', 'as'], title: 'Name of the list', as: 'text' },
    ],
    start: { collect: { of: 'ntp server <host>', take: 'host', as: 'hosts' } },
  },
  docs: { form: '`{ collect: { of, take, as } }`', holds: 'always; binds a list' },
})

function compileCollect({ of, take, as }: Collect): CompiledCondition {
  const lines = new LineMatcher([of].flat())
  return (context) => {
    context.names[as] = lines.all(context).map(({ names }) => String(names[take]))
    // A list that may be short makes what is asked of it unknown.
    const truth = context.mayHideLines ? 'unknown' : true
    return new Finding(truth, NOWHERE, incomplete(context), unreadLike(context, lines.patterns))
  }
}

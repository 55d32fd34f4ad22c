import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadLike } from '../doubt.ts'
import { Finding } from '../evidence.ts'
import { canonicalHost } from '../expression.ts'
import { placesOfMatches } from '../line-condition.ts'
import { LineMatcher } from '../line-matcher.ts'
import { eitherOf, expressionsOf, nameSchema, patternsSchema } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

const setSchema = z.strictObject({
  of: patternsSchema,
  take: nameSchema,
  equals: nameSchema.optional(),
  within: nameSchema.optional(),
})
type SetQuestion = z.infer<typeof setSchema>

/** Compares what lines name with a list value: as equal sets, or as lying within it. */
export const set = conditionKind({
  key: 'set',
  schema: () => z.strictObject({ set: setSchema }),
  needs: (condition) => ({ ...NEEDS_NOTHING, values: expressionsOf(condition.set.equals, condition.set.within) }),
  compile: (condition) => compileSet(condition.set),
  words: ({ set: { of, take, equals, within } }) =>
    `the ${take} in ${eitherOf(of)} ${
      equals === undefined ? `all lie within ${within ?? ''}` : `are exactly ${equals}`
    }`,
  form: {
    title: 'names in lines, compared with a value',
    fields: [
      { path: ['set', 'of'], title: 'Line', as: 'patterns' },
      { path: ['set', 'take'], title: 'Name in the line', as: 'text' },
      { path: ['set', 'equals'], title: 'are exactly the value', as: 'text', optional: true },
      { path: ['set', 'within'], title: 'are all within the value', as: 'text', optional: true },
    ],
    start: { set: { of: 'ntp server <host>', take: 'host', equals: 'ntp_servers' } },
  },
  docs: {
    form: '`{ set: { of: P, take: name, equals | within: value } }`',
    holds: 'compares sets; binds `missing` and `extra`',
  },
})

function compileSet({ of, take, equals, within }: SetQuestion): CompiledCondition {
  const lines = new LineMatcher([of].flat())
  const listName = equals ?? within
  if (listName === undefined) throw new Error(`Condition "set": give "equals" or "within"`)
  return (context) => {
    const wanted = (context.names[listName] as unknown[] | undefined)?.map(String) ?? []
    const wantedKeys = new Set(wanted.map(canonicalHost))
    const found = lines.all(context)
    const named = found.map(({ names }) => String(names[take]))
    const namedKeys = new Set(named.map(canonicalHost))
    const extra = named.filter((host) => !wantedKeys.has(canonicalHost(host)))
    const missing = equals === undefined ? [] : wanted.filter((host) => !namedKeys.has(canonicalHost(host)))
    Object.assign(context.names, {
      missing,
      extra: [...new Map(extra.map((host) => [canonicalHost(host), host])).values()],
    })
    const holds = missing.length === 0 && extra.length === 0
    const unsure = context.mayHideLines && extra.length === 0
    return new Finding(
      unsure ? 'unknown' : holds,
      () =>
        missing.length > 0 || found.length === 0
          ? [...placesOfMatches(context, found), ...context.whole()]
          : placesOfMatches(context, found),
      { missing, extra, ...(unsure ? incomplete(context) : {}) },
      unreadLike(context, lines.patterns),
    )
  }
}

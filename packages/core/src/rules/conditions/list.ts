import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { Finding, searched, type CitedRange } from '../evidence.ts'
import { compileTemplate, expressionsInTemplate } from '../expression.ts'
import { linesOfAdmission, linesOfList, listNamed } from '../named-list.ts'
import { familySchema } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

const STATES = ['missing', 'empty', 'open'] as const

const listSchema = z.strictObject({ name: z.string(), family: familySchema, is: z.enum(STATES) })
type ListQuestion = z.infer<typeof listSchema>

/** What an access list is; `name` may hold `${expression}`. */
export const list = conditionKind({
  key: 'list',
  schema: () => z.strictObject({ list: listSchema }),
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: expressionsInTemplate(condition.list.name) }),
  compile: (condition) => compileList(condition.list),
  words: ({ list: { name, family, is } }) => `the ${family} list ${name} is ${is}`,
  form: {
    title: 'an access list is',
    fields: [
      { path: ['list', 'name'], title: 'Access list', as: 'text', hint: 'A name, or ${expression}' },
      { path: ['list', 'family'], title: 'Family', as: 'choice', choices: familySchema.options },
      { path: ['list', 'is'], title: 'is', as: 'choice', choices: STATES },
    ],
    start: { list: { name: 'MGMT', family: 'ipv4', is: 'missing' } },
  },
  docs: { form: '`{ list: { name, family, is: missing | empty | open } }`', holds: 'of an access list' },
})

function compileList({ name, family, is }: ListQuestion): CompiledCondition {
  const template = compileTemplate(name)
  return (context) => {
    const { device } = context
    const named = listNamed(context, template.render(context.names), family)
    const hidden = device.effective.tree.faults.length > 0
    if (!named)
      return new Finding(
        hidden ? 'unknown' : is === 'missing',
        () => searched(device.record, device.effective.tree, []),
        incomplete(context),
      )
    const lines = (): CitedRange[] => linesOfList(device, named)
    if (is === 'missing') return new Finding(false, lines)
    if (is === 'empty')
      return new Finding(named.list.list.entries.length > 0 ? false : hidden ? 'unknown' : true, lines)
    if (hidden) return new Finding('unknown', lines, incomplete(context))
    const open = named.list.openToAll
    return new Finding(
      open.answer === 'undecided' ? 'unknown' : open.answer === 'some',
      () => linesOfAdmission(device, named, open),
      { why: open.why ?? undefined },
    )
  }
}

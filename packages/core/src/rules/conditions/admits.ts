import { z } from 'zod'
import type { Admission } from '../../headers/index.ts'
import { parsePrefix } from '../../model/index.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { Finding, searched } from '../evidence.ts'
import { compileTemplate, expressionsInTemplate } from '../expression.ts'
import { linesOfAdmission, linesOfList, listNamed } from '../named-list.ts'
import { nameSchema } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

const admitsSchema = z.strictObject({ list: z.string(), sources: nameSchema })
type Admits = z.infer<typeof admitsSchema>

/** Whether an access list lets in packets from any of some prefixes; binds `prefixes`, those that get in. */
export const admits = conditionKind({
  key: 'admits',
  schema: () => z.strictObject({ admits: admitsSchema }),
  needs: ({ admits: { list, sources } }) => ({
    ...NEEDS_NOTHING,
    expressions: expressionsInTemplate(list),
    values: [sources],
  }),
  compile: (condition) => compileAdmits(condition.admits),
  words: ({ admits: { list, sources } }) => `the list ${list} lets in a packet from ${sources}`,
  form: {
    title: 'an access list lets in packets from',
    fields: [
      { path: ['admits', 'list'], title: 'Access list', as: 'text', hint: 'A name, or ${expression}' },
      { path: ['admits', 'sources'], title: 'Value with the prefixes', as: 'text' },
    ],
    start: { admits: { list: 'EDGE-IN', sources: 'bogons' } },
  },
  docs: {
    form: '`{ admits: { list, sources: value } }`',
    holds: 'the list lets in some packet from one of the prefixes; binds `prefixes`',
  },
})

function compileAdmits({ list: name, sources }: Admits): CompiledCondition {
  const template = compileTemplate(name)
  return (context) => {
    const { device, names } = context
    const named = listNamed(context, template.render(names), 'ipv4')
    // A line that is missing may let packets in, or keep them out: of the list, or of what it names.
    const hidden = device.effective.tree.faults.length > 0
    if (hidden)
      return new Finding('unknown', () => (named ? linesOfList(device, named) : context.whole()), incomplete(context))
    if (!named) return new Finding(true, () => searched(device.record, device.effective.tree, []))
    const entering: string[] = []
    const admitted: Admission[] = []
    let undecided: string | null = null
    for (const text of (names[sources] as unknown[]).map(String)) {
      const prefix = parsePrefix(text)
      if (prefix?.family !== 'ipv4') continue
      const admission = named.list.admits(named.list.sets.headers.address('source', prefix))
      if (admission.answer === 'undecided') undecided ??= `${text}: ${admission.why ?? ''}`
      if (admission.answer !== 'some') continue
      entering.push(text)
      admitted.push(admission)
    }
    names['prefixes'] = entering
    if (entering.length > 0)
      return new Finding(true, () => admitted.flatMap((one) => linesOfAdmission(device, named, one)), {
        extra: entering,
      })
    return new Finding(undecided === null ? false : 'unknown', () => linesOfList(device, named), {
      why: undecided ?? undefined,
    })
  }
}

import { z } from 'zod'
import { FAMILIES } from '../../model/index.ts'
import { asking, through, type Admission } from '../admission.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadAbout } from '../doubt.ts'
import { Finding } from '../evidence.ts'
import type { JudgedDevice } from '../judged.ts'
import { MANAGEMENT_SOURCES, managementSources } from '../management-sources.ts'
import { memoOf } from '../memo.ts'
import { compileModelExpression, pathsIn, placesOf, placesOfFields } from '../model-fields.ts'
import { SERVICE_NAMES, type Service } from '../services.ts'
import { sharedHeaders } from '../shared-headers.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

const accessSchema = z.strictObject({
  list: z.string().min(1),
  service: z.enum(SERVICE_NAMES),
  is: z.enum(['open', 'undefined']),
})
type Access = z.infer<typeof accessSchema>

/**
 * Whether the access list of a name, as an expression gives it, lets whoever likes use a service, or is not defined at
 * all. Where the expression gives no name, neither holds.
 */
export const access = conditionKind({
  key: 'access',
  schema: () => z.strictObject({ access: accessSchema }),
  needs: (condition) => ({
    ...NEEDS_NOTHING,
    expressions: [condition.access.list],
    values: condition.access.is === 'open' ? [MANAGEMENT_SOURCES] : [],
  }),
  compile: (condition) => compileAccess(condition.access),
  words: ({ access: { list, service, is } }) =>
    is === 'open' ? `the list ${list} lets whoever likes use ${service}` : `the list ${list} is not defined`,
  form: {
    title: 'the access list of a service is',
    fields: [
      { path: ['access', 'list'], title: 'Name, as an expression', as: 'text' },
      { path: ['access', 'service'], title: 'Service', as: 'choice', choices: SERVICE_NAMES },
      { path: ['access', 'is'], title: 'is', as: 'choice', choices: ['open', 'undefined'] },
    ],
    start: { access: { list: 'system.services.https.accessList', service: 'web', is: 'open' } },
  },
  docs: {
    form: '`{ access: { list: CEL, service, is: open | undefined } }`',
    holds:
      'the list of that name lets whoever likes use the service, or is not defined; where CEL gives no name, neither',
  },
})

function compileAccess({ list: name, service, is }: Access): CompiledCondition {
  const evaluate = compileModelExpression(name)
  const fields = placesOfFields(name)
  return (context) => {
    const { device } = context
    const named = evaluate(context)
    const { model } = device.modelled()
    const hidden = incomplete(context)
    // The line that names the list may be missing.
    if (typeof named !== 'string' || named === '')
      return new Finding(hidden ? 'unknown' : false, () => fields(context), hidden)
    const at = model.accessLists.flatMap((list, i) => (list.name === named ? [i] : []))
    const doubts = unreadAbout(device, ['accessLists', ...pathsIn(name, context)])
    const places = (): ReturnType<typeof fields> => [
      ...fields(context),
      ...at.flatMap((i) => placesOf(device, `accessLists[${i}]`)),
    ]
    if (is === 'undefined')
      return new Finding(at.length > 0 ? false : hidden ? 'unknown' : true, places, hidden, doubts)
    const { open, why: words } =
      at.length === 0 ? { open: false, why: null } : opened(device, named, service, managementSources(context))
    return new Finding(hidden ? 'unknown' : open, places, hidden ?? { why: words ?? undefined }, doubts)
  }
}

type Opened = Pick<Admission, 'open' | 'why'>

function opened(device: JudgedDevice, name: string, service: Service, allowed: readonly string[] | null): Opened {
  // Several rules ask of the same list.
  const answers = memoOf(device, openedAnew, () => new Map<string, Opened>())
  const key = JSON.stringify([name, service, allowed])
  let answer = answers.get(key)
  if (!answer) answers.set(key, (answer = openedAnew(device, name, service, allowed)))
  return answer
}

function openedAnew(device: JudgedDevice, name: string, service: Service, allowed: readonly string[] | null): Opened {
  const { model } = device.modelled()
  const answers = FAMILIES.flatMap((family) => {
    const list = model.accessLists.find((one) => one.name === name && one.family === family)
    if (!list) return []
    const headers = sharedHeaders()
    return [through(headers, model, list, asking(headers, service, family), null, allowed)]
  })
  return (
    answers.find(({ open }) => open === true) ??
    answers.find(({ open }) => open === 'unknown') ?? { open: false, why: null }
  )
}

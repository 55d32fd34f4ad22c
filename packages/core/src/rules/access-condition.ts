import { FAMILIES } from '../model/index.ts'
import { Diagrams, Headers } from '../headers/index.ts'
import { asking, through, type Admission } from './admission.ts'
import type { CompiledCondition } from './compiled-condition.ts'
import { unreadAbout } from './doubt.ts'
import { Finding } from './evidence.ts'
import type { JudgedDevice } from './judged.ts'
import { compileModelExpression, pathsIn, placesOf, placesOfFields } from './model-condition.ts'
import { managementSources } from './opens-condition.ts'
import type { Service } from './services.ts'

/**
 * Whether the list of a name, as an expression gives it, lets whoever likes use a service, or is not defined at all.
 * Where the expression gives no name, neither holds.
 */
export function askAccess({
  list: name,
  service,
  is,
}: {
  readonly list: string
  readonly service: Service
  readonly is: 'open' | 'undefined'
}): CompiledCondition {
  const evaluate = compileModelExpression(name)
  const fields = placesOfFields(name)
  return (inquiry) => {
    const { device } = inquiry
    const named = evaluate(inquiry)
    if (typeof named !== 'string' || named === '') return new Finding(false, () => fields(inquiry))
    const { model, faults } = device.modelled()
    const at = model.accessLists.flatMap((list, i) => (list.name === named ? [i] : []))
    const [fault] = faults
    const doubts = unreadAbout(device, ['accessLists', ...pathsIn(name, inquiry)])
    const places = (): ReturnType<typeof fields> => [
      ...fields(inquiry),
      ...at.flatMap((i) => placesOf(device, `accessLists[${i}]`)),
    ]
    const why = fault ? `the record is not whole (line ${fault.line}: ${fault.reason})` : undefined
    if (is === 'undefined')
      return new Finding(at.length > 0 ? false : fault ? 'unknown' : true, places, { why }, doubts)
    const { open, why: words } =
      at.length === 0 ? { open: false, why: null } : opened(device, named, service, managementSources(inquiry))
    return new Finding(fault ? 'unknown' : open, places, { why: why ?? words ?? undefined }, doubts)
  }
}

type Opened = Pick<Admission, 'open' | 'why'>

/** Several rules ask of the same list. */
const known = new WeakMap<JudgedDevice, Map<string, Opened>>()

function opened(device: JudgedDevice, name: string, service: Service, allowed: readonly string[] | null): Opened {
  let answers = known.get(device)
  if (!answers) known.set(device, (answers = new Map()))
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
    const headers = new Headers(new Diagrams())
    return [through(headers, model, list, asking(headers, service, family), null, allowed)]
  })
  return (
    answers.find(({ open }) => open === true) ??
    answers.find(({ open }) => open === 'unknown') ?? { open: false, why: null }
  )
}

import { z } from 'zod'
import type { DeviceModel } from '../../model/index.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { unreadAbout } from '../doubt.ts'
import type { EvaluationContext } from '../evaluation-context.ts'
import { Finding } from '../evidence.ts'
import { userPattern } from '../expression.ts'
import { sameName } from '../link-end.ts'
import { memoOf } from '../memo.ts'
import { compileModelExpression, placesOf } from '../model-fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/** Values by whose patterns zones, and descriptions of interfaces, name the outside. */
const ZONES = 'outside_zones'
const DESCRIPTIONS = 'outside_match'

/**
 * Whether the interface that an expression names is in use and faces the outside: as a label of the device says, else
 * by its zone (value `outside_zones`), else by what its description says (value `outside_match`). One that is shut
 * faces nothing.
 */
export const outside = conditionKind({
  key: 'outside',
  schema: () => z.strictObject({ outside: z.string().min(1) }),
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: [condition.outside], values: [ZONES, DESCRIPTIONS] }),
  compile: (condition) => compileOutside(condition.outside),
  words: (condition) => `${condition.outside} faces the outside`,
  form: {
    title: 'an interface faces the outside',
    fields: [{ path: ['outside'], title: 'Name, as an expression', as: 'text' }],
    start: { outside: 'interface.name' },
  },
  docs: {
    form: '`{ outside: CEL }`',
    holds:
      'the interface of that name is in use and faces the outside: by the label `outside-interfaces` of the device, ' +
      'else by the name of its zone (`outside_zones`), else by its description (`outside_match`)',
  },
})

/** Parts of the model that decide which way an interface faces. */
const BEARING = ['interfaces.description', 'interfaces.zone', 'interfaces.enabled', 'zones']

/** The label of a device that names its interfaces that face the outside, parted by commas or spaces. */
const LABEL = 'outside-interfaces'

function compileOutside(source: string): CompiledCondition {
  const nameOf = compileModelExpression(source)
  return (context) => {
    const { faces, path } = facingOf(context, String(nameOf(context)))
    const places = (): ReturnType<typeof placesOf> => placesOf(context.device, path)
    return new Finding(faces, places, undefined, unreadAbout(context.device, BEARING))
  }
}

interface Facing {
  readonly faces: boolean
  readonly path: string
}

/** Several rules ask about the same interfaces: by the values that decide, and by name. */
function facingOf(context: EvaluationContext, name: string): Facing {
  const { device, names } = context
  const known = memoOf(device, facing, () => new Map<string, Facing>())
  const key = `${String(names[ZONES])}\n${String(names[DESCRIPTIONS])}\n${name}`
  let found = known.get(key)
  if (!found) known.set(key, (found = facing(context, device.modelled().model, name)))
  return found
}

function facing({ device, names }: EvaluationContext, { interfaces, zones }: DeviceModel, name: string): Facing {
  const exact = interfaces.findIndex((one) => one.name === name)
  const at = exact >= 0 ? exact : interfaces.findIndex((one) => sameName(one.name, name))
  const unit = /\.\d+$/.test(name) ? name.replace(/\.\d+$/, '') : null
  const parent = unit === null ? -1 : interfaces.findIndex((one) => one.name === unit)
  const own = interfaces[at]
  const path = `interfaces[${Math.max(at, 0)}]`
  if (own?.enabled === false || interfaces[parent]?.enabled === false) return { faces: false, path: `${path}.enabled` }
  const label = device.facts.labels[LABEL]
  if (typeof label === 'string' && label.trim() !== '')
    return { faces: label.split(/[\s,]+/).some((one) => sameName(one, name) || one === unit), path }
  const outer = (text: string | null | undefined, value: string): boolean =>
    typeof text === 'string' && typeof names[value] === 'string' && userPattern(names[value]).test(text)
  // Where zones are named so that one of them is the outside, they decide.
  const named = zones.filter((zone) => outer(zone.name, ZONES))
  const within = zones.findIndex(
    (zone) =>
      zone.name === own?.zone ||
      zone.interfaces.some((port) => port === name || (unit === null && port.startsWith(`${name}.`))),
  )
  const zone = zones[within]
  if (zone && named.length > 0) return { faces: named.includes(zone), path: `zones[${within}]` }
  if (outer(own?.description, DESCRIPTIONS)) return { faces: true, path: `${path}.description` }
  return {
    faces: outer(interfaces[parent]?.description, DESCRIPTIONS),
    path: parent < 0 ? path : `interfaces[${parent}].description`,
  }
}

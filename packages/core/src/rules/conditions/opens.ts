import { z } from 'zod'
import { admissionTo, type Admission } from '../admission.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadAbout } from '../doubt.ts'
import { Finding } from '../evidence.ts'
import { MANAGEMENT_SOURCES, managementSources } from '../management-sources.ts'
import { memoOf } from '../memo.ts'
import { placesOf } from '../model-fields.ts'
import { SERVICE_NAMES } from '../services.ts'
import { familySchema } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

const openingSchema = z.strictObject({ service: z.enum(SERVICE_NAMES), family: familySchema })
type Opening = z.infer<typeof openingSchema>

/**
 * The device's own filters let whoever likes connect to a service of it; with `management_sources` set, whoever is not
 * among those. Binds `by`, the interface by which they do.
 */
export const opens = conditionKind({
  key: 'opens',
  schema: () => z.strictObject({ opens: openingSchema }),
  needs: () => ({ ...NEEDS_NOTHING, values: [MANAGEMENT_SOURCES] }),
  compile: (condition) => compileOpens(condition.opens),
  words: ({ opens: { service, family } }) =>
    `the filters of the device let whoever likes connect to ${service} over ${family === 'ipv4' ? 'IPv4' : 'IPv6'}`,
  form: {
    title: 'its filters let anybody connect to',
    fields: [
      { path: ['opens', 'service'], title: 'Service', as: 'choice', choices: SERVICE_NAMES },
      { path: ['opens', 'family'], title: 'over', as: 'choice', choices: familySchema.options },
    ],
    start: { opens: { service: 'ssh', family: 'ipv4' } },
  },
  docs: {
    form: '`{ opens: { service: login | ssh | web | snmp | ntp | tftp | netconf, family: ipv4 | ipv6 } }`',
    holds:
      "the device's own filters let whoever likes connect to it (computed over header sets): " +
      'from half of all addresses or more, or, with the value `management_sources`, from any other; binds `by`',
  },
})

/** Parts of the model that decide who gets in to the device itself. */
const BEARING = ['accessLists', 'interfaces.filters', 'zones', 'prefixLists']

function compileOpens({ service, family }: Opening): CompiledCondition {
  return (context) => {
    const { device } = context
    const allowed = managementSources(context)
    const key = `${service} ${family} ${allowed?.join() ?? ''}`
    const answers = memoOf(device, admissionTo, () => new Map<string, Admission>())
    let admission = answers.get(key)
    if (!admission) answers.set(key, (admission = admissionTo(device, service, family, allowed)))
    const { open, why, port, paths } = admission
    context.bind({ by: port === null ? 'any interface' : port })
    // Lines that are missing may close what is open, and open what is closed.
    const hidden = incomplete(context)
    const truth = hidden ? 'unknown' : open
    const places = paths.flatMap((path) => placesOf(device, path))
    return new Finding(
      truth,
      () => (places.length > 0 ? places : context.whole()),
      hidden ?? { why: why ?? undefined },
      unreadAbout(device, BEARING),
    )
  }
}

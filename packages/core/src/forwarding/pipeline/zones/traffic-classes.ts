import { PROTOCOLS } from '../../../model/names.ts'
import { ALL, NOTHING } from '../../../headers/index.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { NamedObjects } from '../named-objects.ts'

/** The classes of traffic that policies of pairs of zones name. */
export class TrafficClasses {
  /** By name: what asks for itself in turn is not known while it is made. */
  readonly #classes = new Map<string, { set: number; doubt: string | null }>()

  constructor(
    readonly compiled: CompiledDevice,
    readonly objects: NamedObjects,
  ) {}

  /** The packets of a class, by lists and protocols that it names. */
  of(name: string): { set: number; doubt: string | null } {
    const known = this.#classes.get(name)
    if (known) return known
    this.#classes.set(name, { set: ALL, doubt: `the class ${name} is not defined` })
    const made = this.#makeClass(name)
    this.#classes.set(name, made)
    return made
  }

  #makeClass(name: string): { set: number; doubt: string | null } {
    const { headers } = this.compiled.network
    const { lists, model } = this.compiled
    const found = model?.trafficClasses.find((one) => one.name === name)
    if (!found) return { set: ALL, doubt: `the class ${name} is not defined` }
    let doubt: string | null = null
    const sets = found.matches.map((stated): number => {
      // `match not …`: of all others.
      const text = stated.replace(/^not /, '')
      const met = ((): number => {
        const [, list] = /^access-group (?:name )?(\S+)$/.exec(text) ?? []
        const [, protocol] = /^protocol (\S+)$/.exec(text) ?? []
        const [, inner] = /^class-map (\S+)$/.exec(text) ?? []
        if (list !== undefined) {
          const known = (['ipv4', 'ipv6'] as const).flatMap((family) => lists.list(list, family) ?? [])
          if (known.length > 0)
            return headers.any(
              known,
              (one) =>
                lists.decide(one, headers.family(one.family), {
                  inInterface: null,
                  outInterface: null,
                  connection: 'new',
                }).permitted,
            )
        }
        if (inner !== undefined) {
          const nested = this.of(inner)
          doubt ??= nested.doubt
          return nested.set
        }
        const known =
          protocol === undefined
            ? null
            : protocol === 'tcp' || protocol === 'udp'
              ? headers.value('protocol', PROTOCOLS[protocol] ?? 0)
              : this.objects.service(protocol === 'dns' ? 'domain' : protocol)
        if (known === null) doubt ??= `the class ${name} matches “${text}”, which is not parsed`
        return known ?? ALL
      })()
      return stated === text ? met : headers.diagrams.not(met)
    })
    if (sets.length === 0) return { set: NOTHING, doubt }
    return { set: found.any === true ? headers.any(sets, (set) => set) : headers.all(...sets), doubt }
  }
}

/**
 * Whom a device lets connect to itself: by the lists on its own traffic, the services of its zones, the INPUT chain of
 * a kernel. Computed over header sets, so that chains, negations and prefix lists count by what they do.
 */
import { forwardingRulesOf } from '../dialects/index.ts'
import { parsePrefix, type DeviceModel, type Family } from '../model/index.ts'
import { ALL, type Headers, ListSets, NOTHING, sizeOf, type MatchContext, type ModelList } from '../headers/index.ts'
import type { JudgedDevice } from './judged.ts'
import { sameName } from './link-end.ts'
import { SERVICES, type Service } from './services.ts'
import { sharedHeaders } from './shared-headers.ts'

export interface Admission {
  /** Whether anybody may connect: from more than half of all addresses, or from one that is not among those allowed. */
  readonly open: boolean | 'unknown'
  readonly why: string | null
  /** By which interface; null: by any. */
  readonly port: string | null
  /** Paths of the model that the answer rests on. */
  readonly paths: readonly string[]
}

/** From this share of all addresses on, a device counts as open to everyone. */
const MOST = 0.5

const CLOSED: Admission = { open: false, why: null, port: null, paths: [] }

/** @param allowed prefixes from which the device may be managed; null: nobody said which */
export function admissionTo(
  device: JudgedDevice,
  service: Service,
  family: Family,
  allowed: readonly string[] | null,
): Admission {
  const { model } = device.modelled()
  const headers = sharedHeaders()
  const asked = asking(headers, service, family)
  const gates =
    forwardingRulesOf(model.dialect).tables === 'kernel'
      ? kernelGates(model, family)
      : hierarchyGates(model, service, family)
  const open: Admission[] = gates.map(({ list, port, closed, paths }) =>
    closed
      ? CLOSED
      : list === null
        ? { open: true, why: null, port, paths }
        : { ...through(headers, model, list, asked, port, allowed), port, paths },
  )
  const sure = open.filter((one) => one.open === true)
  if (sure.length === 0)
    return open.find((one) => one.open === 'unknown') ?? { ...CLOSED, paths: gates.flatMap(({ paths }) => paths) }
  if (sure.length === gates.length && sure[0]) return { ...sure[0], port: null }
  return byOutside(device, sure, allowed)
}

function begins(headers: Headers): number {
  return headers.all(headers.flag('syn', true), headers.flag('ack', false))
}

/** A way in to the device itself, and the list that stands in it; `closed`: nothing comes in there at all. */
interface Gate {
  readonly list: ModelList | null
  readonly port: string | null
  readonly closed: boolean
  readonly paths: readonly string[]
}

function kernelGates(model: DeviceModel, family: Family): Gate[] {
  const at = model.accessLists.findIndex((list) => list.name === 'filter INPUT' && list.family === family)
  const ports = model.interfaces.filter(({ kind }) => kind !== 'loopback').map(({ name }) => name)
  return (ports.length > 0 ? ports : [null]).map((port): Gate => ({
    list: model.accessLists[at] ?? null,
    port,
    closed: false,
    paths: at < 0 ? [] : [`accessLists[${at}]`],
  }))
}

/** Zones take what they name; behind them stands the filter of the loopback. */
function hierarchyGates(model: DeviceModel, service: Service, family: Family): Gate[] {
  const loopback = model.interfaces.findIndex(
    ({ kind, filters }) => kind === 'loopback' && (family === 'ipv4' ? filters.in4 : filters.in6) !== null,
  )
  const filters = model.interfaces[loopback]?.filters
  const name = (family === 'ipv4' ? filters?.in4 : filters?.in6) ?? null
  const at = model.accessLists.findIndex((list) => list.name === name && list.family === family)
  const paths = [
    ...(loopback < 0 ? [] : [`interfaces[${loopback}].filters`]),
    ...(at < 0 ? [] : [`accessLists[${at}]`]),
  ]
  if (model.zones.length === 0) return [{ list: model.accessLists[at] ?? null, port: null, closed: false, paths }]
  return model.zones.flatMap((zone, z) =>
    zone.interfaces.map((port): Gate => {
      const { services } = zone.ownInbound.find((one) => sameName(one.interface, port)) ?? zone.inbound
      const takes = SERVICES[service].names.some(
        (word) =>
          (services.includes(word) || services.includes('all') || services.includes('any-service')) &&
          !services.includes(`!${word}`),
      )
      return { list: model.accessLists[at] ?? null, port, closed: !takes, paths: [`zones[${z}]`, ...paths] }
    }),
  )
}

/** Rate limits, which do not restrict who may connect. */
const RATE =
  /^(?:-m (?:limit|hashlimit|connlimit|recent)|--limit\b.*|--limit-burst\b.*|--hashlimit\b.*|--connlimit\b.*)$/

/** The packets that ask for a service for the first time. */
export function asking(headers: Headers, service: Service, family: Family): number {
  const { protocol, ports } = SERVICES[service]
  return headers.all(
    headers.family(family),
    headers.value('protocol', protocol),
    headers.any(ports, (port) => headers.value('destinationPort', port)),
    headers.diagrams.not(headers.fragments),
    protocol === 6 ? begins(headers) : ALL,
  )
}

/** Whether a list is open to everyone for some packets. */
export function through(
  headers: Headers,
  model: DeviceModel,
  list: ModelList,
  asked: number,
  port: string | null,
  allowed: readonly string[] | null,
): Pick<Admission, 'open' | 'why'> {
  const { diagrams } = headers
  const plain = model.accessLists.map((one) => ({
    ...one,
    entries: one.entries.map((entry) =>
      entry.action === 'permit' && entry.notWeighed.every((words) => RATE.test(words))
        ? { ...entry, notWeighed: [] }
        : entry,
    ),
  }))
  const lists = new ListSets(headers, plain)
  const own = lists.list(list.name, list.family)
  if (!own) return { open: true, why: null }
  const context: MatchContext = { inInterface: port, outInterface: null, connection: 'new' }
  const { permitted, denied, returned } = lists.decide(own, asked, context)
  const maybe = diagrams.or(permitted, returned)
  const [sure, most] = [diagrams.minus(permitted, denied), maybe]
  if (allowed !== null) {
    const outside = diagrams.not(
      headers.any(
        allowed.flatMap((text) => parsePrefix(text) ?? []).filter((one) => one.family === list.family),
        (match) => headers.address('source', match),
      ),
    )
    if (diagrams.meet(sure, outside)) return { open: true, why: null }
    return diagrams.meet(most, outside)
      ? { open: 'unknown', why: `${list.name} has terms that cannot be evaluated` }
      : { open: false, why: null }
  }
  if (share(headers, sure, list.family) >= MOST) return { open: true, why: null }
  return share(headers, most, list.family) >= MOST
    ? { open: 'unknown', why: `${list.name} has terms that cannot be evaluated` }
    : { open: false, why: null }
}

/** The share of all addresses of a family from which some packet of a set comes. */
function share(headers: Headers, set: number, family: Family): number {
  if (set === NOTHING) return 0
  const sources = headers.sourcesOf(set)
  const whole = headers.family(family)
  return (
    Number((sizeOf(headers, headers.diagrams.and(sources, whole)) * 1_000_000n) / sizeOf(headers, whole)) / 1_000_000
  )
}

/** Open on some interfaces only: that counts if one of them has the default route. */
function byOutside(device: JudgedDevice, open: readonly Admission[], allowed: readonly string[] | null): Admission {
  if (allowed !== null && open[0]) return open[0]
  const { model } = device.modelled()
  const { state } = device.stated()
  const routes = [
    ...model.staticRoutes.map(({ prefix, interface: port, nextHop }) => ({ prefix, port, nextHop })),
    ...state.routes.flatMap(({ prefix, nextHops }) =>
      nextHops.map((hop) => ({ prefix, port: hop.interface, nextHop: hop.address })),
    ),
  ]
  const everywhere = routes.filter(({ prefix }) => prefix === '0.0.0.0/0' || prefix === '::/0')
  const first = open[0] ?? CLOSED
  if (everywhere.length === 0)
    return {
      ...first,
      open: 'unknown',
      why:
        `it is open by ${open.map(({ port }) => port ?? '').join(', ')}, and which interface leads outside ` +
        'is not known',
    }
  const outside = everywhere.flatMap(({ port, nextHop }) => port ?? portTo(model, nextHop) ?? [])
  return (
    open.find(({ port }) => port !== null && outside.some((name) => sameName(name, port))) ?? {
      ...CLOSED,
      paths: first.paths,
    }
  )
}

function portTo({ interfaces }: DeviceModel, nextHop: string | null): string | null {
  const hop = nextHop === null ? null : parsePrefix(nextHop)
  if (!hop) return null
  return (
    interfaces.find(({ addresses }) =>
      addresses.some(({ address, prefixLength, family }) => {
        const subnet = family === hop.family ? parsePrefix(`${address}/${prefixLength}`) : null
        return (
          subnet !== null &&
          subnet.care.every((care, i) => (care & ((subnet.value[i] ?? 0) ^ (hop.value[i] ?? 0))) >>> 0 === 0)
        )
      }),
    )?.name ?? null
  )
}

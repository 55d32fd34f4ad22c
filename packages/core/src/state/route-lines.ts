/** Routes that are listed over several lines: one begins, and what follows adds next hops to it. */
import type { Writer } from '../model/index.ts'
import type { DeviceState } from './schema.ts'

type Route = DeviceState['routes'][number]

/** A route that the following lines may add next hops to. */
export function beginRoute(
  w: Writer<DeviceState>,
  memory: Map<string, string>,
  route: Partial<Route> & { prefix: string },
): Writer<Route> {
  const writer = w.add('routes', {
    family: route.prefix.includes(':') ? 'ipv6' : 'ipv4',
    vrf: memory.get('vrf') ?? null,
    ...route,
  })
  memory.set('route', String(w.target.routes.length - 1))
  return writer
}

export function addHop(
  w: Writer<DeviceState>,
  memory: Map<string, string>,
  hop: Partial<Route['nextHops'][number]>,
): void {
  w.more('routes', Number(memory.get('route') ?? -1))?.add('nextHops', hop)
}

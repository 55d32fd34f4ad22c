import { z } from 'zod'
import { count, flag, names, secretSchema, text } from './parts.ts'

export const staticRouteSchema = z.object({
  prefix: z.string(),
  nextHop: text,
  interface: text,
  discard: z.boolean(),
  distance: count,
  vrf: text,
  track: text,
  name: text,
  /** The VRF in which the next hop is looked up where it is another; `global`: the main table. */
  nextHopVrf: text,
  /** Words that could not be weighed. */
  notWeighed: names,
})
export const redistributionSchema = z.object({ source: z.string(), policy: text })
export const ospfSchema = z.object({
  process: z.string(),
  version: z.number(),
  vrf: text,
  routerId: text,
  areas: z.array(z.object({ id: z.string(), kind: text, authentication: text, virtualLink: flag })),
  networks: z.array(z.object({ prefix: z.string(), area: z.string() })),
  enabled: flag,
  /** Where `all` stands for every interface: the area, and how neighbours are authenticated. */
  areaOfAll: text,
  authenticationOfAll: text,
  disabled: names,
  passiveByDefault: flag,
  passive: names,
  active: names,
  redistributes: z.array(redistributionSchema),
  originatesDefault: flag,
})
export const bgpFamilySchema = z.object({
  family: z.string(),
  active: flag,
  policyIn: text,
  policyOut: text,
  prefixListIn: text,
  prefixListOut: text,
  /** Where `maximumPrefixes` are exceeded it only warns. */ onlyWarns: flag,
  maximumPrefixes: count,
})
export const bgpNeighbourSchema = z.object({
  address: z.string(),
  group: text,
  remoteAs: text,
  description: text,
  enabled: flag,
  secret: secretSchema.nullable(),
  /** The chain of keys that it is authenticated by (RFC 5925 and its like). */
  keyChain: text,
  /** `internal` or `external`, where it is stated. */
  kind: text,
  logsChanges: flag,
  /** Of a group: prefixes from which anybody may open a session. */
  allows: names,
  /** Templates that it has the rest from. */
  inherits: names,
  /** Hops allowed by the generalised TTL security mechanism (RFC 5082). */
  ttlSecurityHops: count,
  multihop: count,
  updateSource: text,
  families: z.array(bgpFamilySchema),
})
export const bgpSchema = z.object({
  as: z.string(),
  vrf: text,
  routerId: text,
  neighbours: z.array(bgpNeighbourSchema),
  /** Groups and templates, by name as `address`: what members have from them stands with the members. */
  groups: z.array(bgpNeighbourSchema),
  networks: names,
  redistributes: z.array(redistributionSchema),
  logsChanges: flag,
})
export const routePolicySchema = z.object({
  name: z.string(),
  entries: z.array(z.object({ sequence: z.string(), action: text, matches: names, sets: names })),
})
export const prefixListSchema = z.object({
  name: z.string(),
  family: z.enum(['ipv4', 'ipv6']),
  entries: z.array(z.object({ sequence: count, action: z.string(), prefix: z.string(), ge: count, le: count })),
})
export const communityListSchema = z.object({
  name: z.string(),
  entries: z.array(z.object({ action: z.string(), members: z.string() })),
})

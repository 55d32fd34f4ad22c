import { z } from 'zod'

const text = z.string().nullable()
const count = z.number().nullable()
const flag = z.boolean().nullable()

export const nextHopSchema = z.object({ address: text, interface: text, discard: z.boolean() })
/** One entry of a forwarding or routing table (RFC 8349 §5, `route`). */
export const routeSchema = z.object({
  prefix: z.string(),
  family: z.enum(['ipv4', 'ipv6']),
  vrf: text,
  /** `connected`, `local`, `static`, `ospf`, `bgp`, `isis`, `rip`, `eigrp`, `kernel`, or the word of the output. */
  protocol: z.string(),
  distance: count,
  metric: count,
  selected: z.boolean(),
  nextHops: z.array(nextHopSchema),
})
/** Interface state (RFC 8343: admin-status, oper-status, statistics). */
export const interfaceStateSchema = z.object({
  name: z.string(),
  admin: z.enum(['up', 'down']).nullable(),
  oper: z.enum(['up', 'down']).nullable(),
  mtu: count,
  /** Bits a second. */
  speed: count,
  mac: text,
  addresses: z.array(z.string()),
  counters: z.object({
    inOctets: count,
    outOctets: count,
    inErrors: count,
    outErrors: count,
    inDiscards: count,
    outDiscards: count,
  }),
})
/** Link-layer neighbour (IEEE 802.1AB). */
export const neighbourSchema = z.object({
  interface: z.string(),
  system: z.string(),
  port: text,
  capability: text,
  managementAddress: text,
})
export const addressEntrySchema = z.object({
  address: z.string(),
  family: z.enum(['ipv4', 'ipv6']),
  mac: text,
  interface: text,
  state: text,
})
export const macEntrySchema = z.object({ vlan: count, mac: z.string(), interface: z.string(), kind: text })
export const associationSchema = z.object({
  address: z.string(),
  selected: z.boolean(),
  stratum: count,
  reach: count,
  offset: count,
})
export const adjacencySchema = z.object({
  protocol: z.enum(['ospf', 'bgp']),
  neighbour: z.string(),
  address: text,
  interface: text,
  state: z.string(),
  up: z.boolean(),
  remoteAs: text,
  prefixes: count,
})

/** An IPsec security association (RFC 4301 §4.4.2). */
export const securityAssociationSchema = z.object({
  peer: z.string(),
  /** As eight hexadecimal digits. */
  spi: z.string(),
  direction: z.enum(['in', 'out']).nullable(),
  interface: text,
  algorithm: text,
  /** Octets protected so far. */
  bytes: count,
  /** Seconds until it is made anew. */
  lifetimeSeconds: count,
})
/** A secure channel of MACsec (IEEE 802.1AE): of one interface and one direction. */
export const secureChannelSchema = z.object({
  interface: z.string(),
  direction: z.enum(['in', 'out']).nullable(),
  sci: text,
  cipher: text,
  encrypts: flag,
  packets: count,
})
/** One part of the device that is watched: a fan, a power supply, a temperature. */
export const partSchema = z.object({
  kind: z.enum(['fan', 'power', 'temperature', 'other']),
  name: z.string(),
  ok: z.boolean(),
  reading: text,
})
export const alarmSchema = z.object({ text: z.string(), severity: text, since: text })
/** A rule by which the kernel chooses a routing table (`ip rule`). */
export const policyRuleSchema = z.object({
  priority: count,
  source: text,
  destination: text,
  interface: text,
  table: z.string(),
  /** What is done instead of a lookup: `blackhole`, `unreachable`, `prohibit`. */
  action: text,
  /** What else narrows it: marks, owners, ports. */
  notWeighed: z.array(z.string()),
})

/** How much of a processor, of memory or of storage is in use, in per cent. */
export const resourceSchema = z.object({
  kind: z.enum(['cpu', 'memory', 'storage']),
  name: z.string(),
  percent: z.number(),
})
/** The root of a spanning tree as a bridge sees it (IEEE 802.1Q), by VLAN or instance. */
export const spanningTreeSchema = z.object({
  instance: z.string(),
  /** Priority and address of the root. */
  rootPriority: count,
  root: z.string(),
  cost: count,
  /** The port towards it; null: the bridge is the root. */
  rootPort: text,
})
/** The part of a device in a group of first-hop redundancy (RFC 9568 and its like). */
export const redundancyStateSchema = z.object({
  protocol: z.string(),
  interface: z.string(),
  group: z.string(),
  /** `active`, `standby` or the word of the output, in lower case; VRRP's master is `active`. */
  role: z.string(),
  priority: count,
  active: text,
  address: text,
})

/** A service on the management address, by a TCP connect (RFC 9293 §3.5). */
export const serviceAnswerSchema = z.object({ port: z.number(), answer: z.enum(['open', 'closed', 'silent']) })

/** What a device was doing when its outputs were captured, in one form for every dialect. */
export const deviceStateSchema = z.object({
  routes: z.array(routeSchema),
  interfaces: z.array(interfaceStateSchema),
  neighbours: z.array(neighbourSchema),
  addresses: z.array(addressEntrySchema),
  macs: z.array(macEntrySchema),
  clock: z.object({ time: text, source: text }),
  ntp: z.object({ synchronised: flag, stratum: count, reference: text, associations: z.array(associationSchema) }),
  adjacencies: z.array(adjacencySchema),
  software: z.object({ version: text, model: text, serial: text, uptime: text }),
  alarms: z.array(alarmSchema),
  parts: z.array(partSchema),
  securityAssociations: z.array(securityAssociationSchema),
  secureChannels: z.array(secureChannelSchema),
  policyRules: z.array(policyRuleSchema),
  services: z.array(serviceAnswerSchema),
  resources: z.array(resourceSchema),
  spanningTrees: z.array(spanningTreeSchema),
  redundancy: z.array(redundancyStateSchema),
})
export type DeviceState = z.infer<typeof deviceStateSchema>

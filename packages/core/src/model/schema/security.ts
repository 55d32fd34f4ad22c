import { z } from 'zod'
import { count, flag, names, secretSchema, text } from './parts.ts'

const range = z.tuple([z.number(), z.number()])

/**
 * One entry of an access list; a field left out (empty list) is not asked about, ranges of one field are alternatives.
 */
export const accessEntrySchema = z.object({
  sequence: count,
  /**
   * `other`: it decides nothing by itself (it logs and goes on, or leads to another list). `unknown`: what it does was
   * not understood; it may permit or deny any packet that comes to it.
   */
  action: z.enum(['permit', 'deny', 'other', 'unknown']),
  /** As the listing states it, without secrets; remarks before it. */
  text: z.string(),
  remark: text,
  protocols: z.array(range),
  /** Prefixes, or `address/wildcard-bits` as `10.0.0.0 0.255.0.255` where a set is no prefix. */
  sources: names,
  destinations: names,
  sourcePorts: z.array(range),
  destinationPorts: z.array(range),
  icmpTypes: z.array(range),
  icmpCodes: z.array(range),
  dscp: z.array(range),
  /** Flags of TCP that must be set, or with `!` must not. */
  tcpFlags: names,
  established: z.boolean(),
  fragments: z.boolean(),
  logged: z.boolean(),
  /** Where packets come in and go out, of saved filter rules; `!` before what they must not. */
  inInterface: text,
  outInterface: text,
  /** States of the connection that a packet belongs to, in lower case; none: any. */
  connectionStates: names,
  /** The list that packets are led to; for good: what is not decided there does not come back here. */
  leadsTo: text,
  forGood: flag,
  /** The list whose entries are asked in its place; what they do not decide goes on here. */
  inlines: text,
  /** The VRF in whose table packets are looked up that it permits. */
  routingInstance: text,
  /** Of either end. */
  eitherPorts: z.array(range),
  /** Fields of this entry that a packet must not be as they say. */
  negated: names,
  /** Words that could not be weighed. */
  notWeighed: names,
  /** The fields of which a value is among those words: the entry may mean any value of them. */
  unreadFields: names,
})
/** `return`: what no entry decides goes back to the list that led here. */
export const accessListSchema = z.object({
  name: z.string(),
  family: z.enum(['ipv4', 'ipv6']),
  entries: z.array(accessEntrySchema),
  defaultAction: z.enum(['permit', 'deny', 'return']),
})

/** Classes of traffic and what is done with them, by their names. */
export const trafficClassSchema = z.object({
  name: z.string(),
  matches: names,
  /** Whether one of the matches is enough; null where it is not stated, and all are needed. */
  any: flag,
})
export const trafficPolicySchema = z.object({
  name: z.string(),
  classes: names,
  /** Those of them whose packets are dropped. */
  drops: names,
  /** Between zones: what is done with each class, in the order in which they are asked. */
  inspections: z.array(z.object({ class: z.string(), action: text })),
})

/** Addresses, and applications, by the names that lines give them. */
export const addressGroupSchema = z.object({ name: z.string(), members: names })
export const applicationSchema = z.object({
  name: z.string(),
  protocol: text,
  sourcePorts: z.array(range),
  destinationPorts: z.array(range),
  icmpTypes: z.array(range),
  members: names,
  /** Words that could not be weighed. */
  notWeighed: names,
})

const inboundSchema = z.object({ services: names, protocols: names })

/** `inbound`: what its interfaces let in to the device itself; `ownInbound`: where one of them says otherwise. */
export const zoneSchema = z.object({
  name: z.string(),
  interfaces: names,
  inbound: inboundSchema,
  ownInbound: z.array(inboundSchema.extend({ interface: z.string() })),
  screen: text,
})
/**
 * Of a pair of zones; of all of them, asked after those of a pair; within a zone, asked after those; or what is done
 * where no policy meets a packet.
 */
export const zonePolicySchema = z.object({
  name: z.string(),
  from: z.string(),
  to: z.string(),
  scope: z.enum(['pair', 'global', 'within', 'default']),
  sources: names,
  destinations: names,
  applications: names,
  /** Of a policy of all zones: those that it is of; none: all. */
  fromZones: names,
  toZones: names,
  action: text,
  /** What the sources of packets that it permits become: `interface`, or the name of a pool. */
  sourceTranslation: text,
  logged: z.boolean(),
  /** Words that could not be weighed. */
  notWeighed: names,
})
export const natSchema = z.object({
  kind: z.string(),
  statement: z.string(),
  interface: text,
  /**
   * Where the rule stands among rules that are asked in turn, and what it asks of a packet; null where that was not
   * understood.
   */
  chain: text,
  family: text,
  match: accessEntrySchema.nullable(),
  changes: z.enum(['source', 'destination']).nullable(),
  /** The access list that chooses the packets, and the pool of addresses that are handed out. */
  list: text,
  pool: text,
  /** Of rules between zones: the zones, and what they ask of a packet; a rule has those of its set. */
  fromZone: text,
  toZone: text,
  sources: names,
  destinations: names,
  destinationPorts: z.array(range),
  /**
   * What the address and the ports become: one, or a range as `10.0.0.1-10.0.0.9`; `interface`: that of the interface
   * it leaves by.
   */
  address: text,
  ports: text,
})
/** A certificate that stands in the configuration (RFC 5280); what could not be decoded is null. */
export const certificateSchema = z.object({
  serial: text,
  role: text,
  subject: text,
  issuer: text,
  notBefore: text,
  notAfter: text,
  keyKind: text,
  keyBits: count,
  signature: text,
})
export const trustPointSchema = z.object({
  name: z.string(),
  subject: text,
  keyPair: text,
  revocationCheck: text,
  certificates: z.array(certificateSchema),
})
export const ikeProposalSchema = z.object({
  name: z.string(),
  version: z.number(),
  encryption: names,
  integrity: names,
  groups: names,
  authentication: text,
  lifetimeSeconds: count,
})
export const espProposalSchema = z.object({ name: z.string(), algorithms: names, mode: text, lifetimeSeconds: count })
export const ipsecPeerSchema = z.object({
  name: z.string(),
  address: text,
  secret: secretSchema.nullable(),
  proposal: text,
  selector: text,
  pfs: text,
  lifetimeSeconds: count,
})
/** `version`: of IKE. `interface`: by which it is reached, or the address that it is reached from. */
export const ikeGatewaySchema = z.object({
  name: z.string(),
  address: text,
  policy: text,
  interface: text,
  version: count,
})
/** `proposalSet`: the software's own, by its name. */
export const ikePolicySchema = z.object({ name: z.string(), mode: text, proposals: names, proposalSet: text })
/** What a tunnel is protected with: a policy, a profile, or an entry of a map. */
export const ipsecPolicySchema = z.object({
  name: z.string(),
  kind: z.enum(['policy', 'profile', 'map']),
  proposals: names,
  proposalSet: text,
  pfs: text,
  lifetimeSeconds: count,
})
export const vpnSchema = z.object({ name: z.string(), gateway: text, policy: text, interface: text })
export const macsecSchema = z.object({ name: z.string(), cipher: text, include: flag })

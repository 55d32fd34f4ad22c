import { z } from 'zod'
import { count, filterSchema, flag, secretSchema, text } from './parts.ts'

export const addressSchema = z.object({
  address: z.string(),
  prefixLength: z.number(),
  family: z.enum(['ipv4', 'ipv6']),
  secondary: z.boolean(),
})
export const fhrpSchema = z.object({
  protocol: z.string(),
  group: z.string(),
  address: text,
  priority: count,
  preempt: flag,
  secret: secretSchema.nullable(),
  md5: flag,
})

/** An interface or sub-interface (names after openconfig-interfaces and RFC 8343, 8344). */
export const interfaceSchema = z.object({
  name: z.string(),
  kind: z.enum(['ethernet', 'aggregate', 'vlan', 'loopback', 'tunnel', 'management', 'serial', 'bridge', 'other']),
  enabled: flag,
  description: text,
  addresses: z.array(addressSchema),
  /** `dhcp`, `unnumbered NAME`, `slaac`: how it comes by an address that is not listed. */
  addressBy: text,
  mtu: count,
  vrf: text,
  zone: text,
  switching: z.object({
    mode: text,
    accessVlan: count,
    nativeVlan: count,
    voiceVlan: count,
    allowedVlans: text,
    negotiates: flag,
  }),
  /** `edge`: how it forwards at once (`off`: not, whatever holds for all ports); guards against bridges beyond it. */
  spanningTree: z.object({ edge: text, guard: flag, filter: flag, rootGuard: flag }),
  /** Whether answers of DHCP and ARP that come in here are believed. */
  trusted: z.object({ dhcp: flag, arp: flag }),
  aggregate: text,
  filters: filterSchema,
  /** Route maps that choose where packets that come in are sent, before the table is asked. */
  policyRoutes: z.object({ ipv4: text, ipv6: text }),
  proxyArp: flag,
  redirects: flag,
  unreachables: flag,
  directedBroadcast: flag,
  /** Reverse-path check (RFC 3704): `strict` or `loose`. */
  reversePath: text,
  tunnel: z.object({ source: text, destination: text, mode: text, key: text, protection: text }),
  encryption: text,
  stormControl: z.array(z.object({ traffic: z.string(), level: z.string() })),
  portSecurity: z.object({ enabled: flag, maximum: count, violation: text }),
  /** Authentication of what is attached (IEEE 802.1X, by address). */
  portAuthentication: text,
  /** By what it asks: `dot1x`, `address`, or either; whether traffic passes before anyone has answered. */
  authenticates: text,
  authenticationOpen: flag,
  ospf: z.object({
    cost: count,
    /**
     * `message-digest`, `clear`, `null`, `key-chain NAME`, `ipsec`; `keyed`: a key is stated, whether it is used or
     * not.
     */
    authentication: text,
    keyed: flag,
    network: text,
    area: text,
    passive: flag,
    helloSeconds: count,
    deadSeconds: count,
  }),
  redundancy: z.array(fhrpSchema),
  helpers: z.array(z.string()),
  nat: text,
  lldp: flag,
  cdp: flag,
  /** Whether it speaks IPv6 without an address that is listed. */
  ipv6: flag,
  speed: text,
  duplex: text,
  policies: z.object({ input: text, output: text }),
})

/** `accessMap`: the map that what crosses the VLAN is asked by. */
export const vlanSchema = z.object({ id: z.number(), name: text, interface: text, accessMap: text })
/** Lists that choose frames of a VLAN, and what is done with those that one of them permits. */
export const accessMapSchema = z.object({
  name: z.string(),
  entries: z.array(
    z.object({
      sequence: count,
      action: z.enum(['forward', 'drop', 'unknown']),
      lists4: z.array(z.string()),
      lists6: z.array(z.string()),
      notWeighed: z.array(z.string()),
    }),
  ),
})
export const vrfSchema = z.object({ name: z.string(), routeDistinguisher: text, description: text })

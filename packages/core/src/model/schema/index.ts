import { z } from 'zod'
import { accessMapSchema, interfaceSchema, vlanSchema, vrfSchema } from './interfaces.ts'
import {
  bgpSchema,
  communityListSchema,
  ospfSchema,
  prefixListSchema,
  routePolicySchema,
  staticRouteSchema,
} from './routing.ts'
import {
  accessListSchema,
  addressGroupSchema,
  applicationSchema,
  espProposalSchema,
  ikeGatewaySchema,
  ikePolicySchema,
  ikeProposalSchema,
  ipsecPeerSchema,
  ipsecPolicySchema,
  macsecSchema,
  natSchema,
  trafficClassSchema,
  trafficPolicySchema,
  trustPointSchema,
  vpnSchema,
  zonePolicySchema,
  zoneSchema,
} from './security.ts'
import { systemSchema } from './system.ts'

export * from './interfaces.ts'
export * from './parts.ts'
export * from './routing.ts'
export * from './security.ts'
export * from './system.ts'

/**
 * What a device's configuration says, in one form for every dialect. Plain values; where each is from is told by its
 * origin.
 */
export const deviceModelSchema = z.object({
  dialect: z.string(),
  /** Whether the listing shows defaults (`full`) or hides them (`ordinary`). */
  listing: z.enum(['ordinary', 'full']),
  system: systemSchema,
  interfaces: z.array(interfaceSchema),
  vlans: z.array(vlanSchema),
  accessMaps: z.array(accessMapSchema),
  vrfs: z.array(vrfSchema),
  staticRoutes: z.array(staticRouteSchema),
  ospf: z.array(ospfSchema),
  bgp: z.array(bgpSchema),
  routePolicies: z.array(routePolicySchema),
  prefixLists: z.array(prefixListSchema),
  communityLists: z.array(communityListSchema),
  accessLists: z.array(accessListSchema),
  addressGroups: z.array(addressGroupSchema),
  applications: z.array(applicationSchema),
  zones: z.array(zoneSchema),
  zonePolicies: z.array(zonePolicySchema),
  nat: z.array(natSchema),
  trustPoints: z.array(trustPointSchema),
  ikeProposals: z.array(ikeProposalSchema),
  espProposals: z.array(espProposalSchema),
  ikeGateways: z.array(ikeGatewaySchema),
  ikePolicies: z.array(ikePolicySchema),
  ipsecPolicies: z.array(ipsecPolicySchema),
  vpns: z.array(vpnSchema),
  ipsecPeers: z.array(ipsecPeerSchema),
  macsec: z.array(macsecSchema),
  trafficClasses: z.array(trafficClassSchema),
  trafficPolicies: z.array(trafficPolicySchema),
})
export type DeviceModel = z.infer<typeof deviceModelSchema>

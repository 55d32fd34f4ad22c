import { z } from 'zod'

/** Most addresses that a discovery tries of a range. */
export const MOST_TRIED = 1024

/** Where a discovery begins, and how far it goes. */
export const discoveryPlanSchema = z.strictObject({
  /** Addresses of first devices; their neighbours follow. */
  first: z
    .array(
      z
        .string()
        .trim()
        .regex(/^[\w.:-]+$/, 'a name or an address')
        .max(255),
    )
    .max(20)
    .default([]),
  /** Links that are followed from a first device. */
  hops: z.int().min(0).max(32).default(8),
  /** A prefix whose addresses are tried one by one; null where none is. */
  range: z.string().trim().nullable().default(null),
  port: z.int().min(1).max(65535).default(22),
  /** Logs in also where the host key is another than the one that was seen there before, as after a replacement. */
  otherKeys: z.boolean().default(false),
  /** Port at which a device that does not print its serial number is asked for it over SNMPv3; null: it is not. */
  snmpPort: z.int().min(1).max(65535).nullable().default(null),
})
export type DiscoveryPlan = z.infer<typeof discoveryPlanSchema>

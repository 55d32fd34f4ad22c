import { z } from 'zod'

/** What people, and the records themselves, say of a device. */
export const deviceFactsView = z.strictObject({
  name: z.string().optional(),
  labels: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()])).optional(),
  groups: z.array(z.string()).optional(),
  role: z.string().optional(),
  site: z.string().optional(),
  model: z.string().optional(),
  os: z.string().optional(),
  version: z.string().optional(),
  managementAddress: z.string().optional(),
  dialect: z.string().optional(),
})
export type DeviceFactsView = z.infer<typeof deviceFactsView>

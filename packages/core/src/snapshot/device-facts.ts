import { DIALECT_IDS } from '../dialects/index.ts'
import { z } from 'zod'

const labelValue = z.union([z.string(), z.number(), z.boolean()])

export const deviceFactsSchema = z.strictObject({
  /** Of the device, where it cannot be the name of a folder. */
  name: z.string().min(1).max(160).optional(),
  labels: z.record(z.string(), labelValue).default({}),
  /** Names of the groups that the device belongs to. */
  groups: z.array(z.string().min(1)).optional(),
  role: z.string().optional(),
  site: z.string().optional(),
  model: z.string().optional(),
  os: z.string().optional(),
  version: z.coerce.string().optional(),
  managementAddress: z.string().optional(),
  /** Overrides what the content looks like. */
  dialect: z.enum(DIALECT_IDS).optional(),
})
export type DeviceFacts = z.infer<typeof deviceFactsSchema>

export const snapshotFactsSchema = z.strictObject({
  title: z.string().optional(),
  takenAt: z.iso.datetime({ offset: true }).optional(),
  note: z.string().optional(),
})

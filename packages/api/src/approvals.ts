import { asOf } from './as-of.ts'
import { z } from 'zod'
import { approvalSchema, exceptionSchema } from '@jurybox/core/estate'
import { endpoint } from './endpoint.ts'

/** Who set it, and when. */
const storedSchema = z.strictObject({ id: z.number(), setBy: z.string(), setAt: z.string() })

/** An approved version as it is stored: every field is there. */
const approvalView = z.strictObject({
  /** Model codes that are one family. */
  models: z.array(z.string()),
  label: z.strictObject({ name: z.string(), value: z.union([z.boolean(), z.string(), z.number()]) }).nullable(),
  device: z.string().nullable(),
  version: z.string(),
  /** The image: its file, where it came from, its SHA-256 in hexadecimal digits. */
  image: z.string(),
  source: z.string(),
  sha256: z.string(),
  /** Model codes whose hardware runs the image; nothing else may be given it. */
  fits: z.array(z.string()),
  /** Who reviewed its known faults, when, and with what result. */
  reviewedBy: z.string(),
  reviewedAt: z.string().nullable(),
  note: z.string(),
})

export const approvalsView = z.strictObject({
  versions: z.array(storedSchema.extend(approvalView.shape)),
  exceptions: z.array(storedSchema.extend(exceptionSchema.shape)),
  devices: z.array(
    z.strictObject({
      device: z.string(),
      os: z.string(),
      model: z.string().nullable(),
      version: z.string().nullable(),
      standing: z.enum(['unknown', 'none', 'on', 'off']),
      why: z.string(),
      versions: z.array(z.string()),
      images: z.array(z.strictObject({ image: z.string(), version: z.string() })),
    }),
  ),
})
export type ApprovalsView = z.infer<typeof approvalsView>

/** Approved versions with their images, exceptions, and the standing of each device. */
export const listApprovals = endpoint({
  method: 'get',
  path: '/engagements/:engagement/approvals',
  access: 'read',
  summary: 'Approved versions with their images, exceptions, and the standing of each device',
  query: asOf,
  response: approvalsView,
})

/** Approves a version for models, for the value of a label, or for one device. */
export const approveVersion = endpoint({
  method: 'post',
  path: '/engagements/:engagement/approvals',
  access: 'describe',
  summary: 'Approves a version for models, for the value of a label, or for one device',
  body: approvalSchema,
  response: z.strictObject({ id: z.number() }),
})

/** Allows one device another version, for a reason and until a date. */
export const addApprovalException = endpoint({
  method: 'post',
  path: '/engagements/:engagement/approval-exceptions',
  access: 'describe',
  summary: 'Allows one device another version, for a reason and until a date',
  body: exceptionSchema,
  response: z.strictObject({ id: z.number() }),
})

/** Deletes an approved version or an exception. */
export const deleteApproval = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/approvals/:approval',
  access: 'describe',
  summary: 'Deletes an approved version or an exception',
})

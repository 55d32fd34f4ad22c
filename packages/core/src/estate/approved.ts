import { z } from 'zod'
import type { LabelValue } from './labels.ts'

/** A version that devices may run: for models, for what a label says, or for one device. */
export const approvalSchema = z
  .strictObject({
    /** Model codes that are one family. */
    models: z.array(z.string().trim().min(1).max(160)).max(100).default([]),
    label: z
      .strictObject({ name: z.string().min(1).max(60), value: z.union([z.string().max(500), z.number(), z.boolean()]) })
      .nullable()
      .default(null),
    device: z.string().min(1).max(160).nullable().default(null),
    version: z.string().trim().min(1).max(120),
    /** The image: its file, where it came from, its SHA-256 in hexadecimal digits. */
    image: z.string().trim().max(255).default(''),
    source: z.string().trim().max(255).default(''),
    sha256: z
      .string()
      .trim()
      .toLowerCase()
      .regex(/^(?:[\da-f]{64})?$/, '64 hexadecimal digits')
      .default(''),
    /** Model codes whose hardware runs the image; nothing else may be given it. */
    fits: z.array(z.string().trim().min(1).max(160)).max(100).default([]),
    /** Who reviewed its known faults, when, and with what result. */
    reviewedBy: z.string().trim().max(120).default(''),
    reviewedAt: z.iso.date().nullable().default(null),
    note: z.string().max(1000).default(''),
  })
  .superRefine(({ models, label, device, fits, reviewedBy, reviewedAt }, context) => {
    if ([models.length > 0, label !== null, device !== null].filter(Boolean).length !== 1)
      context.addIssue({ code: 'custom', path: ['models'], message: 'expected models, a label or a device' })
    const stranger = models.find((model) => fits.length > 0 && !fits.includes(model))
    if (stranger !== undefined)
      context.addIssue({ code: 'custom', path: ['fits'], message: `must include the model “${stranger}”` })
    if ((reviewedBy === '') !== (reviewedAt === null))
      context.addIssue({ code: 'custom', path: ['reviewedAt'], message: 'a review needs a person and a date' })
  })
export type Approval = z.infer<typeof approvalSchema>

/** A device that may run another version than its list says, for a reason and a time. */
export const exceptionSchema = z.strictObject({
  device: z.string().min(1).max(160),
  version: z.string().trim().min(1).max(120),
  reason: z.string().trim().min(1).max(500),
  until: z.iso.date(),
})
export type ApprovalException = z.infer<typeof exceptionSchema>

export interface RunningDevice {
  readonly name: string
  readonly model: string | null
  readonly version: string | null
  readonly labels: Readonly<Record<string, LabelValue>>
}

export type Approvedness = 'on' | 'off' | 'none' | 'unknown'

export interface ApprovalAnswer {
  readonly standing: Approvedness
  /** In words: which list decided, and what it says. */
  readonly why: string
  /** Versions of the list that decided. */
  readonly versions: readonly string[]
}

/**
 * Whether a device runs an approved version. The list of the device itself goes before that of a label, and that before
 * that of its model; an exception that has not ended goes before all.
 * @param today `full-date` of RFC 3339
 */
export function approvalOf(
  device: RunningDevice,
  approvals: readonly Approval[],
  exceptions: readonly ApprovalException[],
  today: string,
): ApprovalAnswer {
  const { list, of } = listFor(device, approvals)
  const versions = [...new Set(list.map(({ version }) => version))]
  if (device.version === null)
    return {
      standing: list.length === 0 ? 'none' : 'unknown',
      why: list.length === 0 ? 'no policy applies' : `version unknown; approved ${of}: ${versions.join(', ')}`,
      versions,
    }
  const borne = exceptions.find(
    (one) => one.device === device.name && one.version === device.version && one.until >= today,
  )
  if (borne) return { standing: 'on', why: `an exception until ${borne.until}: ${borne.reason}`, versions }
  if (list.length === 0) return { standing: 'none', why: 'no policy applies', versions }
  return versions.includes(device.version)
    ? { standing: 'on', why: `${device.version} is approved ${of}`, versions }
    : { standing: 'off', why: `${device.version} is not approved ${of}; approved: ${versions.join(', ')}`, versions }
}

/** The images that a plan may name for a device: approved for it, and made for its hardware. */
export function imagesFor(
  device: RunningDevice,
  approvals: readonly Approval[],
): { readonly images: readonly Approval[]; readonly unfit: readonly Approval[] } {
  const { list } = listFor(device, approvals)
  const fits = ({ fits }: Approval): boolean => device.model !== null && fits.includes(device.model)
  return {
    images: list.filter((one) => one.image !== '' && fits(one)),
    unfit: list.filter((one) => one.image !== '' && !fits(one)),
  }
}

function listFor(
  { name, model, labels }: RunningDevice,
  approvals: readonly Approval[],
): { readonly list: readonly Approval[]; readonly of: string } {
  const own = approvals.filter(({ device }) => device === name)
  if (own.length > 0) return { list: own, of: 'for this device' }
  const labelled = approvals.filter(({ label }) => label !== null && labels[label.name] === label.value)
  if (labelled.length > 0)
    return {
      list: labelled,
      of:
        'for devices with label ' +
        `${[...new Set(labelled.map(({ label }) => `${label?.name}: ${String(label?.value)}`))].join(', ')}`,
    }
  return {
    list: model === null ? [] : approvals.filter(({ models }) => models.includes(model)),
    of: `for ${model ?? ''}`,
  }
}

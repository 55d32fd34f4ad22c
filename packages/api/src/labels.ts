import { labelSchema } from '@jurybox/core/estate'
import { z } from 'zod'
import { lineOf } from './text.ts'
import { endpoint } from './endpoint.ts'

export const devicesSchema = z.array(z.string().max(160)).min(1).max(5000)

export const labelValue = z.union([z.boolean(), z.string(), z.number()])
export type LabelValue = z.infer<typeof labelValue>

export const deviceLabel = z.strictObject({
  label: z.string(),
  value: labelValue,
  how: z.enum(['rule', 'list', 'person', 'snapshot']),
  by: z.string(),
  at: z.string().nullable(),
})
export type DeviceLabel = z.infer<typeof deviceLabel>

export const labelsView = z.strictObject({
  defined: z.array(
    z.strictObject({
      name: z.string(),
      type: z.enum(['number', 'date', 'text', 'flag', 'choice', 'person']),
      /** What may be chosen. */
      choices: z.array(z.string()),
      note: z.string(),
      /** CEL over `device` that gives the value; where it cannot be evaluated the label stays as it is. */
      sets: z.string().nullable(),
      devices: z.number(),
    }),
  ),
  undefined: z.array(z.strictObject({ name: z.string(), devices: z.number() })),
})
export type LabelsView = z.infer<typeof labelsView>

/** One label of one device that is, or would be, another one. */
export const labelChange = z.strictObject({
  device: z.string(),
  label: z.string(),
  before: labelValue.nullable(),
  after: labelValue.nullable(),
})
export type LabelChange = z.infer<typeof labelChange>

export const fromFactsView = z.strictObject({
  changes: z.array(labelChange),
  refused: z.array(z.strictObject({ device: z.string(), label: z.string(), reason: z.string() })),
})
export type FromFactsView = z.infer<typeof fromFactsView>

export const listView = z.strictObject({
  labels: z.array(labelChange),
  facts: z.array(
    z.strictObject({ device: z.string(), fact: z.string(), before: z.string().nullable(), after: z.string() }),
  ),
  refused: z.array(z.strictObject({ line: z.number(), reason: z.string() })),
  applied: z.boolean(),
})
export type ListView = z.infer<typeof listView>

export const siteRow = z.strictObject({
  name: z.string(),
  title: z.string(),
  around: z.string().nullable(),
  devices: z.number(),
})
export type SiteRow = z.infer<typeof siteRow>

/** Labels that are defined, and label names that devices bring along. */
export const listLabels = endpoint({
  method: 'get',
  path: '/engagements/:engagement/labels',
  access: 'read',
  summary: 'Labels that are defined, and label names that devices bring along',
  response: labelsView,
})

/** Defines a label, or changes it. */
export const defineLabel = endpoint({
  method: 'put',
  path: '/engagements/:engagement/labels',
  access: 'describe',
  summary: 'Defines a label, or changes it',
  body: labelSchema,
})

/** Deletes a label with its values. */
export const deleteLabel = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/labels/:label',
  access: 'describe',
  summary: 'Deletes a label with its values',
  response: z.strictObject({ devices: z.array(z.string()) }),
})

/** Sets or clears a label on devices. */
export const setLabel = endpoint({
  method: 'post',
  path: '/engagements/:engagement/labels/set',
  access: 'describe',
  summary: 'Sets or clears a label on devices',
  large: true,
  body: z.strictObject({
    label: z.string().max(60),
    value: z.union([z.string().max(500), z.number(), z.boolean()]).nullable(),
    devices: devicesSchema,
  }),
  response: z.strictObject({ came: z.array(z.strictObject({ device: z.string(), what: z.string() })) }),
})

/** Labels that the fact rules would set. */
export const previewLabelsFromFacts = endpoint({
  method: 'get',
  path: '/engagements/:engagement/labels/from-facts',
  access: 'read',
  summary: 'Labels that the fact rules would set',
  response: fromFactsView,
})

/** Sets labels by the fact rules. */
export const applyLabelsFromFacts = endpoint({
  method: 'post',
  path: '/engagements/:engagement/labels/from-facts',
  access: 'describe',
  summary: 'Sets labels by the fact rules',
  response: z.strictObject({ set: z.number() }),
})

/** Devices with facts and labels, as CSV. */
export const exportDevices = endpoint({
  method: 'get',
  path: '/engagements/:engagement/devices.csv',
  access: 'read',
  summary: 'Devices with facts and labels, as CSV',
  file: 'text/csv',
})

/** Imports labels and facts of devices from CSV; without `apply`, only shows the changes. */
export const importDeviceList = endpoint({
  method: 'post',
  path: '/engagements/:engagement/devices-list',
  access: 'describe',
  summary: 'Imports labels and facts of devices from CSV; without `apply`, only shows the changes',
  large: true,
  body: z.strictObject({ text: z.string().min(1).max(900_000), apply: z.boolean() }),
  response: listView,
})

/** Sites with the site around each, and the count of devices. */
export const listSites = endpoint({
  method: 'get',
  path: '/engagements/:engagement/sites',
  access: 'read',
  summary: 'Sites with the site around each, and the count of devices',
  response: z.array(siteRow),
})

/** Sets the title of a site and the site around it. */
export const setSite = endpoint({
  method: 'put',
  path: '/engagements/:engagement/sites',
  access: 'describe',
  summary: 'Sets the title of a site and the site around it',
  body: z.strictObject({ name: lineOf(120), title: lineOf(160), around: lineOf(120).nullable() }),
})

/** Deletes the title and place of a site; its devices stay. */
export const deleteSite = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/sites/:site',
  access: 'describe',
  summary: 'Deletes the title and place of a site; its devices stay',
})

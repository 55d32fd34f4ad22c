import { deviceFactsView } from './device-facts.ts'
import { asOf } from './as-of.ts'
import { z } from 'zod'
import { outcomeSchema } from './outcomes.ts'
import { deviceLabel } from './labels.ts'
import { deviceModelSchema } from '@jurybox/core/model'
import { origin } from './places.ts'
import { deviceStateSchema } from '@jurybox/core/state'
import { endpoint } from './endpoint.ts'

export const deviceRow = z.strictObject({
  id: z.number(),
  name: z.string(),
  dialect: z.string(),
  facts: deviceFactsView,
  lines: z.number(),
  unread: z.number(),
  whole: z.boolean(),
  takenAt: z.string().nullable(),
  timeSource: z.string(),
  carried: z.boolean(),
  /** Why it was not collected with this snapshot; null where it was, or nobody tried. */
  down: z.string().nullable(),
  /** Since when its configuration is as it is. */
  changedAt: z.string().nullable(),
  counts: z.partialRecord(outcomeSchema, z.number()),
})
export type DeviceRow = z.infer<typeof deviceRow>

export const recordView = z.strictObject({
  id: z.number(),
  kind: z.string(),
  title: z.string(),
  path: z.string(),
  fingerprint: z.string(),
  lineCount: z.number(),
  unread: z.number(),
  faults: z.array(z.strictObject({ line: z.number(), reason: z.string() })),
  takenAt: z.string().nullable(),
  timeSource: z.string(),
  carried: z.boolean(),
})
export type RecordView = z.infer<typeof recordView>

export const deviceView = z.strictObject({
  id: z.number(),
  name: z.string(),
  dialect: z.string(),
  facts: deviceFactsView,
  snapshot: z.strictObject({ id: z.number(), title: z.string() }),
  auditId: z.number().nullable(),
  labels: z.array(deviceLabel),
  lines: z.number(),
  records: z.array(recordView),
})
export type DeviceView = z.infer<typeof deviceView>

export const recordText = recordView.extend({
  device: z.strictObject({ id: z.number(), name: z.string() }),
  unreadLines: z.array(z.number()),
  lines: z.array(z.string()),
})
export type RecordText = z.infer<typeof recordText>

export const modelView = z.strictObject({
  record: z.number(),
  lines: z.number(),
  model: deviceModelSchema,
  origins: z.record(z.string(), origin),
  /** The dialect that the content looks like, and how much of it reads so; null where it looks like none. */
  looksLike: z.strictObject({ dialect: z.string(), share: z.number() }).nullable(),
  unread: z.array(
    z.strictObject({
      record: z.string(),
      line: z.number(),
      lastLine: z.number().optional(),
      text: z.string(),
      block: z.string().nullable(),
      /** Parts of the model that the line may speak of, where they are known. */
      parts: z.array(z.string()).optional(),
    }),
  ),
})
export type ModelView = z.infer<typeof modelView>

export const stateView = z.strictObject({
  state: deviceStateSchema,
  origins: z.record(z.string(), origin),
  records: z.array(
    z.strictObject({
      record: z.number(),
      kind: z.string(),
      form: z.string().nullable(),
      reason: z.string().nullable(),
      unread: z.array(z.number()),
      takenAt: z.string().nullable(),
    }),
  ),
})
export type StateView = z.infer<typeof stateView>

export const deviceVerdict = z.strictObject({
  id: z.number(),
  auditId: z.number(),
  benchmark: z.string(),
  rule: z.string(),
  /** Of the rule. */
  title: z.string(),
  outcome: outcomeSchema,
  severity: z.string(),
  note: z.string(),
})
export type DeviceVerdict = z.infer<typeof deviceVerdict>

/** The devices as of a snapshot, with counts of verdicts. */
export const listDevices = endpoint({
  method: 'get',
  path: '/engagements/:engagement/devices',
  access: 'read',
  summary: 'The devices as of a snapshot, with counts of verdicts',
  query: asOf,
  response: z.strictObject({
    snapshot: z.strictObject({ id: z.number(), title: z.string(), takenAt: z.string() }).nullable(),
    audit: z.strictObject({ id: z.number() }).nullable(),
    devices: z.array(deviceRow),
  }),
})

/** One device: facts, labels and records. */
export const getDevice = endpoint({
  method: 'get',
  path: '/engagements/:engagement/devices/:device',
  access: 'read',
  summary: 'One device: facts, labels and records',
  query: asOf,
  response: deviceView,
})

/** The device model with the source lines of each value, and the unparsed lines. */
export const getDeviceModel = endpoint({
  method: 'get',
  path: '/engagements/:engagement/devices/:device/model',
  access: 'read',
  summary: 'The device model with the source lines of each value, and the unparsed lines',
  query: asOf,
  response: modelView,
})

/** Sets the dialect in which the configurations of a device are parsed. */
export const setDialect = endpoint({
  method: 'put',
  path: '/engagements/:engagement/devices/:device/dialect',
  access: 'import',
  summary: 'Sets the dialect in which the configurations of a device are parsed',
  body: z.strictObject({ dialect: z.string().max(40) }),
  response: z.strictObject({ dialect: z.string(), records: z.number() }),
})

/** The operational state of a device with the source lines of each value. */
export const getDeviceState = endpoint({
  method: 'get',
  path: '/engagements/:engagement/devices/:device/state',
  access: 'read',
  summary: 'The operational state of a device with the source lines of each value',
  query: asOf,
  response: stateView,
})

/** One record with its lines, secrets masked. */
export const getRecord = endpoint({
  method: 'get',
  path: '/engagements/:engagement/records/:record',
  access: 'read',
  summary: 'One record with its lines, secrets masked',
  response: recordText,
})

/** The verdicts on one device, of the last audit of a snapshot. */
export const listDeviceVerdicts = endpoint({
  method: 'get',
  path: '/engagements/:engagement/devices/:device/verdicts',
  access: 'read',
  summary: 'The verdicts on one device, of the last audit of a snapshot',
  query: asOf,
  response: z.array(deviceVerdict),
})

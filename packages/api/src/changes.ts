import { z } from 'zod'
import { severitySchema } from '@jurybox/core/rules'
import { LISTINGS } from '@jurybox/core/compare'
import { endpoint } from './endpoint.ts'

const id = z.coerce.number().int().positive()
/** Lines of a record, from 1, both included. */
const cited = z.strictObject({ record: z.number(), from: z.number(), to: z.number() })
const side = z.enum(['a', 'b'])
const moment = z.strictObject({ id: z.number(), title: z.string(), takenAt: z.string() })

/** Who changed a configuration: what the device said in a message, or what its listing says. */
export const authorView = z.strictObject({
  by: z.string().nullable(),
  /** From where; null where it was not said. */
  place: z.string().nullable(),
  at: z.string().nullable(),
  source: z.enum(['syslog', 'listing']),
})
export type AuthorView = z.infer<typeof authorView>

/** Why a change was meant: a window that plans the device, or somebody's approval of the state. */
export const explanationView = z.strictObject({
  kind: z.enum(['window', 'approval']),
  /** Of the window, or of the snapshot or state that was approved. */
  id: z.number(),
  title: z.string(),
  by: z.string(),
})
export type ExplanationView = z.infer<typeof explanationView>

export const changeCounts = z.strictObject({
  lines: z.number(),
  meanings: z.number(),
  accessLists: z.number(),
  state: z.number(),
  flows: z.number().optional(),
})

/** `unreadable`: a record cannot be read on one side. `carried`: B holds the record of A, not captured again. */
export const STANDINGS = ['changed', 'added', 'removed', 'unreadable', 'same', 'carried'] as const

export const changedDevice = z.strictObject({
  device: z.number(),
  name: z.string(),
  site: z.string().nullable(),
  standing: z.enum(STANDINGS),
  counts: changeCounts,
  doubts: z.number(),
  /** The first few changes, in words. */
  summary: z.array(z.string()),
  authors: z.array(authorView),
  /** Whether the configuration is another one; state alone needs no explanation. */
  configured: z.boolean(),
  explained: explanationView.nullable(),
  findings: z.strictObject({ new: z.number(), resolved: z.number() }),
})
export type ChangedDevice = z.infer<typeof changedDevice>

export const comparisonView = z.strictObject({
  a: moment,
  b: moment,
  devices: z.array(changedDevice),
  /** Whether both snapshots were audited, so that findings can be compared. */
  audited: z.boolean(),
})
export type ComparisonView = z.infer<typeof comparisonView>

export const shownStatement = z.strictObject({
  change: z.enum(['removed', 'added', 'moved']),
  around: z.array(z.string()),
  text: z.string(),
  inner: z.number(),
  unparsed: z.boolean(),
  a: z.array(cited),
  b: z.array(cited),
})
export type ShownStatementView = z.infer<typeof shownStatement>

export const modelChange = z.strictObject({
  change: z.enum(['added', 'removed', 'changed', 'moved']),
  subject: z.array(z.string()),
  field: z.string(),
  before: z.string().nullable(),
  after: z.string().nullable(),
  a: z.array(cited),
  b: z.array(cited),
})
export type ModelChangeView = z.infer<typeof modelChange>

const packets = z.strictObject({ classes: z.array(z.string()), whole: z.boolean() }).nullable()
export const accessListChange = z.strictObject({
  list: z.string(),
  family: z.enum(['ipv4', 'ipv6']),
  interfaces: z.array(z.string()),
  permits: packets,
  denies: packets,
  undecided: packets,
  tooComplex: z.boolean(),
  a: z.array(cited),
  b: z.array(cited),
})
export type AccessListChangeView = z.infer<typeof accessListChange>

export const stateChange = z.strictObject({
  table: z.string(),
  title: z.string(),
  key: z.string(),
  change: z.enum(['appeared', 'vanished', 'changed']),
  fields: z.array(z.strictObject({ field: z.string(), before: z.string().nullable(), after: z.string().nullable() })),
  a: z.array(cited),
  b: z.array(cited),
})
export type StateChangeView = z.infer<typeof stateChange>

export const comparisonDoubt = z.strictObject({
  code: z.enum(['incomplete', 'not-captured', 'dialects', 'listings', 'unparsed-output', 'no-configuration']),
  side: side.nullable(),
  part: z.string().nullable(),
  lines: z.array(cited),
  reason: z.string().nullable(),
})
export type ComparisonDoubtView = z.infer<typeof comparisonDoubt>

const growth = z.strictObject({
  code: z.enum(['counted', 'wrapped', 'reset', 'unknown']),
  delta: z.number().nullable(),
})
export const interfaceRates = z.strictObject({
  name: z.string(),
  inBits: z.number().nullable(),
  outBits: z.number().nullable(),
  inUse: z.number().nullable(),
  outUse: z.number().nullable(),
  speed: z.number().nullable(),
  growth: z.strictObject({
    inOctets: growth,
    outOctets: growth,
    inErrors: growth,
    outErrors: growth,
    inDiscards: growth,
    outDiscards: growth,
  }),
})
export type InterfaceRatesView = z.infer<typeof interfaceRates>

/** What a fan, a power supply, a thermometer, a processor or a memory said on each side. */
export const sensorReading = z.strictObject({
  kind: z.string(),
  name: z.string(),
  before: z.string().nullable(),
  after: z.string().nullable(),
  difference: z.number().nullable(),
  ok: z.boolean().nullable(),
})
export type SensorReadingView = z.infer<typeof sensorReading>

const performance = z.strictObject({
  /** Between the two readings of the counters; null: not known. */
  seconds: z.number().nullable(),
  rates: z.array(interfaceRates),
  sensors: z.array(sensorReading),
})

const sideView = z.strictObject({
  snapshot: moment,
  device: z.strictObject({ id: z.number(), name: z.string() }),
  listing: z.enum(LISTINGS),
  /** The record that stands for the configuration; null where there is none. */
  record: z.number().nullable(),
})
export type SideView = z.infer<typeof sideView>

export const deviceComparisonView = z.strictObject({
  a: sideView,
  b: sideView,
  records: z.array(
    z.strictObject({
      kind: z.string(),
      title: z.string(),
      a: z.number().nullable(),
      b: z.number().nullable(),
      statements: z.array(shownStatement),
    }),
  ),
  model: z.array(modelChange),
  accessLists: z.array(accessListChange),
  state: z.array(stateChange),
  doubts: z.array(comparisonDoubt),
  rates: performance,
  authors: z.array(authorView),
  explained: explanationView.nullable(),
  findings: z.array(
    z.strictObject({
      change: z.enum(['new', 'resolved', 'open']),
      /** Of the audit of B; of one that was resolved, of the audit of A. */
      audit: z.number(),
      verdict: z.number(),
      rule: z.string(),
      title: z.string(),
      severity: severitySchema,
      outcome: z.enum(['fail', 'unknown', 'error']),
    }),
  ),
})
export type DeviceComparisonView = z.infer<typeof deviceComparisonView>

/** The two snapshots that are compared; left out: the latest, and the one before B. */
export const twoSnapshots = z.object({ a: id.optional(), b: id.optional() })

/** What the interfaces of each device carried between two snapshots, and its sensors; null where there are no two. */
export const listRates = endpoint({
  method: 'get',
  path: '/engagements/:engagement/changes/rates',
  access: 'read',
  summary: 'Rates, utilisation and errors of interfaces between two snapshots, and what sensors say',
  query: twoSnapshots,
  response: z
    .strictObject({ a: moment, b: moment, devices: z.array(performance.extend({ name: z.string() })) })
    .nullable(),
})

/** Two sides: snapshots, devices by name, and which listing stands for the configuration. */
export const twoSides = twoSnapshots.extend({
  deviceA: z.string().min(1).max(160),
  deviceB: z.string().min(1).max(160).optional(),
  listingA: z.enum(LISTINGS).default('config'),
  listingB: z.enum(LISTINGS).default('config'),
})

/** What changed between two snapshots, by device. */
export const compareSnapshots = endpoint({
  method: 'get',
  path: '/engagements/:engagement/changes',
  access: 'read',
  summary: 'What changed between two snapshots, by device, with who changed it and whether it was meant',
  query: twoSnapshots,
  response: comparisonView.nullable(),
})

/** The same as CSV, one line a change. */
export const exportChanges = endpoint({
  method: 'get',
  path: '/engagements/:engagement/changes.csv',
  access: 'read',
  summary: 'What changed between two snapshots as CSV, one line a change',
  query: twoSnapshots,
  file: 'text/csv',
})

/** Two sides of one device, two devices, or two listings. */
export const compareSides = endpoint({
  method: 'get',
  path: '/engagements/:engagement/changes/sides',
  access: 'read',
  summary: 'Two sides compared: one device in two snapshots, two devices, or two listings of one',
  query: twoSides,
  response: deviceComparisonView,
})

/** The difference of the configurations of two sides, as patch applies it; secrets masked. */
export const exportPatch = endpoint({
  method: 'get',
  path: '/engagements/:engagement/changes/sides.patch',
  access: 'read',
  summary: 'The difference of the configurations of two sides as a unified diff, secrets masked',
  query: twoSides,
  file: 'text/x-patch',
})

/** Texts of both sides for an editor that lays them beside each other, secrets masked. */
export const listSideTexts = endpoint({
  method: 'get',
  path: '/engagements/:engagement/changes/sides/texts',
  access: 'read',
  summary: 'The configurations of two sides as text, secrets masked',
  query: twoSides,
  response: z.strictObject({ a: z.string(), b: z.string() }),
})

/** Files of an engagement about changes, as YAML. */
export const CHANGE_FILES = ['noise', 'checks', 'references'] as const
export const changeFileKind = z.enum(CHANGE_FILES)

export const changeFileView = z.strictObject({
  kind: changeFileKind,
  text: z.string(),
  /** 0: nothing was stated yet. */
  version: z.number(),
  versions: z.array(z.strictObject({ version: z.number(), by: z.string(), at: z.string() })),
})
export type ChangeFileView = z.infer<typeof changeFileView>

/** What an engagement states of changes, with its versions. */
export const getChangeFile = endpoint({
  method: 'get',
  path: '/engagements/:engagement/change-files/:kind',
  access: 'read',
  summary: 'Noise, checks or references of the engagement as YAML, with their versions',
  query: z.object({ version: z.coerce.number().int().positive().optional() }),
  response: changeFileView,
})

/** Keeps a new version; refused with the place where it is not as it should be. */
export const setChangeFile = endpoint({
  method: 'put',
  path: '/engagements/:engagement/change-files/:kind',
  access: 'fit',
  summary: 'Saves a new version of noise, checks or references',
  large: true,
  body: z.strictObject({ text: z.string().max(500_000) }),
  response: z.strictObject({ version: z.number() }),
})

/** Approves the configurations of devices as they are in a snapshot. */
export const approveStates = endpoint({
  method: 'post',
  path: '/engagements/:engagement/approved-states',
  access: 'waive',
  summary: 'Approves the configurations of devices as they are in a snapshot, with a reason',
  body: z.strictObject({
    snapshot: z.int().positive(),
    devices: z.array(z.int().positive()).min(1).max(5000),
    reason: z.string().trim().min(1).max(2000),
  }),
  response: z.strictObject({ approved: z.number() }),
})

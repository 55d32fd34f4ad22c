import { type DiscoveryPlan } from '@jurybox/api/discovery'
import { EntitySchema } from 'typeorm'
import { ALERT_ENTITIES } from './alert-entities.ts'
import { ARCHIVE_ENTITIES } from './archive-entities.ts'
import { ESTATE_ENTITIES } from './estate-entities.ts'
import { TRAFFIC_ENTITIES } from './traffic-entities.ts'
import { flag, id, int, json, key, text, time } from './columns.ts'
import type { Counts, Score } from '@jurybox/core/audit'
import type { Outcome } from '@jurybox/core/rules'
import type { Override, Tailoring } from '@jurybox/core/benchmarks'
import type { Role } from '@jurybox/api/roles'
import { Findings } from '../findings/entity.ts'
import { SavedViews } from '../views/entity.ts'

export interface User {
  id: number
  name: string
  fullName: string
  passwordHash: string
  createdAt: Date
  /** Looks after the installation: accounts, keys, figures. */
  isAdmin: boolean
  /** May open engagements. */
  mayOpen: boolean
  disabled: boolean
  /** The password was given by someone else: it opens nothing but the change of it. */
  mustChange: boolean
  signedInAt: Date | null
  /** Secret of the second factor, sealed; null without one. */
  totp: Buffer | null
  /** The last step of time whose code was used. */
  totpStep: number
  /** Hashes of the recovery codes that are left. */
  recovery: string[] | null
}
export const Users = new EntitySchema<User>({
  name: 'users',
  columns: {
    id,
    name: text('name'),
    fullName: text('full_name'),
    passwordHash: text('password_hash'),
    createdAt: time('created_at'),
    isAdmin: flag('is_admin'),
    mayOpen: flag('may_open'),
    disabled: flag('disabled'),
    mustChange: flag('must_change'),
    signedInAt: time('signed_in_at', true),
    totp: { type: 'varbinary', nullable: true },
    totpStep: { type: 'int', name: 'totp_step' },
    recovery: { ...json('recovery'), nullable: true },
  },
})

export interface Session {
  tokenHash: string
  userId: number
  csrf: string
  /** From where it was opened, and by which browser. */
  address: string
  agent: string
  createdAt: Date
  seenAt: Date
  /** When its owner last confirmed their identity. */
  provedAt: Date | null
}
export const Sessions = new EntitySchema<Session>({
  name: 'sessions',
  columns: {
    tokenHash: key(text('token_hash')),
    userId: int('user_id'),
    csrf: text('csrf'),
    address: text('address'),
    agent: text('agent'),
    createdAt: time('created_at'),
    seenAt: time('seen_at'),
    provedAt: time('proved_at', true),
  },
})

export interface Engagement {
  id: number
  title: string
  client: string
  periodFrom: string | null
  periodTo: string | null
  maskKey: Buffer
  createdAt: Date
  /** Prefixes in which a collection may try by TCP connects what answers; none: nowhere. */
  connectRanges: string[]
  /** Prefixes that are reached through others of the same length (address translation on the way). */
  translations: { from: string; to: string }[]
}
export const Engagements = new EntitySchema<Engagement>({
  name: 'engagements',
  columns: {
    id,
    title: text('title'),
    client: text('client'),
    periodFrom: { type: 'date', name: 'period_from', nullable: true },
    periodTo: { type: 'date', name: 'period_to', nullable: true },
    maskKey: { type: 'varbinary', name: 'mask_key' },
    connectRanges: json('connect_ranges'),
    translations: json('translations'),
    createdAt: time('created_at'),
  },
})

export interface Membership {
  engagementId: number
  userId: number
  role: Role
}
export const Memberships = new EntitySchema<Membership>({
  name: 'memberships',
  columns: { engagementId: key(int('engagement_id')), userId: key(int('user_id')), role: text('role') },
})

export interface Device {
  id: number
  engagementId: number
  name: string
  dialect: string
  facts: Record<string, unknown>
  createdAt: Date
}
export const Devices = new EntitySchema<Device>({
  name: 'devices',
  columns: {
    id,
    engagementId: int('engagement_id'),
    name: text('name'),
    dialect: text('dialect'),
    facts: json('facts'),
    createdAt: time('created_at'),
  },
})

export interface Content {
  sha256: string
  size: number
  body: Buffer
}
export const Contents = new EntitySchema<Content>({
  name: 'contents',
  columns: { sha256: key(text('sha256')), size: int('size'), body: { type: 'longblob' } },
})

export interface StoredRecord {
  id: number
  deviceId: number
  kind: string
  path: string
  sha256: string
  dialect: string
  lineCount: number
  /** Numbers of the lines that no reader used. */
  unread: number[]
  /** The build that counted them. */
  readBy: string
  /** SHA-256 of the text without what its listing says of itself: a change of it is a change of the configuration. */
  settled: string
  faults: { line: number; reason: string }[]
  takenAt: Date | null
  timeSource: 'stated' | 'listing' | 'unknown'
  broughtBy: number
  createdAt: Date
}
export const Records = new EntitySchema<StoredRecord>({
  name: 'records',
  columns: {
    id,
    deviceId: int('device_id'),
    kind: text('kind'),
    path: text('path'),
    sha256: text('sha256'),
    dialect: text('dialect'),
    lineCount: int('line_count'),
    unread: json('unread'),
    readBy: text('read_by'),
    settled: text('settled'),
    faults: json('faults'),
    takenAt: time('taken_at', true),
    timeSource: text('time_source'),
    broughtBy: int('brought_by'),
    createdAt: time('created_at'),
  },
})

export interface SnapshotRow {
  id: number
  engagementId: number
  title: string
  note: string
  takenAt: Date
  /** `step`: where collecting a device stopped; what was refused for another reason has none. */
  refused: { path: string; reason: string; step?: string }[]
  createdBy: number
  createdAt: Date
}
export const Snapshots = new EntitySchema<SnapshotRow>({
  name: 'snapshots',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    note: { type: 'text', name: 'note' },
    takenAt: time('taken_at'),
    refused: json('refused'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

export interface SnapshotRecord {
  snapshotId: number
  recordId: number
  /** Carried over from the snapshot before, with its own age. */
  carried: boolean
}
export const SnapshotRecords = new EntitySchema<SnapshotRecord>({
  name: 'snapshot_records',
  columns: {
    snapshotId: key(int('snapshot_id')),
    recordId: key(int('record_id')),
    carried: { type: 'boolean', name: 'carried' },
  },
})

export interface BenchmarkVersion {
  hash: string
  benchmark: string
  version: string
  text: string
  createdAt: Date
}
export const BenchmarkVersions = new EntitySchema<BenchmarkVersion>({
  name: 'benchmark_versions',
  columns: {
    hash: key(text('hash')),
    benchmark: text('benchmark'),
    version: text('version'),
    text: { type: 'mediumtext', name: 'text' },
    createdAt: time('created_at'),
  },
})

/** How an engagement fits a benchmark: its profile and the values that differ from the defaults. */
export interface Fitting {
  engagementId: number
  benchmark: string
  profile: string
  valueSet: Record<string, string | number | string[]>
  overrides: Override[]
  tailoring: Tailoring[]
  setBy: number
  setAt: Date
}
export const Fittings = new EntitySchema<Fitting>({
  name: 'fittings',
  columns: {
    engagementId: key(int('engagement_id')),
    benchmark: key(text('benchmark')),
    profile: text('profile'),
    valueSet: json('value_set'),
    overrides: json('overrides'),
    tailoring: json('tailoring'),
    setBy: int('set_by'),
    setAt: time('set_at'),
  },
})

export type JobState = 'running' | 'done' | 'stopped' | 'failed' | 'interrupted'
export interface Job {
  id: number
  engagementId: number
  kind: string
  state: JobState
  done: number
  total: number
  message: string
  params: Record<string, unknown>
  createdBy: number
  createdAt: Date
  finishedAt: Date | null
}
export const Jobs = new EntitySchema<Job>({
  name: 'jobs',
  columns: {
    id,
    engagementId: int('engagement_id'),
    kind: text('kind'),
    state: text('state'),
    done: int('done'),
    total: int('total'),
    message: { type: 'text', name: 'message' },
    params: json('params'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
    finishedAt: time('finished_at', true),
  },
})

export interface AuditChoice {
  benchmark: string
  hash: string
  profile: string
  values: Record<string, string | number | string[]>
  overrides?: Override[]
  tailoring?: Tailoring[]
  /** The framework that the audit is for, and the rules that speak to it; all rules where left out. */
  framework?: string
  only?: string[]
}
/** What an audit is limited to. */
export interface AuditScope {
  /** As it was chosen: a group, a model or names. */
  readonly title: string
  readonly devices: readonly string[]
}
export interface Audit {
  id: number
  engagementId: number
  snapshotId: number
  jobId: number
  build: string
  choices: AuditChoice[]
  /** Null until the audit is complete: nothing half-written is a result. */
  counts: Counts | null
  /** The devices that it is limited to; null where it judged all. */
  scope: AuditScope | null
  /** Computed when first asked for: nothing that it rests on changes. */
  scores: Score[] | null
  computed: number
  remembered: number
  /** Of what all its devices answered; empty where no rule asks across devices. */
  estateHash: string
  createdBy: number
  createdAt: Date
  finishedAt: Date | null
}
export const Audits = new EntitySchema<Audit>({
  name: 'audits',
  columns: {
    id,
    engagementId: int('engagement_id'),
    snapshotId: int('snapshot_id'),
    jobId: int('job_id'),
    build: text('build'),
    choices: json('choices'),
    counts: { ...json('counts'), nullable: true },
    scope: { ...json('scope'), nullable: true },
    scores: { ...json('scores'), nullable: true },
    computed: int('computed'),
    remembered: int('remembered'),
    estateHash: text('estate_hash'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
    finishedAt: time('finished_at', true),
  },
})

/** A verdict as an audit names it; read from a view over what its devices came to. */
export interface StoredVerdict {
  id: number
  judgementId: number
  auditId: number
  deviceId: number
  device: string
  benchmark: string
  rule: string
  outcome: Outcome
  severity: string
  branch: string
  note: string
  /** Where its rule stands among all rules of the audit. */
  place: number
  /** The requirements that its rule serves. */
  requirements: string[]
  /** The whole verdict as JSON, masked and sealed; it knows the records by their places among those of the device. */
  sealed: Buffer
  /** Ids of the records that the device was judged by, and of those in the snapshot before. */
  records: number[]
  beforeRecords: number[]
}
export const Verdicts = new EntitySchema<StoredVerdict>({
  name: 'audit_verdicts',
  columns: {
    id,
    judgementId: int('judgement_id'),
    auditId: int('audit_id'),
    deviceId: int('device_id'),
    device: text('device'),
    benchmark: text('benchmark'),
    rule: text('rule'),
    outcome: text('outcome'),
    severity: text('severity'),
    branch: text('branch'),
    note: { type: 'text', name: 'note' },
    place: int('place'),
    requirements: json('requirements'),
    sealed: { type: 'mediumblob' },
    records: json('records'),
    beforeRecords: json('before_records'),
  },
})

/**
 * What one device came to, under everything that it depends on; any number of audits may name it. Its verdicts, which
 * are never changed, stand in the table `verdicts`.
 */
export interface Judgement {
  id: number
  memoKey: string
  /** Null where no answer rests on the time. */
  validUntil: Date | null
  /** How many verdicts there are of each outcome. */
  counts: Counts
  /** What the device answers to questions across devices. */
  answers: Buffer
  answersHash: string
  /**
   * The answers of all devices under which it was found, or found again, to hold; empty where it does not ask for them.
   */
  estateHash: string
  /** What it looked up in the answers of all devices, as JSON. */
  seen: string
  /** What its looks rest on, as numbers of 64 bits: where none of them was altered, they need not be taken again. */
  restsOn: Buffer
}
export const Judgements = new EntitySchema<Judgement>({
  name: 'judgements',
  columns: {
    id,
    memoKey: text('memo_key'),
    validUntil: time('valid_until', true),
    counts: json('counts'),
    answers: { type: 'longblob' },
    answersHash: text('answers_hash'),
    estateHash: text('estate_hash'),
    seen: { type: 'mediumtext', name: 'seen' },
    restsOn: { type: 'mediumblob', name: 'rests_on' },
  },
})

export interface AuditJudgement {
  auditId: number
  judgementId: number
  deviceId: number
  records: number[]
  beforeRecords: number[]
}
export const AuditJudgements = new EntitySchema<AuditJudgement>({
  name: 'audit_judgements',
  columns: {
    auditId: key(int('audit_id')),
    judgementId: key(int('judgement_id')),
    deviceId: int('device_id'),
    records: json('records'),
    beforeRecords: json('before_records'),
  },
})

export interface StoredWaiver {
  id: number
  engagementId: number
  benchmark: string
  rule: string
  device: string | null
  subject: string | null
  reason: string
  owner: string
  expires: Date
  createdBy: number
  createdAt: Date
  /** When it was taken back. */
  endedAt: Date | null
}
export const Waivers = new EntitySchema<StoredWaiver>({
  name: 'waivers',
  columns: {
    id,
    engagementId: int('engagement_id'),
    benchmark: text('benchmark'),
    rule: text('rule'),
    device: { ...text('device'), nullable: true },
    subject: { ...text('subject'), nullable: true },
    reason: { type: 'text', name: 'reason' },
    owner: text('owner'),
    expires: time('expires'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
    endedAt: time('ended_at', true),
  },
})

export interface StoredAnswer {
  id: number
  engagementId: number
  benchmark: string
  attestation: string
  outcome: 'pass' | 'fail' | 'notapplicable'
  note: string
  files: { name: string; sha256: string }[]
  answeredBy: number
  answeredByName: string
  at: Date
  until: Date
}
export const Attestations = new EntitySchema<StoredAnswer>({
  name: 'attestations',
  columns: {
    id,
    engagementId: int('engagement_id'),
    benchmark: text('benchmark'),
    attestation: text('attestation'),
    outcome: text('outcome'),
    note: { type: 'text', name: 'note' },
    files: json('files'),
    answeredBy: int('answered_by'),
    answeredByName: text('answered_by_name'),
    at: time('at'),
    until: time('until'),
  },
})

/** A file that an answer of a person rests on; its content is kept sealed like that of a record. */
export interface EvidenceFile {
  engagementId: number
  sha256: string
  name: string
  size: number
  broughtBy: number
  createdAt: Date
}
export const EvidenceFiles = new EntitySchema<EvidenceFile>({
  name: 'evidence',
  columns: {
    engagementId: key(int('engagement_id')),
    sha256: key(text('sha256')),
    name: text('name'),
    size: int('size'),
    broughtBy: int('brought_by'),
    createdAt: time('created_at'),
  },
})

/** One save of a benchmark of one's own; its text is kept by its hash. */
export interface OwnBenchmark {
  id: number
  engagementId: number
  benchmark: string
  number: number
  hash: string
  why: string
  createdBy: number
  createdAt: Date
  publishedAt: Date | null
}
export const OwnBenchmarks = new EntitySchema<OwnBenchmark>({
  name: 'own_benchmarks',
  columns: {
    id,
    engagementId: int('engagement_id'),
    benchmark: text('benchmark'),
    number: int('number'),
    hash: text('hash'),
    why: text('why'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
    publishedAt: time('published_at', true),
  },
})

/** A login for devices. */
export interface StoredCredential {
  id: number
  engagementId: number
  title: string
  userName: string
  /** Sealed by the vault. */
  secret: Buffer
  createdBy: number
  createdAt: Date
}
export const Credentials = new EntitySchema<StoredCredential>({
  name: 'credentials',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    userName: text('user_name'),
    secret: { type: 'longblob' },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

/** How a device is reached, and what was seen of it there. */
export interface DeviceConnection {
  engagementId: number
  device: string
  dialect: string
  address: string
  port: number
  /** May speak algorithms that RFC 9142 deprecates. */
  old: boolean
  /** Ports at which it is asked over NETCONF and SNMP as well; null where it is not. */
  netconfPort: number | null
  snmpPort: number | null
  /** SHA-256 in base64; null until it was seen once. */
  hostKey: string | null
  /** The credential that fitted last. */
  credentialId: number | null
  /** What is known of the device before its first collection. */
  facts: FirstFacts | null
}
export type FirstFacts = Readonly<Partial<Record<'site' | 'role', string>>>
export const DeviceConnections = new EntitySchema<DeviceConnection>({
  name: 'reach',
  columns: {
    engagementId: key(int('engagement_id')),
    device: key(text('device')),
    dialect: text('dialect'),
    address: text('address'),
    port: int('port'),
    old: { type: 'boolean', name: 'old' },
    netconfPort: { ...int('netconf_port'), nullable: true },
    snmpPort: { ...int('snmp_port'), nullable: true },
    hostKey: { ...text('host_key'), nullable: true },
    credentialId: { ...int('credential_id'), nullable: true },
    facts: { ...json('facts'), nullable: true },
  },
})

/** What is done again and again. */
export interface Schedule {
  id: number
  engagementId: number
  title: string
  does: 'collect' | 'audit' | 'both' | 'discover'
  cron: string
  /** A name of the IANA time zone database. */
  zone: string
  /** Null: all that can be reached, or those of the group. */
  devices: string[] | null
  /** Title of a group whose members they are each time; null where it names none. */
  group: string | null
  benchmarks: string[]
  /** Also begins where a device says this word in a syslog message; null where it does not. */
  word: string | null
  /** Looks first whether a configuration has changed, and goes on with those devices only. */
  looks: boolean
  /** Where a discovery begins; null where it is none. */
  discovery: DiscoveryPlan | null
  paused: boolean
  lastAt: Date | null
  lastSaid: string
  createdBy: number
  createdAt: Date
}
export const Schedules = new EntitySchema<Schedule>({
  name: 'schedules',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    does: text('does'),
    cron: text('cron'),
    zone: text('zone'),
    devices: { ...json('devices'), nullable: true },
    group: { ...text('group_title'), nullable: true },
    benchmarks: json('benchmarks'),
    word: { ...text('word'), nullable: true },
    looks: { type: 'boolean', name: 'looks' },
    discovery: { ...json('discovery'), nullable: true },
    paused: { type: 'boolean', name: 'paused' },
    lastAt: time('last_at', true),
    lastSaid: { type: 'text', name: 'last_said' },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

export interface ActivityEntry {
  id: number
  at: Date
  userId: number | null
  engagementId: number | null
  action: string
  detail: string
  previous: string
  hash: string
}
export const Activities = new EntitySchema<ActivityEntry>({
  name: 'activity',
  columns: {
    id,
    at: time('at'),
    userId: { ...int('user_id'), nullable: true },
    engagementId: { ...int('engagement_id'), nullable: true },
    action: text('action'),
    detail: { type: 'mediumtext', name: 'detail' },
    previous: text('previous'),
    hash: text('hash'),
  },
})

export const ENTITIES = [
  Users,
  Sessions,
  Engagements,
  Memberships,
  Devices,
  Contents,
  Records,
  Snapshots,
  SnapshotRecords,
  BenchmarkVersions,
  Fittings,
  Jobs,
  Audits,
  Verdicts,
  Judgements,
  AuditJudgements,
  Waivers,
  Attestations,
  EvidenceFiles,
  Findings,
  SavedViews,
  OwnBenchmarks,
  Credentials,
  DeviceConnections,
  Schedules,
  Activities,
  ...ALERT_ENTITIES,
  ...ARCHIVE_ENTITIES,
  ...ESTATE_ENTITIES,
  ...TRAFFIC_ENTITIES,
]

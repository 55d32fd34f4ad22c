import type { DeviceModel, Verdict } from '@jurybox/core'
import type { Counts, Score } from '@jurybox/core/audit'
import type { BenchmarkDifferences } from '@jurybox/core/authoring'
import type { Override, RequirementCoverage, Review, Tailoring } from '@jurybox/core/benchmarks'
import type { Origin, UnreadLine } from '@jurybox/core/model'
import type { TidyItem } from '@jurybox/core/report'
import type { RuleSource } from '@jurybox/core/rules'
import type { DeviceState } from '@jurybox/core/state'
import type { DeviceLabel, DiscoveryPlan } from './estate-types.ts'

/** What the server answers, as the pages use it. */
export type Outcome = Verdict['outcome']
export type Role = 'lead' | 'auditor' | 'engineer' | 'reader'

export interface DialectView {
  id: string
  title: string
  cited: boolean
}

export interface GlossaryEntry {
  term: string
  meaning: string
}

export interface SessionView {
  user: { id: number; name: string; fullName: string }
  isAdmin: boolean
  mayOpen: boolean
  /** The password was given by someone else. */
  mustChange: boolean
  hasSecondFactor: boolean
  csrf: string
  engagements: { id: number; title: string; client: string; role: Role }[]
}
export interface OpenSession {
  id: string
  address: string
  agent: string
  createdAt: string
  seenAt: string
  isThis: boolean
}
export interface AccountView {
  id: number
  name: string
  fullName: string
  isAdmin: boolean
  mayOpen: boolean
  disabled: boolean
  mustChange: boolean
  hasSecondFactor: boolean
  createdAt: string
  signedInAt: string | null
  engagements: number
}
export interface InstallationView {
  build: string
  key: {
    source: 'file' | 'environment'
    change: { state: 'none' | 'running' | 'failed' } | { state: 'done'; sealed: number }
  }
  freeDiskMb: number
  longestBlockMs: number
}
export interface EngagementView {
  id: number
  title: string
  client: string
  role: Role
  waiting: { estate: number; snapshots: number; benchmarks: number; verdicts: number; reports: number }
}
export interface SnapshotTick {
  id: number
  title: string
  takenAt: string
  createdAt: string
  refused: number
}
export interface AuditTick {
  id: number
  snapshotId: number
  finishedAt: string | null
  counts: Counts | null
  choices: { benchmark: string; profile: string }[]
  /** The devices that it is limited to; null where it judged all. */
  scope: { title: string; devices: string[] } | null
  computed: number
  remembered: number
}
export interface DeviceRow {
  id: number
  name: string
  dialect: string
  facts: {
    site?: string
    role?: string
    model?: string
    os?: string
    version?: string
    labels?: Record<string, unknown>
    groups?: string[]
  }
  lines: number
  unread: number
  whole: boolean
  takenAt: string | null
  timeSource: string
  carried: boolean
  /** Why it was not collected with this snapshot; null where it was, or nobody tried. */
  down: string | null
  /** Since when its configuration is as it is. */
  changedAt: string | null
  counts: Partial<Record<Outcome, number>>
}
export interface RecordView {
  id: number
  kind: string
  title: string
  path: string
  fingerprint: string
  lineCount: number
  unread: number
  faults: { line: number; reason: string }[]
  takenAt: string | null
  timeSource: string
  carried: boolean
}
export interface DeviceView {
  id: number
  name: string
  dialect: string
  facts: DeviceRow['facts'] & { managementAddress?: string }
  snapshot: { id: number; title: string }
  auditId: number | null
  labels: DeviceLabel[]
  lines: number
  records: RecordView[]
}
export interface ModelView {
  record: number
  lines: number
  model: DeviceModel
  origins: Record<string, Origin>
  /** The dialect that the content looks like, and how much of it reads so; null where it looks like none. */
  looksLike: { dialect: string; share: number } | null
  unread: UnreadLine[]
}
export interface StateView {
  state: DeviceState
  origins: Record<string, Origin>
  records: {
    record: number
    kind: string
    form: string | null
    reason: string | null
    unread: number[]
    takenAt: string | null
  }[]
}
export interface RecordText extends RecordView {
  device: { id: number; name: string }
  unreadLines: number[]
  lines: string[]
}
export interface SnapshotRow {
  id: number
  title: string
  note: string
  takenAt: string
  devices: number
  carried: number
  unread: number
  refused: number
  tags: string[]
}
export interface SnapshotView {
  id: number
  title: string
  note: string
  takenAt: string
  createdAt: string
  refused: { path: string; reason: string }[]
  records: {
    id: number
    deviceId: number
    device: string
    kind: string
    path: string
    lineCount: number
    unread: number[]
    faults: { line: number; reason: string }[]
    takenAt: string | null
    timeSource: string
    carried: boolean
    fingerprint: string
  }[]
}
export interface IntakeView {
  id: string
  title: string
  takenAt: string | null
  note: string
  devices: {
    name: string
    dialect: string
    records: {
      path: string
      kind: string
      lines: number
      unread: number
      confidence: number | null
      faults: { line: number; reason: string }[]
      takenAt: string | null
      timeSource: string
    }[]
  }[]
  refused: { path: string; reason: string }[]
  sameName: { name: string; paths: string[] }[]
  carries: string[]
}
export interface BenchmarkRow {
  id: string
  title: string
  version: string
  statement: string
  profiles: { id: string; title: string }[]
  rules: number
  attestations: number
  selected: number
  profile: string
}
export interface WaiverView {
  id: number
  benchmark: string
  rule: string
  device: string | null
  subject: string | null
  reason: string
  owner: string
  expires: string
  createdAt: string
  endedAt: string | null
}
export interface QuestionView {
  benchmark: string
  id: string
  title: string
  topic: string
  severity: string
  question: string
  evidence: string
  references: string[]
  days: number
  outcome: Outcome
  expired: boolean
  answer: {
    outcome: Outcome
    note: string
    by: string
    at: string
    until: string
    files: { name: string; sha256: string }[]
  } | null
}
export interface OwnVersion {
  benchmark: string
  number: number
  hash: string
  why: string
  by: string
  createdAt: string
  publishedAt: string | null
}
export interface TrialView {
  /** What is wrong with the text, a line for each fault; null where it is a benchmark. */
  wrong: string | null
  examples: { rule: string; name: string; wrong: string[] }[]
  rules: {
    id: string
    title: string
    severity: string
    devices: {
      deviceId: number
      device: string
      outcome: Outcome
      branch: string
      note: string
      line: { record: number; from: number; text: string } | null
    }[]
    beside: { deviceId: number; outcome: Outcome; branch: string }[]
    remedies: { deviceId: number; device: string; remedy: NonNullable<Verdict['remedy']> }[]
  }[]
}
export interface DifferencesView {
  wrong: string | null
  against: { benchmark: string; number: number } | null
  differences: BenchmarkDifferences | null
}
export type SetValue = string | number | string[] | null
export interface BenchmarkView {
  id: string
  title: string
  version: string
  statement: string
  hash: string
  profiles: { id: string; title: string }[]
  profile: string
  fittedBy: string | null
  fittedAt: string | null
  values: {
    name: string
    type: 'int' | 'text' | 'pattern' | 'hosts' | 'prefixes'
    title: string
    unit?: string
    default: SetValue
    set: SetValue
  }[]
  rules: (RuleSource & { selected: boolean })[]
  frameworks: { id: string; title: string; remark: string }[]
  coverage: RequirementCoverage[]
  overrides: Override[]
  tailoring: Tailoring[]
  /** How many questions it puts to people. */
  attestations: number
}
export interface JobView {
  id: number
  kind: string
  state: 'running' | 'done' | 'stopped' | 'failed' | 'interrupted'
  done: number
  total: number
  message: string
  params: { snapshotId?: number; auditId?: number; recordId?: number; results?: DeviceResult[] }
  createdAt: string
  finishedAt: string | null
}
export interface AuditView {
  id: number
  build: string
  counts: Counts
  choices: { benchmark: string; hash: string; profile: string }[]
  computed: number
  remembered: number
  finishedAt: string | null
  snapshot: { id: number; title: string; takenAt: string }
}
export interface GridView {
  rules: { benchmark: string; id: string; title: string; topic: string; severity: string; references: string[] }[]
  devices: { id: number; name: string; facts: DeviceRow['facts'] }[]
  /** Those whose requirements some rule cites, with the titles of these. */
  frameworks: { id: string; title: string; requirements: Record<string, string> }[]
  cells: {
    id: number
    deviceId: number
    benchmark: string
    rule: string
    outcome: Outcome
    waived: boolean
    since: 'new' | 'open' | 'resolved' | null
  }[]
  /** The audit that is compared with. */
  before: { id: number; finishedAt: string | null; snapshot: string } | null
}
export interface CredentialRow {
  id: number
  title: string
  user: string
  createdAt: string
}
/** The states of a record, oldest first. */
export interface HistoryView {
  kind: string
  title: string
  spells: {
    record: number
    fingerprint: string
    lines: number
    from: string
    to: string
    by: string
    snapshots: string[]
  }[]
}
export interface BesideView {
  changed: number
  rows: ({ a: number | null; b: number | null; left: string; right: string; same: boolean } | null)[]
}
export interface ScheduleRow {
  id: number
  title: string
  does: 'collect' | 'audit' | 'both' | 'discover'
  cron: string
  words: string
  zone: string
  devices: string[] | null
  benchmarks: string[]
  word: string | null
  looks: boolean
  discovery: DiscoveryPlan | null
  paused: boolean
  lastAt: string | null
  lastSaid: string
  next: string[]
}
export interface AlertRow {
  id: number
  title: string
  channel: 'mail' | 'webhook' | 'ticket'
  settings: { host?: string; port?: number; to?: string[]; url?: string }
  hasSecret: boolean
  kinds: string[]
  severity: string
  when: string
  zone: string
  paused: boolean
  deliveries: DeliveryRow[]
}
export interface DeliveryRow {
  id: number
  state: 'waiting' | 'sending' | 'sent' | 'failed' | 'unsure'
  attempts: number
  said: string
  test: boolean
  createdAt: string
  sentAt: string | null
  nextAt: string | null
}
export interface ConnectionRow {
  device: string
  dialect: string
  address: string
  port: number
  old: boolean
  hostKey: string | null
  credentialId: number | null
  netconfPort: number | null
  snmpPort: number | null
}
export interface ConnectionsView {
  steps: { step: string; title: string }[]
  dialects: string[]
  devices: ConnectionRow[]
  connectRanges: string[]
}
/** How a device came out of a collection. */
export interface DeviceResult {
  device: string
  ok: boolean
  step: string | null
  reason: string | null
  records: number
  without?: string[]
}
export interface ScoresView {
  formulas: { flat: string; weighted: string }
  audits: {
    id: number
    snapshotId: number
    snapshot: string
    takenAt: string
    finishedAt: string | null
    scores: Score[]
  }[]
}
export type ReviewView = Review & { frameworkTitle: string }
export type TidyView = TidyItem & { verdict: number }
export interface VerdictRow {
  id: number
  deviceId: number
  device: string
  benchmark: string
  rule: string
  outcome: Outcome
  severity: string
  branch: string
  note: string
  waived: boolean
}
/** A page of the verdicts that are asked for, and how many there are. */
export interface VerdictPage {
  total: number
  verdicts: VerdictRow[]
  before: { id: number; snapshot: string } | null
}
export interface VerdictView {
  id: number
  auditId: number
  deviceId: number
  verdict: Verdict
  rule?: {
    title: string
    statement: string
    topic: string
    profile: string
    branches: { id: string; outcome: Outcome }[]
  }
  values: { name: string; title: string; value: string; from: string }[]
  references: { reference: string; framework: string; number: string; title: string }[]
}
export interface ActivityView {
  firstBreak: number | null
  total: number
  entries: {
    id: number
    at: string
    user: string | null
    action: string
    detail: Record<string, unknown>
    hash: string
  }[]
}
export interface MemberView {
  id: number
  name: string
  fullName: string
  role: Role
}
export interface RetentionView {
  days: number | null
  tags: Record<string, number | null>
  snapshots: { id: number; title: string; tags: string[]; until: string | null; goes: boolean; heldBy: string | null }[]
}
export interface SetUpView {
  key: 'file' | 'environment'
  credentials: number
  devices: number
  schedules: number
  alerts: number
  snapshots: number
  audits: number
}

/** A form in which reports are written; its id is the ending of the files. */
export interface ReportFormatView {
  form: string
  title: string
  what: string
}

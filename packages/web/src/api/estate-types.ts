import type {
  Approval,
  ApprovalException,
  FoundDevice,
  LabelChange,
  LabelDefinition,
  LabelValue,
  LinkStanding,
  SightingKind,
} from '@jurybox/core/estate'
import type { DeviceRow, JobView, Outcome } from './types.ts'

/** What the server answers of the estate as a whole. */
export interface Place {
  record: number
  from: number
  to: number
}
export interface StandingRow {
  id: number
  name: string
  os: string
  model: string | null
  version: string | null
  serial: string | null
  approved: 'on' | 'off' | 'none' | 'unknown'
  why: string
  groups: string[]
}
export interface TableView {
  columns: { key: string; title: string; numeric?: boolean }[]
  rows: {
    id: string
    values: Record<string, string | number>
    members: { device: string; deviceId: number | null; what: string; at: Place | null }[]
  }[]
}
export interface MapEnd {
  device: string
  inEstate: boolean
  port: string | null
  oper: 'up' | 'down' | null
  at: Place | null
}
export interface MapDevice {
  id: number
  name: string
  site: string | null
  role: string | null
  down: string | null
  takenAt: string | null
  changedAt: string | null
  changed: 'same' | 'changed' | 'new'
  counts: Partial<Record<Outcome, number>>
  approved: StandingRow['approved']
  why: string
}
export interface MapLink {
  a: MapEnd
  b: MapEnd
  standing: LinkStanding
  note: string
}
export interface SiteRow {
  name: string
  title: string
  around: string | null
  devices: number
}
export interface MapView {
  devices: MapDevice[]
  links: MapLink[]
  sites: Omit<SiteRow, 'devices'>[]
}
export interface LabelsView {
  defined: (LabelDefinition & { devices: number })[]
  undefined: { name: string; devices: number }[]
}
export interface FromFactsView {
  changes: LabelChange[]
  refused: { device: string; label: string; reason: string }[]
}
export interface ListView {
  labels: LabelChange[]
  facts: { device: string; fact: string; before: string | null; after: string }[]
  refused: { line: number; reason: string }[]
  applied: boolean
}
export interface DeviceLabel {
  label: string
  value: LabelValue
  how: 'person' | 'list' | 'rule' | 'snapshot'
  by: string
  at: string | null
}
export interface GroupRow {
  id: number
  title: string
  kind: 'filter' | 'search'
  text: string
  counted: boolean
  inside: string[]
  undecided: { device: string; why: string }[]
}
export interface GroupTrial {
  inside: string[]
  undecided: { device: string; why: string }[]
  outside: string[]
}
interface Kept {
  id: number
  setBy: string
  setAt: string
}
export interface ApprovalsView {
  versions: (Approval & Kept)[]
  exceptions: (ApprovalException & Kept)[]
  devices: {
    device: string
    os: string
    model: string | null
    version: string | null
    standing: StandingRow['approved']
    why: string
    versions: string[]
    images: { image: string; version: string }[]
  }[]
}
export interface FoundPart {
  kind: 'device' | 'address' | 'interface' | 'user' | 'list' | 'line' | 'rule' | 'requirement'
  total: number
  devices?: number
  hits: { title: string; detail: string; device: string | null; at: Place | null; to: string }[]
}
export interface DiscoveryPlan {
  first: string[]
  hops: number
  range: string | null
  port: number
  snmpPort: number | null
  otherKeys: boolean
}
export interface SightingRow {
  id: number
  jobId: number
  kind: SightingKind | 'vanished'
  device: string
  found: FoundDevice | null
  why: string
  state: 'waiting' | 'taken' | 'left'
  by: string
  decidedAt: string | null
  at: string
}
export interface DiscoveryView {
  /** Port at which most devices are reached. */
  port: number
  ranges: string[]
  translations: { from: string; to: string }[]
  last:
    | (JobView & {
        params: { plan?: DiscoveryPlan; tried?: { address: string; device: string | null; reason: string | null }[] }
      })
    | null
  sightings: SightingRow[]
}
export interface OverviewView {
  snapshot: { id: number; title: string; takenAt: string }
  before: { id: number; title: string; takenAt: string } | null
  auditId: number | null
  devices: number
  judged: number
  lines: number
  unread: number
  down: { device: string; why: string }[]
  evidence: { id: string; title: string; devices: number }[]
  counts: Partial<Record<Outcome, number>> | null
  changes: {
    changed: string[]
    appeared: string[]
    gone: string[]
    verdicts: { new: number; resolved: number; since: { id: number; title: string } } | null
  } | null
  coverage: { id: string; title: string; decided: number; of: number; outside: number }[]
  groups: { id: number; title: string; text: string; kind: 'filter' | 'search'; devices: number }[]
}
/** A device with all that is said of it. */
export type EstateRow = DeviceRow & { standing?: StandingRow }

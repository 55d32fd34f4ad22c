import { EntitySchema } from 'typeorm'
import type {
  Approval,
  ApprovalException,
  FoundDevice,
  LabelDefinition,
  LabelValue,
  SightingKind,
} from '@jurybox/core/estate'
import { id, int, json, key, text, time } from './columns.ts'

/** A label as an engagement defines it. */
export interface StoredLabel extends LabelDefinition {
  engagementId: number
  createdBy: number
  createdAt: Date
}
export const Labels = new EntitySchema<StoredLabel>({
  name: 'labels',
  columns: {
    engagementId: key(int('engagement_id')),
    name: key(text('name')),
    type: text('type'),
    choices: json('choices'),
    note: text('note'),
    sets: { ...text('sets'), nullable: true },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

/** A label of a device that became another one; the last of them says who set what it has now. */
export interface LabelEntry {
  id: number
  engagementId: number
  deviceId: number
  label: string
  value: LabelValue | null
  how: 'person' | 'list' | 'rule'
  setBy: number | null
  setByName: string
  at: Date
}
export const LabelChanges = new EntitySchema<LabelEntry>({
  name: 'label_changes',
  columns: {
    id,
    engagementId: int('engagement_id'),
    deviceId: int('device_id'),
    label: text('label'),
    value: json('value'),
    how: text('how'),
    setBy: { ...int('set_by'), nullable: true },
    setByName: text('set_by_name'),
    at: time('at'),
  },
})

/** A place that holds devices, or other places. */
export interface Site {
  engagementId: number
  name: string
  title: string
  /** Name of the site around it; null where there is none. */
  around: string | null
}
export const Sites = new EntitySchema<Site>({
  name: 'sites',
  columns: {
    engagementId: key(int('engagement_id')),
    name: key(text('name')),
    title: text('title'),
    around: { ...text('around'), nullable: true },
  },
})

/** Devices for which a filter holds, or that a search finds. */
export interface SavedGroup {
  id: number
  engagementId: number
  title: string
  kind: 'filter' | 'search'
  text: string
  /** Counted on the overview. */
  counted: boolean
  createdBy: number
  createdAt: Date
}
export const Groups = new EntitySchema<SavedGroup>({
  name: 'saved_groups',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    kind: text('kind'),
    text: { type: 'text', name: 'text' },
    counted: { type: 'boolean', name: 'counted' },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

/** A version that some devices may run, or a device that may run another one. */
export interface StoredApproval {
  id: number
  engagementId: number
  kind: 'version' | 'exception'
  body: Approval | ApprovalException
  createdBy: number
  createdByName: string
  createdAt: Date
}
export const Approvals = new EntitySchema<StoredApproval>({
  name: 'approvals',
  columns: {
    id,
    engagementId: int('engagement_id'),
    kind: text('kind'),
    body: json('body'),
    createdBy: int('created_by'),
    createdByName: text('created_by_name'),
    createdAt: time('created_at'),
  },
})

/** What a device is to its estate, read once from its records; sealed, for it holds lines. */
export interface StoredDigest {
  digestKey: string
  /** Content of the configuration that it tells of: it goes with it. */
  sha256: string
  body: Buffer
}
export const Digests = new EntitySchema<StoredDigest>({
  name: 'digests',
  columns: { digestKey: key(text('digest_key')), sha256: text('sha256'), body: { type: 'longblob' } },
})

/** What a discovery found out about a device, until somebody has decided on it. */
export interface StoredSighting {
  id: number
  engagementId: number
  jobId: number
  kind: SightingKind | 'vanished'
  /** The device that it is, or is taken for. */
  device: string
  /** Null of a device that was not found. */
  found: FoundDevice | null
  why: string
  state: 'waiting' | 'taken' | 'left'
  decidedByName: string
  decidedAt: Date | null
  createdAt: Date
}
export const Sightings = new EntitySchema<StoredSighting>({
  name: 'sightings',
  columns: {
    id,
    engagementId: int('engagement_id'),
    jobId: int('job_id'),
    kind: text('kind'),
    device: text('device'),
    found: { ...json('found'), nullable: true },
    why: { type: 'text', name: 'why' },
    state: text('state'),
    decidedByName: text('decided_by_name'),
    decidedAt: time('decided_at', true),
    createdAt: time('created_at'),
  },
})

export const ESTATE_ENTITIES = [Labels, LabelChanges, Sites, Groups, Approvals, Digests, Sightings]

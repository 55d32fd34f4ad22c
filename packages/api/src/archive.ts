import { z } from 'zod'
import { lineOf } from './text.ts'
import { endpoint } from './endpoint.ts'

export const tag = lineOf(60)

/** Days; null: for good. */
export const kept = z.int().min(1).max(36_500).nullable()

/** The states of a record, oldest first. */
export const historyView = z.strictObject({
  kind: z.string(),
  title: z.string(),
  spells: z.array(
    z.strictObject({
      record: z.number(),
      fingerprint: z.string(),
      lines: z.number(),
      from: z.string(),
      to: z.string(),
      by: z.string(),
      snapshots: z.array(z.string()),
    }),
  ),
})
export type HistoryView = z.infer<typeof historyView>

const besideRecord = z.strictObject({
  id: z.number(),
  device: z.string(),
  title: z.string(),
  takenAt: z.string().nullable(),
})

export const besideView = z.strictObject({
  a: besideRecord,
  b: besideRecord,
  changed: z.number(),
  rows: z.array(
    z
      .strictObject({
        a: z.number().nullable(),
        b: z.number().nullable(),
        left: z.string(),
        right: z.string(),
        same: z.boolean(),
      })
      .nullable(),
  ),
})
export type BesideView = z.infer<typeof besideView>

export const retentionView = z.strictObject({
  days: z.number().nullable(),
  tags: z.record(z.string(), z.number().nullable()),
  /** Days for which what a report or a signed pack cites cannot be deleted; null: for good. */
  evidenceDays: z.number().nullable(),
  holds: z.array(
    z.strictObject({
      id: z.number(),
      /** Null: every snapshot. */
      snapshot: z.strictObject({ id: z.number(), title: z.string() }).nullable(),
      reason: z.string(),
      by: z.string(),
      at: z.string(),
    }),
  ),
  snapshots: z.array(
    z.strictObject({
      id: z.number(),
      title: z.string(),
      tags: z.array(z.string()),
      until: z.string().nullable(),
      goes: z.boolean(),
      heldBy: z.string().nullable(),
    }),
  ),
})
export type RetentionView = z.infer<typeof retentionView>

/** The states of each record of a device, from when to when, and in which snapshots. */
export const recordHistory = endpoint({
  method: 'get',
  path: '/engagements/:engagement/devices/:device/history',
  access: 'read',
  summary: 'The states of each record of a device, from when to when, and in which snapshots',
  response: z.array(historyView),
})

/** Two records side by side, line by line, secrets masked. */
export const compareRecords = endpoint({
  method: 'get',
  path: '/engagements/:engagement/records/:record/compared-with/:other',
  access: 'read',
  summary: 'Two records side by side, line by line, secrets masked',
  response: besideView,
})

/** Replaces the tags of a snapshot. */
export const setSnapshotTags = endpoint({
  method: 'put',
  path: '/engagements/:engagement/snapshots/:snapshot/tags',
  access: 'import',
  summary: 'Replaces the tags of a snapshot',
  body: z.strictObject({ tags: z.array(tag).max(20) }),
  response: z.strictObject({ tags: z.array(z.string()) }),
})

/** Deletes a snapshot with its audits; refused where a report or another snapshot rests on it. */
export const deleteSnapshot = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/snapshots/:snapshot',
  access: 'manage',
  summary: 'Deletes a snapshot with its audits; refused where a report or another snapshot rests on it',
})

/** Removes a carried-over device from a snapshot and from those after it; the audit runs again. */
export const removeCarriedDevice = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/snapshots/:snapshot/devices/:device',
  access: 'import',
  summary: 'Removes a carried-over device from a snapshot and from those after it; the audit runs again',
})

/** How long snapshots are kept, and when each is deleted. */
export const getRetention = endpoint({
  method: 'get',
  path: '/engagements/:engagement/retention',
  access: 'read',
  summary: 'How long snapshots are kept, and when each is deleted',
  response: retentionView,
})

/** Sets how long snapshots are kept; with `try`, only shows what would be deleted. */
export const setRetention = endpoint({
  method: 'put',
  path: '/engagements/:engagement/retention',
  access: 'manage',
  summary: 'Sets how long snapshots are kept; with `try`, only shows what would be deleted',
  body: z.strictObject({
    days: kept,
    tags: z.record(tag, kept),
    evidenceDays: kept.default(null),
    try: z.boolean().default(false),
  }),
  response: retentionView,
})

/** Holds a snapshot, or all of them: nothing that it covers is deleted until it is released. */
export const addHold = endpoint({
  method: 'post',
  path: '/engagements/:engagement/holds',
  access: 'manage',
  summary: 'Holds a snapshot, or all of them: nothing that it covers is deleted until it is released',
  body: z.strictObject({ snapshot: z.int().positive().nullable(), reason: z.string().trim().min(3).max(4000) }),
})

/** Releases a hold, with the reason. */
export const releaseHold = endpoint({
  method: 'post',
  path: '/engagements/:engagement/holds/:hold/release',
  access: 'manage',
  summary: 'Releases a hold, with the reason',
  body: z.strictObject({ reason: z.string().trim().min(3).max(4000) }),
})

/** The snapshot as a zipped folder, secrets masked. */
export const downloadMaskedSnapshot = endpoint({
  method: 'get',
  path: '/engagements/:engagement/snapshots/:snapshot/masked.zip',
  access: 'read',
  summary: 'The snapshot as a zipped folder, secrets masked',
  file: 'application/zip',
})

/** The snapshot as a zipped folder with real secrets; every download is logged. */
export const downloadSnapshot = endpoint({
  method: 'get',
  path: '/engagements/:engagement/snapshots/:snapshot/folder.zip',
  access: 'exportSecrets',
  summary: 'The snapshot as a zipped folder with real secrets; every download is logged',
  fresh: true,
  file: 'application/zip',
})

/** One record as a text file, secrets masked. */
export const downloadRecord = endpoint({
  method: 'get',
  path: '/engagements/:engagement/records/:record/text',
  access: 'read',
  summary: 'One record as a text file, secrets masked',
  file: 'text/plain',
})

import { z } from 'zod'
import { lineOf } from './text.ts'
import { endpoint } from './endpoint.ts'

/** A file, or a device of a collection, that is not part of the snapshot; `step`: of a collection, where it failed. */
const refusal = z.strictObject({ path: z.string(), reason: z.string(), step: z.string().optional() })

export const snapshotRow = z.strictObject({
  id: z.number(),
  title: z.string(),
  note: z.string(),
  takenAt: z.string(),
  devices: z.number(),
  carried: z.number(),
  unread: z.number(),
  refused: z.number(),
  tags: z.array(z.string()),
})
export type SnapshotRow = z.infer<typeof snapshotRow>

export const snapshotView = z.strictObject({
  id: z.number(),
  title: z.string(),
  note: z.string(),
  takenAt: z.string(),
  createdAt: z.string(),
  refused: z.array(refusal),
  records: z.array(
    z.strictObject({
      id: z.number(),
      deviceId: z.number(),
      device: z.string(),
      kind: z.string(),
      path: z.string(),
      lineCount: z.number(),
      unread: z.array(z.number()),
      faults: z.array(z.strictObject({ line: z.number(), reason: z.string() })),
      takenAt: z.string().nullable(),
      timeSource: z.string(),
      carried: z.boolean(),
      fingerprint: z.string(),
    }),
  ),
})
export type SnapshotView = z.infer<typeof snapshotView>

export const intakeView = z.strictObject({
  id: z.string(),
  title: z.string(),
  takenAt: z.string().nullable(),
  note: z.string(),
  devices: z.array(
    z.strictObject({
      name: z.string(),
      dialect: z.string(),
      records: z.array(
        z.strictObject({
          path: z.string(),
          kind: z.string(),
          lines: z.number(),
          unread: z.number(),
          confidence: z.number().nullable(),
          faults: z.array(z.strictObject({ line: z.number(), reason: z.string() })),
          takenAt: z.string().nullable(),
          timeSource: z.string(),
        }),
      ),
    }),
  ),
  refused: z.array(refusal),
  sameName: z.array(z.strictObject({ name: z.string(), paths: z.array(z.string()) })),
})
export type IntakeView = z.infer<typeof intakeView>

/** All snapshots, oldest first. */
export const listSnapshots = endpoint({
  method: 'get',
  path: '/engagements/:engagement/snapshots',
  access: 'read',
  summary: 'All snapshots, oldest first',
  response: z.array(snapshotRow),
})

/** One snapshot with its records, refused files and unparsed lines. */
export const getSnapshot = endpoint({
  method: 'get',
  path: '/engagements/:engagement/snapshots/:snapshot',
  access: 'read',
  summary: 'One snapshot with its records, refused files and unparsed lines',
  response: snapshotView,
})

/** Reads uploaded files and says what they are; nothing is stored yet. */
export const stageFiles = endpoint({
  method: 'post',
  path: '/engagements/:engagement/imports',
  access: 'import',
  summary: 'Reads uploaded files and says what they are; nothing is stored yet',
  upload: true,
  body: z.strictObject({ paths: z.array(z.string().min(1).max(1000)).min(1, 'no files were sent') }),
  response: intakeView,
})

/** Devices that a snapshot of uploaded files would carry over from the one before it. */
export const listCarried = endpoint({
  method: 'get',
  path: '/engagements/:engagement/imports/:import/carried',
  access: 'import',
  summary: 'Devices that a snapshot of uploaded files would carry over from the one before it',
  query: z.strictObject({ takenAt: z.iso.datetime({ offset: true }) }),
  response: z.array(z.string()),
})

/** Unparsed lines of an uploaded file, with secrets masked; the first thousand. */
export const listUnparsed = endpoint({
  method: 'get',
  path: '/engagements/:engagement/imports/:import/unparsed',
  access: 'import',
  summary: 'Unparsed lines of an uploaded file, with secrets masked; the first thousand',
  query: z.strictObject({ path: z.string().max(1000) }),
  response: z.strictObject({
    total: z.number(),
    lines: z.array(z.strictObject({ line: z.number(), text: z.string() })),
  }),
})

/** Discards uploaded files. */
export const discardFiles = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/imports/:import',
  access: 'import',
  summary: 'Discards uploaded files',
})

/** Freezes uploaded files as a snapshot. */
export const freezeSnapshot = endpoint({
  method: 'post',
  path: '/engagements/:engagement/snapshots',
  access: 'import',
  summary: 'Freezes uploaded files as a snapshot',
  large: true,
  body: z.strictObject({
    intake: z.string(),
    title: lineOf(160, 'a snapshot has a title'),
    note: z.string().max(4000).default(''),
    takenAt: z.iso.datetime({ offset: true }),
    settled: z
      .array(
        z.strictObject({
          path: z.string().max(500),
          as: z
            .string()
            .trim()
            .regex(/^[\w.-]{1,100}$/, 'a device name of letters, digits, dots and dashes'),
        }),
      )
      .max(500)
      .default([]),
    without: z.array(z.string().max(160)).max(5000).default([]),
  }),
  response: snapshotView,
})

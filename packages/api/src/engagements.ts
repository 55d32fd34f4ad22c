import { z } from 'zod'
import { lineOf, lineOrNone } from './text.ts'
import { roleSchema } from './roles.ts'
import { countsSchema } from '@jurybox/core/audit'
import { signInName } from './sessions.ts'
import { ROLES } from './roles.ts'
import { activityFilter, activityPage, activityView } from './activity.ts'
import { endpoint } from './endpoint.ts'

export const engagementView = z.strictObject({
  id: z.number(),
  title: z.string(),
  client: z.string(),
  role: roleSchema,
  waiting: z.strictObject({
    estate: z.number(),
    snapshots: z.number(),
    benchmarks: z.number(),
    verdicts: z.number(),
    reports: z.number(),
  }),
})
export type EngagementView = z.infer<typeof engagementView>

export const setUpView = z.strictObject({
  key: z.enum(['file', 'environment']),
  credentials: z.number(),
  devices: z.number(),
  schedules: z.number(),
  alerts: z.number(),
  snapshots: z.number(),
  audits: z.number(),
})
export type SetUpView = z.infer<typeof setUpView>

export const snapshotTick = z.strictObject({
  id: z.number(),
  title: z.string(),
  takenAt: z.string(),
  createdAt: z.string(),
  refused: z.number(),
  tags: z.array(z.string()),
})
export type SnapshotTick = z.infer<typeof snapshotTick>

export const auditTick = z.strictObject({
  id: z.number(),
  snapshotId: z.number(),
  finishedAt: z.string().nullable(),
  counts: countsSchema.nullable(),
  choices: z.array(
    z.strictObject({ benchmark: z.string(), title: z.string(), profile: z.string(), profileTitle: z.string() }),
  ),
  /** The devices that it is limited to; null where it judged all. */
  scope: z.strictObject({ title: z.string(), devices: z.array(z.string()) }).nullable(),
  /** The framework that it was for; null where it asked whole benchmarks. */
  framework: z.string().nullable(),
  computed: z.number(),
  remembered: z.number(),
})
export type AuditTick = z.infer<typeof auditTick>

export const memberView = z.strictObject({ id: z.number(), name: z.string(), fullName: z.string(), role: roleSchema })
export type MemberView = z.infer<typeof memberView>

/** Opens an engagement; the caller becomes its lead. */
export const openEngagement = endpoint({
  method: 'post',
  path: '/engagements',
  access: 'signed-in',
  summary: 'Opens an engagement; the caller becomes its lead',
  body: z.strictObject({ title: lineOf(160), client: lineOrNone(160) }),
  response: z.strictObject({ id: z.number() }),
})

/** The engagement, the caller’s role, and the counts of each page. */
export const getEngagement = endpoint({
  method: 'get',
  path: '/engagements/:engagement',
  access: 'read',
  summary: 'The engagement, the caller’s role, and the counts of each page',
  response: engagementView,
})

/** How far the engagement is set up. */
export const getSetUp = endpoint({
  method: 'get',
  path: '/engagements/:engagement/set-up',
  access: 'read',
  summary: 'How far the engagement is set up',
  response: setUpView,
})

/** The time line: snapshots, and the audits of each. */
export const getChronicle = endpoint({
  method: 'get',
  path: '/engagements/:engagement/chronicle',
  access: 'read',
  summary: 'The time line: snapshots, and the audits of each',
  response: z.strictObject({ snapshots: z.array(snapshotTick), audits: z.array(auditTick) }),
})

/** Members of the engagement with their roles. */
export const listMembers = endpoint({
  method: 'get',
  path: '/engagements/:engagement/members',
  access: 'read',
  summary: 'Members of the engagement with their roles',
  response: z.array(memberView),
})

/** Adds an account to the engagement. */
export const addMember = endpoint({
  method: 'post',
  path: '/engagements/:engagement/members',
  access: 'manage',
  summary: 'Adds an account to the engagement',
  body: z.strictObject({ name: signInName, role: z.enum(ROLES) }),
  response: z.strictObject({ id: z.number() }),
})

/** Changes the role of a member. */
export const changeRole = endpoint({
  method: 'put',
  path: '/engagements/:engagement/members/:user',
  access: 'manage',
  summary: 'Changes the role of a member',
  body: z.strictObject({ role: z.enum(ROLES) }),
})

/** Removes a member from the engagement. */
export const removeMember = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/members/:user',
  access: 'manage',
  summary: 'Removes a member from the engagement',
})

/** Audit log of the engagement, newest first, and whether its chain is intact. */
export const listActivity = endpoint({
  method: 'get',
  path: '/engagements/:engagement/activity',
  access: 'manage',
  summary: 'Audit log of the engagement, newest first, and whether its chain is intact',
  query: activityPage,
  response: activityView,
})

/** Audit log of the engagement as CSV, with the hash of each entry. */
export const exportActivity = endpoint({
  method: 'get',
  path: '/engagements/:engagement/activity.csv',
  access: 'manage',
  summary: 'Audit log of the engagement as CSV, with the hash of each entry',
  query: activityFilter,
  file: 'text/csv',
})

/** Verifies the chain of the audit log from an entry on, up to the head that is kept outside the database. */
export const verifyActivity = endpoint({
  method: 'get',
  path: '/engagements/:engagement/activity/verification',
  access: 'manage',
  summary: 'Verifies the chain of the audit log from an entry on, up to its head',
  query: z.object({ from: z.coerce.number().int().min(0).max(4_000_000_000).default(0) }),
  response: z.strictObject({
    entries: z.number(),
    /** Id of the first entry that does not follow; null where all do. */
    firstBreak: z.number().nullable(),
    head: z.strictObject({ entry: z.number(), hash: z.string() }).nullable(),
    /** Heads of days, as they were signed with the key of the engagement, the newest first. */
    signed: z.array(
      z.strictObject({
        day: z.string(),
        entry: z.number(),
        hash: z.string(),
        /** Whether the signature holds, and the entry has that hash still. */
        holds: z.boolean(),
      }),
    ),
  }),
})

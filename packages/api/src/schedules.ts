import { discoveryPlanSchema } from './discovery.ts'
import { z } from 'zod'
import { rhythmSchema } from './rhythm.ts'
import { lineOf } from './text.ts'
import { endpoint } from './endpoint.ts'

export const when = { rhythm: rhythmSchema, zone: z.string().min(1).max(64) }

export const scheduleRow = z.strictObject({
  id: z.number(),
  title: z.string(),
  does: z.enum(['collect', 'audit', 'both', 'discover']),
  cron: z.string(),
  words: z.string(),
  zone: z.string(),
  rhythm: rhythmSchema,
  devices: z.array(z.string()).nullable(),
  group: z.string().nullable(),
  benchmarks: z.array(z.string()),
  word: z.string().nullable(),
  looks: z.boolean(),
  discovery: discoveryPlanSchema.nullable(),
  paused: z.boolean(),
  lastAt: z.string().nullable(),
  lastSaid: z.string(),
  next: z.array(z.string()),
})
export type ScheduleRow = z.infer<typeof scheduleRow>

/** Schedules, each with its next five times. */
export const listSchedules = endpoint({
  method: 'get',
  path: '/engagements/:engagement/schedules',
  access: 'read',
  summary: 'Schedules, each with its next five times',
  response: z.array(scheduleRow),
})

/** The next five times of a rhythm. */
export const previewSchedule = endpoint({
  method: 'post',
  path: '/engagements/:engagement/schedules/times',
  access: 'run',
  summary: 'The next five times of a rhythm',
  body: z.strictObject(when),
  response: z.strictObject({ cron: z.string(), words: z.string(), next: z.array(z.string()) }),
})

/** What a schedule does, and when. */
const plan = z.strictObject({
  title: lineOf(120),
  does: z.enum(['collect', 'audit', 'both', 'discover']),
  ...when,
  devices: z.array(z.string().max(160)).min(1).max(5000).nullable().default(null),
  /** A group whose members it is done for, as they are each time. */
  group: z.string().max(160).nullable().default(null),
  benchmarks: z.array(z.string()).max(10).default([]),
  word: z.string().trim().min(3).max(80).nullable().default(null),
  looks: z.boolean().default(false),
  discovery: discoveryPlanSchema.nullable().default(null),
  /** Addresses of its range that whoever asks has agreed to. */
  confirmed: z.int().nullable().default(null),
})

/** Adds a schedule for collecting, auditing, both, or discovery. */
export const addSchedule = endpoint({
  method: 'post',
  path: '/engagements/:engagement/schedules',
  access: 'run',
  summary: 'Adds a schedule for collecting, auditing, both, or discovery',
  large: true,
  body: plan,
  response: scheduleRow,
})

/** Changes what a schedule does, and when. */
export const changeSchedule = endpoint({
  method: 'put',
  path: '/engagements/:engagement/schedules/:schedule/plan',
  access: 'run',
  summary: 'Changes what a schedule does, and when',
  large: true,
  body: plan,
  response: scheduleRow,
})

/** Runs a schedule at once, whatever its times. */
export const runSchedule = endpoint({
  method: 'post',
  path: '/engagements/:engagement/schedules/:schedule/run',
  access: 'run',
  summary: 'Runs a schedule at once, whatever its times',
  response: scheduleRow,
})

/** Pauses or resumes a schedule. */
export const pauseSchedule = endpoint({
  method: 'put',
  path: '/engagements/:engagement/schedules/:schedule',
  access: 'run',
  summary: 'Pauses or resumes a schedule',
  body: z.strictObject({ paused: z.boolean() }),
  response: scheduleRow,
})

/** Deletes a schedule. */
export const deleteSchedule = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/schedules/:schedule',
  access: 'run',
  summary: 'Deletes a schedule',
})

import { z } from 'zod'
import { STANDINGS, authorView } from './changes.ts'
import { checkedDeviceView } from './checks.ts'
import { endpoint } from './endpoint.ts'
import { lineOf } from './text.ts'

/**
 * `planned`: it has not begun · `before`: devices are being collected before the change · `open`: the change is made ·
 * `after`: they are being collected after it · `settling`: a check fails and may still settle · `closed`: it has
 * ended · `cancelled`
 */
export const WINDOW_STATES = ['planned', 'before', 'open', 'after', 'settling', 'closed', 'cancelled'] as const
export const windowState = z.enum(WINDOW_STATES)
export type WindowState = z.infer<typeof windowState>

const moment = z.strictObject({ id: z.number(), title: z.string(), takenAt: z.string() })

export const windowRow = z.strictObject({
  id: z.number(),
  title: z.string(),
  reason: z.string(),
  state: windowState,
  beginsAt: z.string(),
  endsAt: z.string(),
  devices: z.array(z.string()),
  /** Id of the set of checks; null: none. */
  checks: z.string().nullable(),
  before: moment.nullable(),
  after: moment.nullable(),
  /** What went wrong last, such as a collection that failed; empty where nothing did. */
  problem: z.string(),
  createdBy: z.string(),
  createdAt: z.string(),
  /** Once there are both snapshots: how many devices have which standing; `missing` counts as unknown. */
  counts: z
    .strictObject({
      pass: z.number(),
      fail: z.number(),
      unknown: z.number(),
      pending: z.number(),
      unchecked: z.number(),
    })
    .nullable(),
})
export type WindowRow = z.infer<typeof windowRow>

/** `missing`: not in both snapshots · `unchecked`: the window has no checks */
export const WINDOW_STANDINGS = ['pass', 'fail', 'unknown', 'pending', 'missing', 'unchecked'] as const
export const windowView = windowRow.extend({
  /** By planned device. */
  results: z.array(
    z.strictObject({
      device: z.string(),
      standing: z.enum(WINDOW_STANDINGS),
      changed: z.boolean(),
      summary: z.array(z.string()),
      checked: checkedDeviceView.nullable(),
    }),
  ),
  /** Checks of the network as a whole; null where there are none. */
  network: checkedDeviceView.nullable(),
  /** Devices that the window does not plan: with another configuration, in one snapshot only, or unreadable. */
  unplanned: z.array(
    z.strictObject({
      device: z.string(),
      standing: z.enum(STANDINGS),
      summary: z.array(z.string()),
      authors: z.array(authorView),
    }),
  ),
})
export type WindowView = z.infer<typeof windowView>

const windowBody = z
  .strictObject({
    title: lineOf(160),
    reason: z.string().max(2000).default(''),
    beginsAt: z.iso.datetime({ offset: true }),
    endsAt: z.iso.datetime({ offset: true }),
    devices: z.array(z.string().min(1).max(160)).min(1).max(5000),
    checks: z.string().max(60).nullable().default(null),
  })
  .refine(({ beginsAt, endsAt }) => Date.parse(endsAt) > Date.parse(beginsAt), {
    path: ['endsAt'],
    error: 'The window must end after it begins.',
  })

/** Change windows, the latest first. */
export const listWindows = endpoint({
  method: 'get',
  path: '/engagements/:engagement/windows',
  access: 'read',
  summary: 'Change windows, the latest first',
  response: z.array(windowRow),
})

/** A change window with its results. */
export const getWindow = endpoint({
  method: 'get',
  path: '/engagements/:engagement/windows/:window',
  access: 'read',
  summary: 'A change window with the results of its devices and what changed elsewhere',
  response: windowView,
})

/** Plans a change window. */
export const addWindow = endpoint({
  method: 'post',
  path: '/engagements/:engagement/windows',
  access: 'collect',
  summary: 'Plans a change window: devices, times, checks',
  large: true,
  body: windowBody,
  response: z.strictObject({ id: z.number() }),
})

/** Moves a window on, or back to its checks. */
export const stepWindow = endpoint({
  method: 'post',
  path: '/engagements/:engagement/windows/:window/step',
  access: 'collect',
  summary: 'Begins or ends a change window now, checks again, or cancels it',
  body: z.strictObject({ do: z.enum(['begin', 'end', 'check', 'cancel']) }),
})

/** Chooses the snapshots of a window, where they were not collected by it. */
export const setWindowSnapshots = endpoint({
  method: 'put',
  path: '/engagements/:engagement/windows/:window/snapshots',
  access: 'collect',
  summary: 'Chooses the snapshots before and after a change window',
  body: z.strictObject({ before: z.int().positive().nullable(), after: z.int().positive().nullable() }),
})

/** The report of a window as HTML, PDF or Markdown. */
export const downloadWindowReport = endpoint({
  method: 'get',
  path: '/engagements/:engagement/windows/:window/report.:format',
  access: 'read',
  summary: 'The report of a change window as HTML, PDF or Markdown',
  file: 'text/html',
})

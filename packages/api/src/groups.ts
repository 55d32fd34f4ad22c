import { asOf } from './as-of.ts'
import { z } from 'zod'
import { lineOf } from './text.ts'
import { endpoint } from './endpoint.ts'

export const groupSchema = z.strictObject({
  title: lineOf(80),
  kind: z.enum(['filter', 'search']),
  text: z.string().trim().min(1).max(1000),
  counted: z.boolean().default(false),
})

export const groupRow = z.strictObject({
  id: z.number(),
  title: z.string(),
  kind: z.enum(['filter', 'search']),
  text: z.string(),
  counted: z.boolean(),
  inside: z.array(z.string()),
  undecided: z.array(z.strictObject({ device: z.string(), why: z.string() })),
})
export type GroupRow = z.infer<typeof groupRow>

export const groupTrial = z.strictObject({
  inside: z.array(z.string()),
  undecided: z.array(z.strictObject({ device: z.string(), why: z.string() })),
  outside: z.array(z.string()),
})
export type GroupTrial = z.infer<typeof groupTrial>

/** Groups with their members as of a snapshot. */
export const listGroups = endpoint({
  method: 'get',
  path: '/engagements/:engagement/groups',
  access: 'read',
  summary: 'Groups with their members as of a snapshot',
  query: asOf,
  response: z.array(groupRow),
})

/** Devices inside, outside and undecided of a group that is being written. */
export const tryGroup = endpoint({
  method: 'get',
  path: '/engagements/:engagement/groups/try',
  access: 'read',
  summary: 'Devices inside, outside and undecided of a group that is being written',
  query: asOf.extend({ kind: z.enum(['filter', 'search']), text: z.string().trim().min(1).max(1000) }),
  response: groupTrial,
})

/** Saves a group: a filter, or a search. */
export const addGroup = endpoint({
  method: 'post',
  path: '/engagements/:engagement/groups',
  access: 'describe',
  summary: 'Saves a group: a filter, or a search',
  body: groupSchema,
  response: z.strictObject({ id: z.number() }),
})

/** Shows a group on the overview, or no longer. */
export const countGroup = endpoint({
  method: 'put',
  path: '/engagements/:engagement/groups/:group',
  access: 'describe',
  summary: 'Shows a group on the overview, or no longer',
  body: z.strictObject({ counted: z.boolean() }),
})

/** Deletes a group; scopes that name it then match no device. */
export const deleteGroup = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/groups/:group',
  access: 'describe',
  summary: 'Deletes a group; scopes that name it then match no device',
})

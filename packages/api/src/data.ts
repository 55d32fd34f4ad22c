import { z } from 'zod'
import { endpoint } from './endpoint.ts'
import { lineOf } from './text.ts'

/** Tables for other tools: the same as SQL views, by the API, and in `docs/formats/data.md`. */
export const DATA_TABLES = ['findings', 'verdicts', 'devices', 'requirements', 'trend'] as const
export const dataTable = z.enum(DATA_TABLES)
export type DataTable = (typeof DATA_TABLES)[number]

/** Rows of a table of the engagement, for other tools; also with a token in place of a session. */
export const readData = endpoint({
  method: 'get',
  path: '/engagements/:engagement/data/:table',
  access: 'read',
  token: true,
  summary: `Rows for other tools (${DATA_TABLES.join(', ')}) as JSON or CSV; also with "Authorization: Bearer TOKEN"`,
  query: z.object({
    format: z.enum(['json', 'csv']).default('json'),
    /** Only of this audit; of all of them where left out. */
    audit: z.coerce.number().int().positive().optional(),
  }),
  file: 'application/octet-stream',
})

export const tokenView = z.strictObject({
  id: z.number(),
  title: z.string(),
  /** Its first letters, by which people know it. */
  begins: z.string(),
  tables: z.array(dataTable),
  by: z.string(),
  createdAt: z.string(),
  expiresAt: z.string(),
  usedAt: z.string().nullable(),
})
export type TokenView = z.infer<typeof tokenView>

/** Tokens that read data of the engagement, without the tokens themselves. */
export const listTokens = endpoint({
  method: 'get',
  path: '/engagements/:engagement/tokens',
  access: 'manage',
  summary: 'Tokens that read data of the engagement, without the tokens themselves',
  response: z.array(tokenView),
})

/** Makes a token; it is shown this once. */
export const addToken = endpoint({
  method: 'post',
  path: '/engagements/:engagement/tokens',
  access: 'manage',
  summary: 'Makes a token for some tables; it is shown this once',
  fresh: true,
  body: z.strictObject({
    title: lineOf(120),
    tables: z.array(dataTable).min(1),
    /** Days until it expires. */
    days: z.int().min(1).max(366),
  }),
  response: z.strictObject({ token: z.string(), view: tokenView }),
})

/** Revokes a token at once. */
export const revokeToken = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/tokens/:token',
  access: 'manage',
  summary: 'Revokes a token at once',
})

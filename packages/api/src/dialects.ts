import { endpoint } from './endpoint.ts'
import { z } from 'zod'

export const dialectView = z.strictObject({ id: z.string(), title: z.string(), cited: z.boolean() })
export type DialectView = z.infer<typeof dialectView>

/** The supported forms of configuration. */
export const listDialects = endpoint({
  method: 'get',
  path: '/dialects',
  access: 'signed-in',
  summary: 'The supported forms of configuration',
  response: z.array(dialectView),
})

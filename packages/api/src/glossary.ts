import { endpoint } from './endpoint.ts'
import { z } from 'zod'

export const glossaryEntry = z.strictObject({ term: z.string(), meaning: z.string() })
export type GlossaryEntry = z.infer<typeof glossaryEntry>

/** The terms of the product, each with its meaning. */
export const getGlossary = endpoint({
  method: 'get',
  path: '/glossary',
  access: 'signed-in',
  summary: 'The terms of the product, each with its meaning',
  response: z.array(glossaryEntry),
})

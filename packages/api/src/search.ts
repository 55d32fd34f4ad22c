import { z } from 'zod'
import { FOUND_KINDS } from '@jurybox/core/query'
import { place } from './places.ts'
import { endpoint } from './endpoint.ts'

export const foundPart = z.strictObject({
  kind: z.enum([...FOUND_KINDS, 'rule', 'requirement', 'verdict']),
  total: z.number(),
  devices: z.number().optional(),
  hits: z.array(
    z.strictObject({
      title: z.string(),
      detail: z.string(),
      device: z.string().nullable(),
      at: place.nullable(),
      to: z.string(),
    }),
  ),
})
export type FoundPart = z.infer<typeof foundPart>

/**
 * Finds devices, addresses, interfaces, users, lists, lines of configurations and outputs, verdicts, rules and
 * requirements; secrets are not searched.
 */
export const searchEstate = endpoint({
  method: 'get',
  path: '/engagements/:engagement/search',
  access: 'read',
  summary:
    'Finds devices, addresses, interfaces, users, lists, lines of configurations and outputs, verdicts, rules ' +
    'and requirements; secrets are not searched',
  query: z.object({
    q: z.string().trim().min(1).max(300),
    snapshot: z.coerce.number().int().positive().optional(),
    limit: z.coerce.number().int().min(1).max(500).default(6),
    kind: z.enum(FOUND_KINDS).optional(),
  }),
  response: z.array(foundPart),
})

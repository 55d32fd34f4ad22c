import { z } from 'zod'

export const outcomeSchema = z.enum(['pass', 'fail', 'unknown', 'error', 'notapplicable', 'notchecked'])
export type Outcome = z.infer<typeof outcomeSchema>

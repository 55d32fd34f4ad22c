import { z } from 'zod'

/** The snapshot as of which something is asked; the latest where it is left out. */
export const asOf = z.object({ snapshot: z.coerce.number().int().positive().optional() })

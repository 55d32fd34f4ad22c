import { z } from 'zod'

/** The body beside an upload of one file: its path as the browser knows it. */
export const oneFile = z.strictObject({ paths: z.array(z.string().min(1).max(1000)).length(1, 'one file is expected') })

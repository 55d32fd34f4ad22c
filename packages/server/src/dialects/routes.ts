import { listDialects } from '@jurybox/api/dialects'
import { dialects } from '@jurybox/core'
import { route } from '../http/route.ts'

export interface DialectView {
  readonly id: string
  readonly title: string
  /** Whether its listings are written by hand, so that lines of them are cited. */
  readonly cited: boolean
}

export const dialectRoutes = [
  route(listDialects, async (): Promise<DialectView[]> =>
    dialects.map(({ id, title, example }) => ({ id, title, cited: example !== null })),
  ),
]

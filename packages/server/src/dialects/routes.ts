import { dialects } from '@jurybox/core'
import { route } from '../http/route.ts'

export interface DialectView {
  readonly id: string
  readonly title: string
  /** Whether its listings are written by hand, so that lines of them are cited. */
  readonly cited: boolean
}

export const dialectRoutes = [
  route({
    method: 'get',
    path: '/dialects',
    access: 'signed-in',
    summary: 'The forms of configuration that are read; the first is that of rules that name none',
    handle: async (): Promise<DialectView[]> =>
      dialects.map(({ id, title, example }) => ({ id, title, cited: example !== null })),
  }),
]

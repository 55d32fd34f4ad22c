import { glossary, type GlossaryEntry } from '@jurybox/content'
import { route } from '../http/route.ts'

export const glossaryRoutes = [
  route({
    method: 'get',
    path: '/glossary',
    access: 'signed-in',
    summary: 'The words of the product, each with its meaning',
    handle: async (): Promise<GlossaryEntry[]> => glossary(),
  }),
]

import { getGlossary } from '@jurybox/api/glossary'
import { glossary, type GlossaryEntry } from '@jurybox/content'
import { route } from '../http/route.ts'

export const glossaryRoutes = [route(getGlossary, async (): Promise<GlossaryEntry[]> => glossary())]

import { t } from '../messages/index.ts'
import type { FoundPart } from '@jurybox/api/search'

/** What parts of an answer are called, one and many. */
export const KINDS: Readonly<Record<FoundPart['kind'], readonly [one: string, many: string]>> = {
  device: ['device', t('common.devices')],
  address: ['address', t('search.addresses')],
  interface: ['interface', t('search.interfaces')],
  user: ['user', t('search.users')],
  list: ['list', t('search.lists')],
  line: ['line', t('search.configurationLines')],
  output: ['output', t('search.linesOfOutputs')],
  verdict: ['verdict', t('common.verdicts')],
  rule: ['rule', t('search.rules')],
  requirement: ['requirement', t('common.requirements')],
}

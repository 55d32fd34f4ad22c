/** The braced dialect: a hierarchy of blocks in braces, statements that end in a semicolon. */
import type { Dialect } from '../dialect.ts'
import { HIERARCHY_FORWARDING } from '../hierarchy/forwarding.ts'
import { HIERARCHY_MODEL } from '../hierarchy/model/index.ts'
import { HIERARCHY_OUTPUTS } from '../hierarchy/outputs.ts'
import { ONE_LISTING } from '../record-rules.ts'
import { BRACED_COMMANDS } from './collection.ts'
import { bracedSyntax } from './syntax.ts'

export const braced: Dialect = {
  ...bracedSyntax,
  model: HIERARCHY_MODEL,
  forwarding: HIERARCHY_FORWARDING,
  records: ONE_LISTING,
  outputs: HIERARCHY_OUTPUTS,
  collection: BRACED_COMMANDS,
  session: { prompt: 'user', netconf: true, configuring: { holds: 'on commit', listing: 'braces' } },
  example: { head: 'system { host-name example; }', write: (lines) => lines.map(({ words }) => inBraces(words)) },
}

function inBraces(path: readonly string[]): string {
  return `${path.slice(0, -1).join(' { ')}${path.length > 1 ? ' { ' : ''}${path.at(-1) ?? ''};${' }'.repeat(Math.max(0, path.length - 1))}`
}

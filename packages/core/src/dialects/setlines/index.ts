/** Set lines: the hierarchy of the braced dialect, one path a line. */
import type { Dialect } from '../dialect.ts'
import { HIERARCHY_FORWARDING } from '../hierarchy/forwarding.ts'
import { HIERARCHY_MODEL } from '../hierarchy/model/index.ts'
import { HIERARCHY_OUTPUTS } from '../hierarchy/outputs.ts'
import { ONE_LISTING } from '../record-rules.ts'
import { SETLINES_COMMANDS } from './collection.ts'
import { setlinesSyntax } from './syntax.ts'

export const setlines: Dialect = {
  ...setlinesSyntax,
  model: HIERARCHY_MODEL,
  forwarding: HIERARCHY_FORWARDING,
  records: ONE_LISTING,
  outputs: HIERARCHY_OUTPUTS,
  collection: SETLINES_COMMANDS,
  session: { prompt: 'user', netconf: true, configuring: { holds: 'on commit', listing: 'paths' } },
  example: {
    head: 'set system host-name example',
    write: (lines) => lines.map(({ words }) => `set ${words.join(' ')}`),
  },
}

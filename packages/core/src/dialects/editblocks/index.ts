/** Edit blocks: `config … / edit NAME / set value … / next / end`, the form of many firewalls. */
import type { Dialect } from '../dialect.ts'
import { ONE_LISTING } from '../record-rules.ts'
import { EDITBLOCKS_COMMANDS } from './collection.ts'
import { EDITBLOCKS_FORWARDING } from './forwarding.ts'
import { EDITBLOCKS_MODEL } from './model/index.ts'
import { EDITBLOCKS_OUTPUTS } from './outputs.ts'
import { editblocksSyntax } from './syntax.ts'

export const editblocks: Dialect = {
  ...editblocksSyntax,
  model: EDITBLOCKS_MODEL,
  forwarding: EDITBLOCKS_FORWARDING,
  records: ONE_LISTING,
  outputs: EDITBLOCKS_OUTPUTS,
  collection: EDITBLOCKS_COMMANDS,
  session: { prompt: 'user', netconf: false, configuring: null },
  example: {
    head: 'config system global\n    set hostname example\nend',
    write: (lines) => lines.flatMap(({ words }) => editblocksSyntax.typing.add(words.join(' ')).split('\n')),
  },
}

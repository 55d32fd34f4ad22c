/** The indented dialect: one command a line, blocks by indentation or by their known openers. */
import { compilePattern } from '../../model/index.ts'
import type { Dialect } from '../dialect.ts'
import { ONE_LISTING } from '../record-rules.ts'
import { INDENTED_COMMANDS } from './collection.ts'
import { INDENTED_FORWARDING } from './forwarding.ts'
import { INDENTED_DEFAULTS } from './model/defaults.ts'
import { INDENTED_TABLES, readIndentedModel } from './model/index.ts'
import { INDENTED_OUTPUTS } from './outputs.ts'
import { indentedSyntax } from './syntax.ts'

export const indented: Dialect = {
  ...indentedSyntax,
  model: {
    read: readIndentedModel,
    tables: INDENTED_TABLES,
    entryForms: [
      'ip access-list ...',
      'access-list <name> {permit|deny} ...',
      'access-list <name> {seq|sequence} * {permit|deny} ...',
      'ipv6 access-list ...',
      'object-group {network|service|ip} ...',
    ].map(compilePattern),
    pathStatements: false,
    defaults: INDENTED_DEFAULTS,
  },
  forwarding: INDENTED_FORWARDING,
  records: ONE_LISTING,
  outputs: INDENTED_OUTPUTS,
  collection: INDENTED_COMMANDS,
  session: { prompt: 'levels', netconf: false, configuring: { holds: 'at once', listing: 'lines' } },
  example: {
    head: 'hostname example',
    write: (lines) => {
      let around = ''
      return lines.flatMap(({ blocks, text }) => {
        const openers = blocks.map((block, depth) => `${' '.repeat(depth)}${block.join(' ')}`)
        // A line between ends a block: without it, a line at the margin may be taken for one of the block before.
        const before = openers.join('\n') === around ? (openers.length === 0 ? ['!'] : []) : ['!', ...openers]
        around = openers.join('\n')
        return [...before, `${' '.repeat(openers.length)}${text}`]
      })
    },
  },
}

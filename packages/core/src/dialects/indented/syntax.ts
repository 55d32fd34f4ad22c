/** The indented dialect: one command a line, blocks by indentation or by their known openers. */
import type { Syntax } from '../../syntax/syntax.ts'
import { effectiveTree } from '../../syntax/effective-tree.ts'
import { rangeOf } from './commands.ts'
import { knowledge } from './lines.ts'
import { readIndented } from './reader.ts'
import { secretsIn } from './secrets.ts'
import { GLOBAL } from './vocabulary.ts'

export const indentedSyntax: Syntax = {
  id: 'indented',
  title: 'Indented, one command a line',
  recognise,
  read: readIndented,
  evaluate: (trees) => effectiveTree(trees, indentedSyntax),
  apply: (trees, commands) => effectiveTree([...trees, readIndented(commands.join('\n'))], indentedSyntax),
  inheritedFrom: () => null,
  typing: {
    byPath: false,
    add: (text) => text,
    remove: (text) => (text.startsWith('no ') ? text.slice(3) : `no ${text}`),
    // "default" leaves neither form behind.
    forget: (key) => `default ${key}`,
  },
  ...knowledge,
  rangeOf,
  secretsIn,
  noise: [
    { id: 'clock-period', title: 'Value that the clock adjusts', statement: '^ntp clock-period ', ignore: 'statement' },
    {
      id: 'boot-markers',
      title: 'Marks around the boot settings',
      statement: '^boot-(start|end)-marker$',
      ignore: 'statement',
    },
    {
      id: 'certificate-bodies',
      title: 'Certificates as text',
      block: '^crypto (pki|ca) certificate chain ',
      statement: '^certificate ',
      ignore: 'statement',
    },
    {
      id: 'engine-boots',
      title: 'How often the SNMP engine started',
      statement: '^snmp-server engineBoots ',
      ignore: 'statement',
    },
  ],
}

/** Share of the first commands at the top level that are known, with a host name as the surest sign. */
function recognise(text: string): number {
  const tree = readIndented(text.length > 20_000 ? text.slice(0, 20_000) : text)
  const commands = tree.nodes.filter((node) => node.kind === 'command')
  if (commands.length === 0) return 0
  const known = commands.filter((node) => GLOBAL.has(node.text.replace(/^(?:no|default) +/i, ''))).length
  const prose = commands.filter((node) => /[.,;]$/.test(node.text) || /[{};]\s*$/.test(node.text)).length
  if (known === 0 || prose > commands.length / 2) return 0
  const share = known / commands.length
  return tree.hostname === null || share < 0.1 ? share : Math.max(share, 0.5)
}

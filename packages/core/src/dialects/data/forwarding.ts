import type { ForwardingRules } from '../forwarding-rules.ts'
import { HIERARCHY_FORWARDING } from '../hierarchy/forwarding.ts'
import { beginsAs } from '../top-forms.ts'

const bears = beginsAs(['acls ...', 'routing ...', 'interfaces ...'])

export const DATA_FORWARDING: ForwardingRules = {
  ...HIERARCHY_FORWARDING,
  unparsed: {
    portOf: ({ statement: { command } }) =>
      command.lowerWords[0] === 'interfaces' && command.lowerWords[1] === 'interface'
        ? (command.words[2] ?? '').toLowerCase()
        : null,
    blocks: new Set(),
    bears: (words) => bears(words) || null,
  },
}

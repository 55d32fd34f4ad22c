import type { ForwardingRules } from '../forwarding-rules.ts'
import { beginsAs } from '../top-forms.ts'

const bears = beginsAs([
  'rulebase ...',
  'network ...',
  'zone ...',
  'vsys ...',
  'address ...',
  'address-group ...',
  'service ...',
  'service-group ...',
  'shared address ...',
  'shared address-group ...',
  'shared service ...',
  'shared service-group ...',
  'shared pre-rulebase ...',
  'shared post-rulebase ...',
])

/** Common practice of firewalls whose rules are asked by zones, with the addresses that packets came with. */
export const XMLENTRIES_FORWARDING: ForwardingRules = {
  stages: {
    arriving: [{ stage: 'translation', changes: 'destination' }, { stage: 'lookup' }],
    leaving: [{ stage: 'zone policy' }, { stage: 'translation', changes: 'source' }],
    toDevice: [{ stage: 'management' }],
    own: [{ stage: 'lookup' }],
  },
  laterFragments: 'never',
  tables: 'vrf',
  translation: 'rules',
  zones: 'policies',
  statesAddresses: true,
  management: 'zones and loopback',
  absentList: 'undecided',
  comparable: true,
  isStateful: () => true,
  unparsed: {
    portOf: ({ statement: { command } }) => {
      const { words } = command
      if (words[0] !== 'network' || words[1] !== 'interface') return null
      const units = words.indexOf('units')
      return ((units > 0 ? words[units + 1] : words[3]) ?? '').toLowerCase() || null
    },
    blocks: new Set(),
    bears: (words) => bears(words) || null,
  },
}

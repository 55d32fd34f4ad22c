import type { ForwardingRules } from '../forwarding-rules.ts'
import { beginsAs } from '../top-forms.ts'

const bears = beginsAs([
  'config firewall ...',
  'config router ...',
  'config system interface ...',
  'config system zone ...',
  'config system settings ...',
  'config system sdwan ...',
  'config system virtual-wan-link ...',
  'config system gre-tunnel ...',
  'config system ipip-tunnel ...',
  'config system sit-tunnel ...',
  'config system vxlan ...',
  'config system switch-interface ...',
  'config system ha ...',
  'config system link-monitor ...',
  'config vpn ...',
  'config vdom ...',
])

/** Common practice of firewalls whose policies are asked in turn between interfaces and zones. */
export const EDITBLOCKS_FORWARDING: ForwardingRules = {
  stages: {
    arriving: [{ stage: 'reverse path' }, { stage: 'translation', changes: 'destination' }, { stage: 'lookup' }],
    leaving: [{ stage: 'zone policy' }, { stage: 'translation', changes: 'source' }],
    toDevice: [{ stage: 'management' }],
    own: [{ stage: 'lookup' }],
  },
  laterFragments: 'never',
  tables: 'vrf',
  translation: 'policies',
  zones: 'policies',
  statesAddresses: false,
  management: 'zones and loopback',
  absentList: 'undecided',
  comparable: true,
  isStateful: () => true,
  unparsed: {
    portOf: ({ statement: { command } }) => {
      const { words } = command
      return words[1] === 'system' && words[2] === 'interface' && words[3] === 'edit'
        ? (words[4] ?? '').toLowerCase()
        : null
    },
    blocks: new Set(),
    bears: (words) => bears(words) || null,
  },
}

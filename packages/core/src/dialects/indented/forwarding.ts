import type { ForwardingRules } from '../forwarding-rules.ts'
import { beginsAs } from '../top-forms.ts'
import { USUAL_STAGES } from '../usual-stages.ts'

const bears = beginsAs([
  'ip route ...',
  'ipv6 route ...',
  'ip access-list ...',
  'ipv6 access-list ...',
  'mac access-list ...',
  'ip nat ...',
  'ipv6 nat ...',
  'nat64 ...',
  'ip policy ...',
  'ip local policy ...',
  'ipv6 local policy ...',
  'vlan access-map ...',
  'vlan filter ...',
  'zone ...',
  'zone-pair ...',
  'object-group ...',
  'ip inspect ...',
  'ipv6 inspect ...',
  'crypto map ...',
  'crypto dynamic-map ...',
  'crypto ipsec ...',
  'ip vrf ...',
  'vrf ...',
  'mpls ...',
  'ip default-gateway ...',
  'ip default-network ...',
  'ip source ...',
  'segment-routing ...',
  'ip routing ...',
  'ip verify ...',
  'bridge ...',
  'interface range ...',
  'ip tcp intercept ...',
  'policy-map type ...',
  'ip admission ...',
])

/** Common practice of devices whose lines stand in blocks. */
export const INDENTED_FORWARDING: ForwardingRules = {
  // Packets of the device's own do not meet the lists of its ports.
  stages: {
    ...USUAL_STAGES,
    toDevice: [{ stage: 'zone policy' }, { stage: 'management' }],
    own: [{ stage: 'lookup' }, { stage: 'zone policy' }, { stage: 'protection' }],
  },
  // A line that permits some takes later fragments by their addresses; one that denies passes them over.
  laterFragments: 'permitted',
  tables: 'vrf',
  translation: 'sides',
  zones: 'pairs',
  statesAddresses: false,
  management: 'terminal lists',
  absentList: 'permits',
  comparable: true,
  isStateful: ({ zones }) => zones.length > 0,
  unparsed: {
    portOf: ({ around }) =>
      around[0]?.block === 'interface' ? around[0].text.slice('interface '.length).toLowerCase() : null,
    blocks: new Set([
      'route-map',
      'class-map',
      'policy-map',
      'vlan',
      'vrf',
      'zone',
      'crypto',
      'crypto-child',
      'object-group',
      'parameter-map',
      'vlan-access-map',
    ]),
    bears: (words) => bears(words) || null,
  },
}

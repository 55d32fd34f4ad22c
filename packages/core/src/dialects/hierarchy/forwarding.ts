import type { ForwardingRules } from '../forwarding-rules.ts'
import { beginsAs } from '../top-forms.ts'
import { USUAL_STAGES } from '../usual-stages.ts'

const bears = beginsAs([
  'firewall ...',
  'security policies ...',
  'security zones ...',
  'security nat ...',
  'security flow ...',
  'security screen ...',
  'security forwarding-options ...',
  'security ipsec ...',
  'security ike ...',
  'routing-options static ...',
  'routing-options rib ...',
  'routing-instances ...',
  'forwarding-options family ...',
  'forwarding-options helpers ...',
  'logical-systems ...',
  'bridge-domains ...',
  'vlans ...',
  'policy-options ...',
  'services ...',
  'switch-options ...',
])

/** Common practice of devices whose statements are paths. */
export const HIERARCHY_FORWARDING: ForwardingRules = {
  stages: USUAL_STAGES,
  laterFragments: 'never',
  tables: 'vrf',
  translation: 'zones',
  zones: 'policies',
  statesAddresses: false,
  management: 'zones and loopback',
  absentList: 'undecided',
  comparable: true,
  isStateful: ({ zones }) => zones.length > 0,
  unparsed: {
    portOf: ({ statement: { command } }) => {
      const { words, lowerWords } = command
      if (lowerWords[0] !== 'interfaces' || words.length < 3) return null
      return (
        lowerWords[2] === 'unit' && words[3] !== undefined ? `${words[1] ?? ''}.${words[3]}` : (words[1] ?? '')
      ).toLowerCase()
    },
    blocks: new Set(),
    bears: (words) => (bears(words) ? !isInList(words) : null),
  },
}

/**
 * A line of a filter that is known by its name stands in that filter, as an entry of unknown effect; one between zones
 * likewise.
 */
function isInList(words: readonly string[]): boolean {
  if (words[0] === 'firewall')
    return words[1] === 'family'
      ? ['inet', 'inet6'].includes(words[2] ?? '') && words[3] === 'filter' && words.length > 5
      : words[1] === 'filter' && words.length > 3
  return words[0] === 'security' && (words[1] === 'policies' || words[1] === 'nat')
}

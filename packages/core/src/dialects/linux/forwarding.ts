import type { ForwardingRules, Stage } from '../forwarding-rules.ts'
import { HIERARCHY_FORWARDING } from '../hierarchy/forwarding.ts'

const list = (name: string): Stage => ({ stage: 'list', name })

/** The order of a kernel's hooks (netfilter, from memory; the tests ask the kernel). */
export const LINUX_FORWARDING: ForwardingRules = {
  stages: {
    arriving: [
      list('raw PREROUTING'),
      list('mangle PREROUTING'),
      { stage: 'translation', changes: 'destination' },
      { stage: 'lookup' },
      { stage: 'reverse path' },
    ],
    leaving: [
      list('mangle FORWARD'),
      list('filter FORWARD'),
      list('security FORWARD'),
      list('mangle POSTROUTING'),
      { stage: 'translation', changes: 'source' },
    ],
    toDevice: [list('mangle INPUT'), list('filter INPUT'), list('security INPUT')],
    own: [
      { stage: 'lookup' },
      list('raw OUTPUT'),
      list('mangle OUTPUT'),
      list('filter OUTPUT'),
      list('security OUTPUT'),
      list('mangle POSTROUTING'),
      { stage: 'translation', changes: 'source' },
    ],
  },
  laterFragments: 'never',
  tables: 'kernel',
  translation: 'chains',
  zones: 'policies',
  statesAddresses: false,
  management: 'nothing',
  absentList: 'undecided',
  comparable: false,
  isStateful: ({ accessLists, nat }) =>
    accessLists.some(({ entries }) => entries.some(({ connectionStates }) => connectionStates.length > 0)) ||
    nat.length > 0,
  unparsed: { ...HIERARCHY_FORWARDING.unparsed, bears: () => null },
}

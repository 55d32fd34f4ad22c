/** The fates of packets (see the glossary). */
export type Fate = 'arrives' | 'leaves' | 'stopped' | 'loops' | 'undecided'

/** All fates in the order in which people read them. */
export const FATES: readonly Fate[] = ['arrives', 'leaves', 'stopped', 'loops', 'undecided']

/** Why a fate: a code that machines compare, and words. */
export interface Reason {
  readonly code:
    | 'at-host'
    | 'taken'
    | 'at-device'
    | 'outside'
    | 'filter'
    | 'zone-policy'
    | 'no-route'
    | 'discard-route'
    | 'no-neighbour'
    | 'interface-down'
    | 'reverse-path'
    | 'many-hosts'
    | 'not-forwarding'
    | 'not-protected'
    | 'not-undone'
    | 'loop'
    | 'missing'
    | 'not-evaluated'
    | 'unparsed'
    | 'special-address'
    | 'no-session'
  readonly words: string
}

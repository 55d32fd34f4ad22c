import type { Syntax } from '../../syntax/syntax.ts'
import type { ConfigNode } from '../../syntax/located-tree.ts'
import { keyOfPath } from './path-tree.ts'
import { phraseOf, typedWord } from './phrase.ts'

/**
 * Series of the hierarchy in which the first that matches counts: terms of filters and of route policies, policies
 * between zones, rules of translation; methods and policies that are tried in turn (common practice); entries of RFC
 * 8519, which are ordered by the user.
 */
const SERIES = [
  /^(firewall (?:.* )?filter \S+ term) (\S+)/,
  /^(policy-options policy-statement \S+ term) (\S+)/,
  /^(security policies (?:from-zone \S+ to-zone \S+|global) policy) (\S+)/,
  /^(security nat \S+ rule-set \S+ rule) (\S+)/,
  /^(.*\b(?:authentication-order|input-list|output-list)) (\S+)$/,
  /^(protocols .*\b(?:import|export)) (\S+)$/,
  /^(.*\bacls acl \S+ aces ace) (\S+)/,
] as const

/** What the braced form, its set lines and data have in common as dialects of commands. */
export const pathDialect: Pick<
  Syntax,
  | 'keyOf'
  | 'blockOpenedBy'
  | 'blockKey'
  | 'isOrdered'
  | 'placeIn'
  | 'rangeOf'
  | 'canonical'
  | 'typing'
  | 'inheritedFrom'
> = {
  keyOf: (text) => keyOfPath(phraseOf(text).words).map(typedWord).join(' '),
  blockOpenedBy: () => undefined,
  blockKey: () => null,
  isOrdered: () => false,
  placeIn: (text) => {
    const found = SERIES.map((form) => form.exec(text)).find((match) => match !== null)
    return found ? { series: found[1] ?? '', member: found[2] ?? '' } : null
  },
  rangeOf: () => null,
  canonical: (text) => text,
  inheritedFrom: groupOf,
  typing: {
    byPath: true,
    add: (text) => `set ${text}`,
    remove: (text) => `delete ${text}`,
    forget: (key) => `delete ${key}`,
  },
}

/**
 * The outermost words of a statement's own place: of set lines behind the verb, in braces those of the outer blocks.
 */
function groupOf(node: ConfigNode): string | null {
  const around: string[] = []
  for (let at: ConfigNode | null = node; at; at = at.parent) around.unshift(...phraseOf(at.text).words)
  const words = around[0] === 'set' ? around.slice(1) : around
  return words[0] === 'groups' ? (words[1] ?? null) : null
}

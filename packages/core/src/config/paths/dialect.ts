import type { Dialect } from '../dialect.ts'
import type { ConfigNode } from '../located-tree.ts'
import { keyOfPath } from './path-tree.ts'
import { phraseOf, typedWord } from './phrase.ts'

/** What the braced form, its set lines and data have in common as dialects of commands. */
export const pathDialect: Pick<Dialect, 'keyOf' | 'blockOpenedBy' | 'blockKey' | 'isOrdered' | 'rangeOf' | 'canonical' | 'typing' | 'inheritedFrom'> = {
  keyOf: (text) => keyOfPath(phraseOf(text).words).map(typedWord).join(' '),
  blockOpenedBy: () => undefined,
  blockKey: () => null,
  isOrdered: () => false,
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

/** The outermost words of a statement's own place: of set lines behind the verb, in braces those of the outer blocks. */
function groupOf(node: ConfigNode): string | null {
  const around: string[] = []
  for (let at: ConfigNode | null = node; at; at = at.parent) around.unshift(...phraseOf(at.text).words)
  const words = around[0] === 'set' ? around.slice(1) : around
  return words[0] === 'groups' ? (words[1] ?? null) : null
}

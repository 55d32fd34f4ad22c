import type { Dialect } from '../dialect.ts'

/** What the braced form and its set lines have in common as dialects of commands: a path replaces nothing but itself. */
export const pathDialect: Pick<Dialect, 'keyOf' | 'blockOpenedBy' | 'blockKey' | 'isOrdered' | 'rangeOf' | 'canonical'> = {
  keyOf: (text) => text,
  blockOpenedBy: () => undefined,
  blockKey: () => null,
  isOrdered: () => false,
  rangeOf: () => null,
  canonical: (text) => text,
}

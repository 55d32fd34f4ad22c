/** Listings in XML: a hierarchy of elements with named entries, as many firewalls export them. */
import type { Syntax } from '../../syntax/syntax.ts'
import { readSetLines } from '../hierarchy/set-lines.ts'
import { keyOf, pathsOf, placeIn, scopeOf, typedOn, typing } from './paths.ts'
import { readXmlEntries } from './reader.ts'
import { maybeSecret, secretsIn } from './secrets.ts'

export const xmlentriesSyntax: Syntax = {
  id: 'xmlentries',
  title: 'XML listing, elements with named entries',
  recognise,
  read: readXmlEntries,
  evaluate: (trees) => scopeOf(pathsOf(trees), maybeSecret),
  apply: (trees, commands) => scopeOf(typedOn(pathsOf(trees), readSetLines(commands.join('\n')).nodes), maybeSecret),
  keyOf,
  blockOpenedBy: () => undefined,
  blockKey: () => null,
  isOrdered: () => false,
  placeIn,
  rangeOf: () => null,
  canonical: (text) => text,
  inheritedFrom: () => null,
  typing,
  maybeSecret,
  secretsIn,
}

/** XML with entries that have names, and the parts that a firewall has. */
function recognise(text: string): number {
  const start = text.slice(0, 20_000)
  if (!/^\ufeff?\s*<(?:\?xml\b[^>]*\?>\s*<)?(?:response|config|!--)\b/.test(start)) return 0
  return /<entry name="/.test(start) && /<(?:mgt-config|deviceconfig|vsys|rulebase|shared|network)\b/.test(text) ? 1 : 0
}

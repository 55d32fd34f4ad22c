/** XML listings of firewalls: a hierarchy of elements with named entries, rules by zones, shared and own objects. */
import type { Dialect } from '../dialect.ts'
import { ONE_LISTING } from '../record-rules.ts'
import { XMLENTRIES_COMMANDS } from './collection.ts'
import { XMLENTRIES_FORWARDING } from './forwarding.ts'
import { XMLENTRIES_MODEL } from './model/index.ts'
import { xmlentriesSyntax } from './syntax.ts'

export const xmlentries: Dialect = {
  ...xmlentriesSyntax,
  model: XMLENTRIES_MODEL,
  forwarding: XMLENTRIES_FORWARDING,
  records: ONE_LISTING,
  outputs: [],
  collection: XMLENTRIES_COMMANDS,
  session: { prompt: 'user', netconf: false, configuring: null },
  example: null,
}

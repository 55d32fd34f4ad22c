/** Data of YANG models in JSON (RFC 7951) or XML (RFC 6241). */
import type { Dialect } from '../dialect.ts'
import { ONE_LISTING } from '../record-rules.ts'
import { DATA_COMMANDS } from './collection.ts'
import { DATA_DEFAULTS } from './defaults.ts'
import { DATA_FORWARDING } from './forwarding.ts'
import { DATA_TABLES, readDataModel } from './model.ts'
import { dataSyntax } from './syntax.ts'

export const data: Dialect = {
  ...dataSyntax,
  model: { read: readDataModel, tables: DATA_TABLES, entryForms: [], pathStatements: true, defaults: DATA_DEFAULTS },
  forwarding: DATA_FORWARDING,
  records: ONE_LISTING,
  outputs: [],
  collection: DATA_COMMANDS,
  session: { prompt: 'shell', netconf: true, configuring: null },
  example: null,
}

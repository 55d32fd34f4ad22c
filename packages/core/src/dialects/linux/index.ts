/** A Linux gateway: saved filter rules, and what the kernel and the files of the system say. */
import type { Dialect } from '../dialect.ts'
import { LINUX_COMMANDS } from './collection.ts'
import { LINUX_FORWARDING } from './forwarding.ts'
import { readLinuxModel } from './model/rules.ts'
import { LINUX_RECORDS } from './records.ts'
import { linuxSyntax } from './syntax.ts'

export const linux: Dialect = {
  ...linuxSyntax,
  model: { read: readLinuxModel, tables: [], entryForms: [], pathStatements: true, defaults: [] },
  forwarding: LINUX_FORWARDING,
  records: LINUX_RECORDS,
  outputs: [],
  collection: LINUX_COMMANDS,
  session: { prompt: 'shell', netconf: false, configuring: null },
  example: null,
}

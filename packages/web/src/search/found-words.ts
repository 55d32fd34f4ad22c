import type { FoundPart } from '../api/estate-types.ts'

/** What parts of an answer are called, one and many. */
export const KINDS: Readonly<Record<FoundPart['kind'], readonly [one: string, many: string]>> = {
  device: ['device', 'Devices'],
  address: ['address', 'Addresses'],
  interface: ['interface', 'Interfaces'],
  user: ['user', 'Users'],
  list: ['list', 'Lists'],
  line: ['line', 'Lines of configuration'],
  rule: ['rule', 'Rules'],
  requirement: ['requirement', 'Requirements'],
}

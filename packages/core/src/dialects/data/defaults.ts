import type { Default } from '../../model/defaults.ts'

export const DATA_DEFAULTS: readonly Default[] = [
  { path: 'interfaces.*.enabled', value: true, source: 'RFC 8343 §5: leaf "enabled", default true' },
]

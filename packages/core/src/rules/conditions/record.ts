import { z } from 'zod'
import { Finding, NOWHERE } from '../evidence.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/** The device has a record of a kind: another configuration, or an output. */
export const record = conditionKind({
  key: 'record',
  schema: () => z.strictObject({ record: z.string() }),
  needs: () => ({ ...NEEDS_NOTHING, outputs: true }),
  compile:
    ({ record: kind }) =>
    ({ device }) =>
      new Finding(device.others.has(kind) || device.outputs().some((output) => output.kind === kind), NOWHERE),
  words: (condition) => `there is a ${condition.record} record`,
  form: {
    title: 'there is a record',
    fields: [{ path: ['record'], title: 'Kind of record or output', as: 'text' }],
    start: { record: 'saved' },
  },
  docs: { form: '`{ record: saved }`', holds: 'there is such a record of the device' },
})

import { z } from 'zod'
import { conditionKind } from './kind.ts'

/** A condition that is asked of the device rather than of the block in which it stands. */
export const device = conditionKind({
  key: 'device',
  schema: (nested) => z.strictObject({ device: nested }),
  needs: (condition, nested) => nested(condition.device),
  compile: (condition, nested) => {
    const compiled = nested.compile(condition.device)
    return (context) => compiled(context.within(context.device.effective.scope))
  },
  words: (condition, nested) => `on the device, ${nested(condition.device)}`,
  form: {
    title: 'on the whole device',
    fields: [{ path: ['device'], title: '', as: 'condition' }],
    start: { device: 'ip domain name *' },
  },
  docs: { form: '`{ device: C }`', holds: 'asked of the device rather than the block' },
})

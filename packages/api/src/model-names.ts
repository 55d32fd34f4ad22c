import { modelNameSchema } from '@jurybox/core/estate'
import { z } from 'zod'
import { asOf } from './as-of.ts'
import { endpoint } from './endpoint.ts'

const modelNames = z
  .array(modelNameSchema)
  .max(2000)
  .refine((names) => new Set(names.map(({ objectId }) => objectId)).size === names.length, {
    error: 'each object identifier once',
  })

export const modelNamesView = z.strictObject({
  names: modelNames,
  /** Object identifiers that devices state and that have no name. */
  unnamed: z.array(z.strictObject({ objectId: z.string(), devices: z.array(z.string()) })),
})
export type ModelNamesView = z.infer<typeof modelNamesView>

/** Names of models by the object identifiers that SNMP agents state. */
export const listModelNames = endpoint({
  method: 'get',
  path: '/engagements/:engagement/model-names',
  access: 'read',
  summary: 'Names of models by the object identifiers that SNMP agents state',
  query: asOf,
  response: modelNamesView,
})

/** Sets the names of models: the whole table. */
export const setModelNames = endpoint({
  method: 'put',
  path: '/engagements/:engagement/model-names',
  access: 'describe',
  summary: 'Sets the names of models: the whole table',
  body: z.strictObject({ names: modelNames }),
  response: z.strictObject({ names: modelNames }),
})

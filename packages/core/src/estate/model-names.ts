import { z } from 'zod'

const OBJECT_ID = /^[0-2](?:\.\d{1,10}){1,60}$/

/** A name for devices whose SNMP agents state an object identifier (sysObjectID of RFC 3418) and no model. */
export const modelNameSchema = z.strictObject({
  objectId: z.string().trim().regex(OBJECT_ID, { error: 'an object identifier, such as 1.3.6.1.4.1.99999.1.7' }),
  name: z.string().trim().min(1).max(80),
})
export type ModelName = z.infer<typeof modelNameSchema>

export function isObjectId(text: string): boolean {
  return OBJECT_ID.test(text)
}

/** The name of a model as it is told: an object identifier that has none stays as it is. */
export function nameOfModel(model: string | null, names: readonly ModelName[]): string | null {
  return names.find(({ objectId }) => objectId === model)?.name ?? model
}

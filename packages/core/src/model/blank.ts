import { z } from 'zod'

const makers = new WeakMap<z.ZodType, () => unknown>()

/** A value of a schema in which nothing is stated yet: null, empty list, empty text, no. */
export function blank<S extends z.ZodType>(schema: S): z.infer<S> {
  let make = makers.get(schema)
  if (!make) makers.set(schema, (make = makerFor(schema)))
  return make() as z.infer<S>
}

function makerFor(schema: z.ZodType): () => unknown {
  if (schema instanceof z.ZodNullable) return () => null
  if (schema instanceof z.ZodArray) return () => []
  if (schema instanceof z.ZodObject) {
    const fields = Object.entries(schema.shape as Record<string, z.ZodType>).map(([name, inner]): [string, () => unknown] => [name, makerFor(inner)])
    return () => {
      const out: Record<string, unknown> = {}
      for (const [name, make] of fields) out[name] = make()
      return out
    }
  }
  if (schema instanceof z.ZodEnum) return () => schema.options[0]
  if (schema instanceof z.ZodBoolean) return () => false
  if (schema instanceof z.ZodNumber) return () => 0
  return () => ''
}

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
    const template: Record<string, unknown> = {}
    const nested: [string, () => unknown][] = []
    for (const [name, inner] of Object.entries(schema.shape as Record<string, z.ZodType>)) {
      const make = makerFor(inner)
      template[name] = make()
      // What can be written into is made anew each time; the rest is copied.
      if (inner instanceof z.ZodObject || inner instanceof z.ZodArray) nested.push([name, make])
    }
    return () => {
      const out = { ...template }
      for (const [name, make] of nested) out[name] = make()
      return out
    }
  }
  if (schema instanceof z.ZodEnum) return () => schema.options[0]
  if (schema instanceof z.ZodBoolean) return () => false
  if (schema instanceof z.ZodNumber) return () => 0
  return () => ''
}

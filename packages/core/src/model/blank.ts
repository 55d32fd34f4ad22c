import { z } from 'zod'

const makers = new WeakMap<z.ZodType, () => unknown>()

/**
 * A value of a schema in which nothing is stated yet: null, empty list, empty text, no. Its parts are frozen and shared
 * with every other blank value, since most of them stay blank: `ownPart` gives one that can be written into.
 */
export function blank<S extends z.ZodType>(schema: S): z.infer<S> {
  let make = makers.get(schema)
  if (!make) makers.set(schema, (make = makerFor(schema)))
  return make() as z.infer<S>
}

/** The part of a blank value under a name, as one of its own. */
export function ownPart<T extends object, K extends keyof T>(holder: T, name: K): T[K] {
  const part = holder[name]
  if (!Object.isFrozen(part) || typeof part !== 'object' || part === null) return part
  return (holder[name] = (Array.isArray(part) ? [] : { ...part }) as T[K])
}

function makerFor(schema: z.ZodType): () => unknown {
  if (schema instanceof z.ZodNullable) return () => null
  if (schema instanceof z.ZodArray) return () => []
  if (schema instanceof z.ZodObject) {
    const parts = Object.entries(schema.shape as Record<string, z.ZodType>).map(
      ([name, inner]) => [name, makerFor(inner)()] as const,
    )
    // Parsed, not assembled: the engine keeps what is assembled name by name as a table, which is slow to copy and to
    // read.
    const template = JSON.parse(JSON.stringify(Object.fromEntries(parts))) as Record<string, unknown>
    for (const [name, part] of parts)
      template[name] = typeof part === 'object' && part !== null ? Object.freeze(part) : part
    return () => ({ ...template })
  }
  if (schema instanceof z.ZodEnum) return () => schema.options[0]
  if (schema instanceof z.ZodBoolean) return () => false
  if (schema instanceof z.ZodNumber) return () => 0
  return () => ''
}

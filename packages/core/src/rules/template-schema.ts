import { z } from 'zod'
import { expressionText as expression, patternText as pattern } from './compiled-text.ts'

const name = z.string().regex(/^[a-z_]\w{0,60}$/i, 'letters, digits and underscores')
const word = z.union([z.string().max(500), z.number()]).transform(String)

/**
 * Where a value of a template is from: written down; a label of the device; CEL over its model and its facts. One, or a
 * list: a line that names a list stands once for each.
 */
export const templateValueSchema = z.union([
  z.strictObject({ is: z.union([word, z.array(word).max(200)]) }),
  z.strictObject({ label: name }),
  z.strictObject({ model: expression }),
])
export type TemplateValue = z.infer<typeof templateValueSchema>

/** A line as a pattern; a placeholder that has a value stands for that, every other one for anything. */
export const templateLineSchema = z.preprocess(
  (line) => (typeof line === 'string' ? { line, kind: 'required' } : line),
  z.strictObject({ line: pattern, kind: z.enum(['required', 'optional', 'forbidden']) }),
)

export const templatePartSchema = z.strictObject({
  /** Openers of the blocks that the lines stand in, outermost first; left out: the top. */
  block: z.preprocess((block) => (typeof block === 'string' ? [block] : block), z.array(pattern).max(6)).default([]),
  /** CEL over `interface`: the part stands once for each interface of which it is true, called `<interface>`. */
  each: expression.optional(),
  /** Lines that belong to it: one that is not among its lines is extra. */
  covers: z.array(pattern).max(60).default([]),
  /** Whether the lines stand in this order. */
  ordered: z.boolean().default(false),
  lines: z.array(templateLineSchema).min(1).max(500),
})
export type TemplatePart = z.infer<typeof templatePartSchema>

/** What a part of a configuration is meant to contain. */
export const templateSchema = z.strictObject({
  dialect: z.string(),
  values: z.record(name, templateValueSchema).default({}),
  parts: z.array(templatePartSchema).min(1).max(100),
})
export type Template = z.infer<typeof templateSchema>

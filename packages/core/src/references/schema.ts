import { z } from 'zod'
import {
  expressionText as expression,
  patternText as pattern,
  scopeText as scope,
  templatePartSchema,
  templateValueSchema,
} from '../rules/index.ts'
import { dialectById } from '../dialects/index.ts'

const word = z.union([z.string().max(500), z.number()]).transform(String)

/** What the state of a device is meant to be. */
const stateExpectationSchema = z.strictObject({
  title: z.string().min(1).max(160),
  /** CEL over `state`, the device model and `device`. */
  that: expression,
})

/** As in templates; or the value of a benchmark, as it holds for the device. */
const valueSchema = z.union([
  templateValueSchema,
  z.strictObject({ benchmark: z.string().min(1).max(160), value: z.string().min(1).max(160) }),
])
export type ReferenceValue = z.infer<typeof valueSchema>

/** A value that is another one for some devices, and who said so. */
const overrideSchema = z.strictObject({
  title: z.string().min(1).max(160),
  scope,
  values: z.record(z.string(), z.union([word, z.array(word).max(200)])),
  by: z.string().min(1).max(160),
})

const exampleSchema = z.strictObject({
  name: z.string().min(1).max(160),
  config: z.string().max(200_000),
  labels: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()])).default({}),
  missing: z.array(z.string()).default([]),
  extra: z.array(z.string()).default([]),
})

/** A reference configuration: what a group of devices is meant to contain of one feature. */
export const referenceSchema = z.strictObject({
  id: z.string().regex(/^[a-z][a-z0-9-]{0,60}$/, 'lower-case words with hyphens'),
  title: z.string().min(1).max(160),
  feature: z.string().min(1).max(60),
  dialect: z.string().refine((id) => dialectById(id) !== undefined, 'no such dialect'),
  /** CEL by which devices it is for, as groups and rules are; left out: all of its dialect. */
  scope: scope.optional(),
  note: z.string().max(2000).default(''),
  values: z.record(z.string().regex(/^[a-z_]\w{0,60}$/i), valueSchema).default({}),
  overrides: z.array(overrideSchema).max(100).default([]),
  parts: z.array(templatePartSchema).max(100).default([]),
  state: z.array(stateExpectationSchema).max(100).default([]),
  examples: z.array(exampleSchema).max(50).default([]),
})
export type Reference = z.infer<typeof referenceSchema>

/** `references.yaml`. */
export const referencesFileSchema = z.strictObject({ references: z.array(referenceSchema).max(200) })

/** The part of a configuration that belongs to a feature, by dialect: patterns of statements, openers included. */
export const featureSchema = z.strictObject({
  id: z.string().regex(/^[a-z][a-z0-9-]{0,60}$/),
  title: z.string().min(1).max(60),
  /** CEL over `interface`: the feature is of the interfaces of which it is true. */
  each: expression.optional(),
  /** Empty where the feature is one of the state alone. */
  statements: z.record(z.string(), z.array(pattern)),
  /** What is compared between devices of their state. */
  state: z.array(z.strictObject({ title: z.string().min(1).max(80), value: expression })).default([]),
})
export type Feature = z.infer<typeof featureSchema>
export const featuresFileSchema = z.strictObject({ features: z.array(featureSchema) })

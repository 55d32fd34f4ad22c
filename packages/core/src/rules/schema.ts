import { DEFAULT_DIALECT, DIALECT_IDS } from '../dialects/index.ts'
import { z } from 'zod'
import { conditionSchema } from './conditions.ts'
import { outcomeSchema, riskSchema, severitySchema } from './outcome.ts'
import { nameSchema as name, patternsSchema as patterns } from './conditions/fields.ts'

const editSchema = z.strictObject({
  /** Lines that match are removed. */
  remove: z.array(z.string()).default([]),
  removeWhere: z.string().optional(),
  /** Lines to add, with `${…}`. */
  add: z.array(z.string()).default([]),
  /** Repeats `add` for each element of a list value, as `item`. */
  each: name.optional(),
  /** Edits the device rather than the block that is judged. */
  device: z.boolean().default(false),
  when: conditionSchema.optional(),
})

export const remedySchema = z.union([
  z.strictObject({
    words: z.string().min(1),
    /** In place of them for devices of some dialects, by its id: commands of one are none of another. */
    byDialect: z.record(z.string(), z.string().min(1)).optional(),
  }),
  z.strictObject({
    risk: riskSchema.default('none'),
    /** What to check before the commands are entered. */
    check: z.array(z.string()).default([]),
    edits: z.array(editSchema).min(1),
    /** What the commands change and the rollback cannot restore. */
    unrestored: z.string().min(1).optional(),
  }),
])
export type RemedySource = z.infer<typeof remedySchema>

const branchSchema = z.strictObject({
  id: z.string().regex(/^[a-z][a-z0-9-]*$/),
  when: conditionSchema.optional(),
  outcome: outcomeSchema,
  note: z.string().min(1),
  severity: severitySchema.optional(),
  remedy: remedySchema.optional(),
  /**
   * What the branch answers where the listing shows defaults: there silence means that the software has no such
   * command.
   */
  full: z.strictObject({ outcome: outcomeSchema, note: z.string().min(1) }).optional(),
})

const subjectsSchema = z.union([
  z.strictObject({ block: patterns, in: patterns.optional(), where: conditionSchema.optional() }),
  z.strictObject({ lines: patterns, by: name }),
  /** Each entry of a list of the device model, known as `as`; `name` (CEL) says what it is called. */
  z.strictObject({
    model: z.string().regex(/^[a-zA-Z]\w*(?:\.\w+)*$/),
    as: name,
    name: z.string().min(1),
    where: z.string().optional(),
    having: conditionSchema.optional(),
  }),
])

/** What is judged, and how: the part of a rule that depends on the dialect. */
const bodyFields = {
  /** What is judged: the device where left out, else each block, each group of lines or each entry of the model. */
  each: subjectsSchema.optional(),
  /** Where there is nothing to judge. */
  nothing: z.strictObject({ outcome: outcomeSchema, note: z.string() }).optional(),
  decide: z.array(branchSchema).min(1),
  remedy: remedySchema.optional(),
}
export type RuleBody = z.infer<z.ZodObject<typeof bodyFields>>

const dialectName = z.enum(DIALECT_IDS)

const exampleSchema = z.strictObject({
  /** Its name begins with `silent` if no line speaks of the matter, with `trap` if something misleads. */
  name: z.string().min(1),
  dialect: dialectName.default(DEFAULT_DIALECT),
  config: z.string(),
  /** What is saved for the next boot. */
  saved: z.string().optional(),
  /** Outputs of commands by kind, taken at `taken`. */
  outputs: z.record(z.string(), z.string()).default({}),
  taken: z.iso.datetime({ offset: true }).optional(),
  /** When it is judged. */
  at: z.iso.datetime({ offset: true }).optional(),
  /** Configurations of other devices of the estate, by name, in the same dialect. */
  others: z.record(z.string(), z.string()).default({}),
  /** The configuration in the snapshot that is compared with. */
  before: z.string().optional(),
  /** What people say of the device. */
  facts: z
    .strictObject({
      labels: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()])).default({}),
      groups: z.array(z.string()).optional(),
      sites: z.array(z.string()).optional(),
      approved: z.enum(['on', 'off', 'none', 'unknown']).optional(),
      ...(Object.fromEntries(
        ['site', 'role', 'model', 'os', 'version'].map((fact) => [fact, z.string().optional()]),
      ) as Record<'site' | 'role' | 'model' | 'os' | 'version', z.ZodOptional<z.ZodString>>),
    })
    .optional(),
  values: z.record(z.string(), z.union([z.string(), z.number(), z.array(z.string())])).default({}),
  is: outcomeSchema,
  branch: z.string().optional(),
  missing: z.array(z.string()).optional(),
  extra: z.array(z.string()).optional(),
})
export type Example = z.infer<typeof exampleSchema>

/** Problems of a body, with the path to each. */
function problemsOf(body: RuleBody): { path: (string | number)[]; message: string }[] {
  const problems = body.decide.flatMap((branch, i) => {
    const last = i === body.decide.length - 1
    if (last === (branch.when === undefined)) return []
    return [
      {
        path: ['decide', i],
        message: last
          ? 'the last branch decides what is left and has no "when"'
          : 'only the last branch may be without "when"',
      },
    ]
  })
  return body.each && !body.nothing
    ? [
        ...problems,
        { path: ['nothing'], message: 'a rule with "each" says what holds where there is nothing to judge' },
      ]
    : problems
}

export const ruleSchema = z
  .strictObject({
    id: z.string().regex(/^[a-z][a-z0-9-]*$/),
    title: z.string().min(1),
    topic: z.string().min(1),
    severity: severitySchema,
    /** The smallest profile that holds the rule. */
    profile: z.string().min(1),
    statement: z.string().min(1),
    /** CEL over device facts, labels, groups and model: which devices the rule speaks of; all where left out. */
    scope: z.string().min(1).optional(),
    references: z.array(z.string().regex(/^[a-z0-9.-]+:[A-Za-z0-9().-]+$/)).default([]),
    /** The dialects that the rule itself speaks of; others have a body of their own, or are not checked. */
    dialects: z.array(dialectName).min(1).default([DEFAULT_DIALECT]),
    ...bodyFields,
    /** Records with the outcome that the rule must give them; they are tried whenever the rule is saved. */
    examples: z.array(exampleSchema).default([]),
    /** The same rule for other dialects. */
    also: z.array(z.strictObject({ dialects: z.array(dialectName).min(1), ...bodyFields })).default([]),
  })
  .superRefine((rule, context) => {
    for (const { path, message } of problemsOf(rule)) context.addIssue({ code: 'custom', path, message })
    rule.also.forEach((body, i) => {
      for (const { path, message } of problemsOf(body))
        context.addIssue({ code: 'custom', path: ['also', i, ...path], message })
    })
    const named = [rule, ...rule.also].flatMap(({ dialects }) => dialects)
    const twice = named.find((id, i) => named.indexOf(id) !== i)
    if (twice !== undefined)
      context.addIssue({ code: 'custom', path: ['also'], message: `the dialect "${twice}" is spoken of twice` })
  })
export type RuleSource = z.infer<typeof ruleSchema>

export const valueSchema = z.discriminatedUnion('type', [
  z.strictObject({
    type: z.literal('int'),
    title: z.string(),
    unit: z.string().optional(),
    default: z.int().optional(),
    min: z.int().optional(),
    max: z.int().optional(),
  }),
  z.strictObject({ type: z.literal('text'), title: z.string(), default: z.string().optional() }),
  z.strictObject({ type: z.literal('pattern'), title: z.string(), default: z.string().optional() }),
  z.strictObject({ type: z.literal('hosts'), title: z.string(), default: z.array(z.string()).optional() }),
  z.strictObject({ type: z.literal('prefixes'), title: z.string(), default: z.array(z.string()).optional() }),
])
export type ValueSource = z.infer<typeof valueSchema>

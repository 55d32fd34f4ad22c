import { DEFAULT_DIALECT, DIALECT_IDS } from '../dialects/index.ts'
import { z } from 'zod'
import { SERVICE_NAMES, type Service } from './services.ts'

/** Outcomes of XCCDF 1.2 (NIST IR 7275 r4, §6.6.4.2). */
export const outcomeSchema = z.enum(['pass', 'fail', 'unknown', 'error', 'notapplicable', 'notchecked'])
export type Outcome = z.infer<typeof outcomeSchema>

export const severitySchema = z.enum(['info', 'low', 'medium', 'high'])
export type Severity = z.infer<typeof severitySchema>

/** `session`: the change may cut off the session that makes it; `traffic`: it may stop traffic. */
export const riskSchema = z.enum(['none', 'session', 'traffic'])
export type Risk = z.infer<typeof riskSchema>

const patterns = z.union([z.string(), z.array(z.string()).min(1)])
const name = z.string().regex(/^[a-z]\w*$/, 'expected a name of lower-case letters, digits and _')

/** Where a condition looks: the patterns of the blocks that lead there, outermost first; else where the rule looks. */
interface Placed {
  in?: string | string[]
}

export interface LineCondition extends Placed {
  line?: string | string[]
  absent?: string | string[]
  where?: string
}

export type Condition =
  | string
  | LineCondition
  | { all: Condition[] }
  | { any: Condition[] }
  | { none: Condition[] }
  | { expr: string }
  | { device: Condition }
  | { set: { of: string | string[]; take: string; equals?: string; within?: string } }
  | { list: { name: string; family: 'ipv4' | 'ipv6'; is: 'missing' | 'empty' | 'open' } }
  | { admits: { list: string; sources: string } }
  | { body: { of: string | string[]; found: string } }
  | { some: { block: string | string[]; has: Condition } }
  | { only: string[] }
  | { collect: { of: string | string[]; take: string; as: string } }
  | { record: string }
  | { differs: string }
  | { model: string }
  | ({ matching: string } & Placed)
  | { holds: string }
  | ({ exactly: { of: string | string[]; lines: string | string[] } } & Placed)
  | ({ order: string[]; contiguous?: boolean } & Placed)
  | ({ count: { of: string | string[]; where?: string; atLeast?: number; atMost?: number } } & Placed)
  | { state: string; of: string | string[]; maxAge?: number }
  | {
      change: {
        of: string
        is: 'unchanged' | 'appeared' | 'vanished' | 'grew' | 'kept' | 'within'
        by?: number
        percent?: number
      }
    }
  | { same: string; among?: string }
  | { unique: string }
  | { access: { list: string; service: Service; is: 'open' | 'undefined' } }
  | { outside: string }
  | { opens: { service: Service; family: 'ipv4' | 'ipv6' } }
  | { ends: 'known' | 'mtu' | 'speed' | 'vlans' | 'ospf' | 'protection' }

/**
 * What can be asked of a device or of a block. A plain text is a pattern that must match a line that holds.
 * `line` binds its placeholders for what follows in the same `all`; `absent` is its opposite.
 */
export const conditionSchema: z.ZodType<Condition> = z.lazy(() =>
  z.union([
    z.string().min(1),
    z.strictObject({ line: patterns, in: patterns.optional(), where: z.string().optional() }),
    z.strictObject({ absent: patterns, in: patterns.optional(), where: z.string().optional() }),
    z.strictObject({ all: z.array(conditionSchema).min(1) }),
    z.strictObject({ any: z.array(conditionSchema).min(1) }),
    z.strictObject({ none: z.array(conditionSchema).min(1) }),
    z.strictObject({ expr: z.string().min(1) }),
    z.strictObject({ device: conditionSchema }),
    z.strictObject({
      set: z.strictObject({ of: patterns, take: name, equals: name.optional(), within: name.optional() }),
    }),
    z.strictObject({
      list: z.strictObject({
        name: z.string(),
        family: z.enum(['ipv4', 'ipv6']),
        is: z.enum(['missing', 'empty', 'open']),
      }),
    }),
    z.strictObject({ admits: z.strictObject({ list: z.string(), sources: name }) }),
    z.strictObject({ body: z.strictObject({ of: patterns, found: z.string() }) }),
    /** Some block of this kind in which the condition holds. */
    z.strictObject({ some: z.strictObject({ block: patterns, has: conditionSchema }) }),
    /** No line but these; negated lines do not count. */
    z.strictObject({ only: z.array(z.string()).min(1) }),
    /** Binds the list of what matching lines name; always holds. */
    z.strictObject({ collect: z.strictObject({ of: patterns, take: name, as: name }) }),
    z.strictObject({ record: z.string() }),
    z.strictObject({ differs: z.string() }),
    /**
     * CEL over the device model, the benchmark's values and what is bound; rests on the lines of the fields it names.
     */
    z.strictObject({ model: z.string().min(1) }),
    /** Some line, as listed, in which an RE2 pattern is found. */
    z.strictObject({ matching: z.string().min(1), in: patterns.optional() }),
    /** Every line of a pasted part of a listing holds, each in its block. */
    z.strictObject({ holds: z.string().min(1) }),
    /** Of the lines that match `of`, exactly these are there: names what is missing and what is extra. */
    z.strictObject({ exactly: z.strictObject({ of: patterns, lines: patterns }), in: patterns.optional() }),
    /** A line for each pattern, in this order; `contiguous`: with nothing between them. */
    z.strictObject({ order: z.array(z.string()).min(2), contiguous: z.boolean().optional(), in: patterns.optional() }),
    /** How many lines match; binds `count`. */
    z.strictObject({
      count: z.strictObject({
        of: patterns,
        where: z.string().optional(),
        atLeast: z.int().optional(),
        atMost: z.int().optional(),
      }),
      in: patterns.optional(),
    }),
    /**
     * CEL over `state`, which rests on outputs of the kinds named; unknown where one was not captured, not read, or is
     * older than `maxAge` seconds.
     */
    z.strictObject({ state: z.string().min(1), of: patterns, maxAge: z.int().min(1).optional() }),
    /** A value (CEL) now and in the snapshot that is compared with; binds `before` and `after`. */
    z.strictObject({
      change: z.strictObject({
        of: z.string().min(1),
        is: z.enum(['unchanged', 'appeared', 'vanished', 'grew', 'kept', 'within']),
        by: z.number().min(0).optional(),
        percent: z.number().min(0).optional(),
      }),
    }),
    /** A value (CEL) is that of all devices, or of those for which `among` holds; binds `others`. */
    z.strictObject({ same: z.string().min(1), among: z.string().optional() }),
    /** A value, or every element of a list, that no other device of the estate has; binds `twins`. */
    z.strictObject({ unique: z.string().min(1) }),
    /**
     * The interface that an expression names is in use and faces the outside: by label, else by zone, else by
     * description.
     */
    z.strictObject({ outside: z.string().min(1) }),
    /**
     * The device's own filters let whoever likes connect to a service of it; with `management_sources` set, whoever is
     * not among those. Binds `by`.
     */
    z.strictObject({
      access: z.strictObject({
        list: z.string().min(1),
        service: z.enum(SERVICE_NAMES),
        is: z.enum(['open', 'undefined']),
      }),
    }),
    z.strictObject({ opens: z.strictObject({ service: z.enum(SERVICE_NAMES), family: z.enum(['ipv4', 'ipv6']) }) }),
    /** Both ends of every link agree; binds `disagreeing`. `known`: the other end of some link is known. */
    z.strictObject({ ends: z.enum(['known', 'mtu', 'speed', 'vlans', 'ospf', 'protection']) }),
  ]),
)

const editSchema = z.strictObject({
  /** Lines that match are taken out. */
  remove: z.array(z.string()).default([]),
  removeWhere: z.string().optional(),
  /** Lines to put in, with `${…}`. */
  add: z.array(z.string()).default([]),
  /** Repeats `add` for each element of a list value, as `item`. */
  each: name.optional(),
  /** Edits the device rather than the block that is judged. */
  device: z.boolean().default(false),
  when: conditionSchema.optional(),
})

export const remedySchema = z.union([
  z.strictObject({ words: z.string().min(1) }),
  z.strictObject({
    risk: riskSchema.default('none'),
    /** What to make sure of before the commands are entered. */
    check: z.array(z.string()).default([]),
    edits: z.array(editSchema).min(1),
    /** What the commands change and their rollback does not bring back. */
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
    having: z.lazy(() => conditionSchema).optional(),
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
  /** Begins with `silent` where nothing speaks of the matter, with `trap` where something misleads. */
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
    /** The same question put to other dialects. */
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

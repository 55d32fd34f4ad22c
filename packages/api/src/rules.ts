import { z } from 'zod'
import { outcomeSchema } from './outcomes.ts'
import { remedySchema } from '@jurybox/core/audit'
import { conditionSchema } from '@jurybox/core/rules'
import { endpoint } from './endpoint.ts'

export const MAX_TEXT = 500_000

export const trialBody = z.strictObject({
  text: z.string().max(MAX_TEXT),
  snapshotId: z.int().positive().nullable(),
  /** Another snapshot, whose answers stand beside. */
  besideId: z.int().positive().nullable().default(null),
  /** Devices that are asked; all of them where left out. */
  devices: z.array(z.int().positive()).max(10_000).nullable().default(null),
  /** Rules that are asked; all of them where left out. */
  rules: z.array(z.string()).max(500).nullable().default(null),
})

export const MAX_CITED = 500

export const ownVersion = z.strictObject({
  benchmark: z.string(),
  number: z.number(),
  hash: z.string(),
  why: z.string(),
  by: z.string(),
  createdAt: z.string(),
  publishedAt: z.string().nullable(),
})
export type OwnVersion = z.infer<typeof ownVersion>

export const trialView = z.strictObject({
  /** What is wrong with the text, a line for each fault; null where it is a benchmark. */
  wrong: z.string().nullable(),
  examples: z.array(z.strictObject({ rule: z.string(), name: z.string(), wrong: z.array(z.string()) })),
  rules: z.array(
    z.strictObject({
      id: z.string(),
      title: z.string(),
      severity: z.string(),
      devices: z.array(
        z.strictObject({
          deviceId: z.number(),
          device: z.string(),
          outcome: outcomeSchema,
          branch: z.string(),
          note: z.string(),
          line: z.strictObject({ record: z.number(), from: z.number(), text: z.string() }).nullable(),
        }),
      ),
      beside: z.array(z.strictObject({ deviceId: z.number(), outcome: outcomeSchema, branch: z.string() })),
      remedies: z.array(z.strictObject({ deviceId: z.number(), device: z.string(), remedy: remedySchema.nullable() })),
    }),
  ),
})
export type TrialView = z.infer<typeof trialView>

/**
 * A word of a cited line. `same`: this word; `any`: any one word; `named`: any one, known by `name` from there on;
 * `value`: what the benchmark's value `name` says.
 */
export const citedWord = z.strictObject({
  text: z.string(),
  use: z.enum(['any', 'value', 'same', 'named']),
  name: z.string(),
})

/** A line that holds on a device, with the openers of the blocks around it, outermost first. */
export const citedLine = z.strictObject({
  line: z.number(),
  /** As it stands, free text beneath it included, without indentation; secrets are marks. */
  text: z.string(),
  negated: z.boolean(),
  words: z.array(citedWord),
  blocks: z.array(z.array(citedWord)),
})
export type CitedLine = z.infer<typeof citedLine>

export const benchmarkDifferences = z.strictObject({
  /** Of the benchmark itself: title, version, profiles. */
  about: z.array(z.strictObject({ field: z.string(), from: z.string().nullable(), to: z.string().nullable() })),
  parts: z.array(
    z.strictObject({
      kind: z.enum(['value', 'rule', 'question']),
      id: z.string(),
      title: z.string(),
      what: z.enum(['changed', 'added', 'removed']),
      fields: z.array(z.strictObject({ field: z.string(), from: z.string().nullable(), to: z.string().nullable() })),
    }),
  ),
})
export type BenchmarkDifferences = z.infer<typeof benchmarkDifferences>

export const differencesView = z.strictObject({
  wrong: z.string().nullable(),
  against: z.strictObject({ benchmark: z.string(), number: z.number() }).nullable(),
  differences: benchmarkDifferences.nullable(),
})
export type DifferencesView = z.infer<typeof differencesView>

/** Own benchmarks: every saved version. */
export const listOwnBenchmarks = endpoint({
  method: 'get',
  path: '/engagements/:engagement/own-benchmarks',
  access: 'read',
  summary: 'Own benchmarks: every saved version',
  response: z.array(ownVersion),
})

/** The YAML text of one version. */
export const getOwnBenchmark = endpoint({
  method: 'get',
  path: '/engagements/:engagement/own-benchmarks/:benchmark/:number',
  access: 'read',
  summary: 'The YAML text of one version',
  response: z.strictObject({ benchmark: z.string(), number: z.number(), text: z.string() }),
})

/** Tries a benchmark that is being written on its examples and on devices; nothing is stored. */
export const tryRules = endpoint({
  method: 'post',
  path: '/engagements/:engagement/own-benchmarks/trial',
  access: 'writeRules',
  summary: 'Tries a benchmark that is being written on its examples and on devices; nothing is stored',
  large: true,
  body: trialBody,
  response: trialView,
})

/** Cites lines of a record with the blocks around them, as a condition. */
export const citeLines = endpoint({
  method: 'post',
  path: '/engagements/:engagement/own-benchmarks/cited',
  access: 'writeRules',
  summary: 'Cites lines of a record with the blocks around them, as a condition',
  body: z.strictObject({ recordId: z.int().positive(), lines: z.array(z.int().positive()).min(1).max(MAX_CITED) }),
  response: z.strictObject({
    dialect: z.string(),
    lines: z.array(citedLine),
    left: z.array(z.strictObject({ line: z.number(), reason: z.string() })),
  }),
})

/** Turns a pasted block, access list or prefix list into one condition. */
export const citePasted = endpoint({
  method: 'post',
  path: '/engagements/:engagement/own-benchmarks/pasted',
  access: 'writeRules',
  summary: 'Turns a pasted block, access list or prefix list into one condition',
  large: true,
  body: z.strictObject({
    text: z.string().min(1).max(MAX_TEXT),
    dialect: z.string(),
    like: z.strictObject({ recordId: z.int().positive(), line: z.int().positive() }).nullable(),
  }),
  response: z.strictObject({ condition: conditionSchema }),
})

/** Compares a text with a saved version of the benchmark. */
export const compareOwnBenchmark = endpoint({
  method: 'post',
  path: '/engagements/:engagement/own-benchmarks/differences',
  access: 'writeRules',
  summary: 'Compares a text with a saved version of the benchmark',
  large: true,
  body: z.strictObject({ text: z.string().max(MAX_TEXT), number: z.int().positive().optional() }),
  response: differencesView,
})

/** Saves a benchmark as its next version; its examples have to pass. */
export const saveOwnBenchmark = endpoint({
  method: 'post',
  path: '/engagements/:engagement/own-benchmarks',
  access: 'writeRules',
  summary: 'Saves a benchmark as its next version; its examples have to pass',
  large: true,
  body: z.strictObject({ text: z.string().max(MAX_TEXT), why: z.string().trim().min(3).max(400) }),
  response: z.strictObject({ benchmark: z.string(), number: z.number() }),
})

/** Publishes a version, so that audits can use it. */
export const publishOwnBenchmark = endpoint({
  method: 'post',
  path: '/engagements/:engagement/own-benchmarks/:benchmark/:number/publish',
  access: 'writeRules',
  summary: 'Publishes a version, so that audits can use it',
})

import { z } from 'zod'
import { ruleSchema } from '@jurybox/core/rules'
import { benchmarkSchema, overrideSchema, tailoringSchema } from '@jurybox/core/benchmarks'
import { endpoint } from './endpoint.ts'

/** Whether a requirement that asks for a review at intervals has had it. */
export const reviewView = z.strictObject({
  framework: z.string(),
  requirement: z.string(),
  title: z.string(),
  everyDays: z.number(),
  /** Null where it was never reviewed. */
  last: z
    .strictObject({
      /** RFC 3339. */
      at: z.string(),
      by: z.enum(['audit', 'answer']),
    })
    .nullable(),
  answer: z.enum(['met', 'overdue', 'scheduled too rarely']),
  /** When the next one is due; null where there was none yet. */
  due: z.string().nullable(),
  /** The longest time between two reviews that was longer than asked for, in days; null where none was. */
  lapse: z.number().nullable(),
  frameworkTitle: z.string(),
})
export type ReviewView = z.infer<typeof reviewView>

export const benchmarkRow = z.strictObject({
  id: z.string(),
  title: z.string(),
  version: z.string(),
  statement: z.string(),
  profiles: z.array(z.strictObject({ id: z.string(), title: z.string() })),
  rules: z.number(),
  attestations: z.number(),
  selected: z.number(),
  profile: z.string(),
})
export type BenchmarkRow = z.infer<typeof benchmarkRow>

export const setValue = z.union([z.string(), z.number(), z.array(z.string())]).nullable()
export type SetValue = z.infer<typeof setValue>

export const requirementCoverage = z.strictObject({
  framework: z.string(),
  requirement: z.string(),
  title: z.string(),
  part: z.string(),
  /** Rules that speak to it, and questions put to a person. */
  rules: z.array(z.string()),
  attestations: z.array(z.string()),
  /** Expectations of traffic that speak to it. */
  expectations: z.array(z.string()),
  traffic: z.string().nullable(),
  group: z.string().nullable(),
  /**
   * `machine`: its rules decide it · `partly`: rules decide a part · `person`: a person answers a question ·
   * `none`: not covered · `outside` the network.
   */
  coverage: z.enum(['none', 'outside', 'machine', 'partly', 'person']),
})
export type RequirementCoverage = z.infer<typeof requirementCoverage>

export const benchmarkView = z.strictObject({
  id: z.string(),
  title: z.string(),
  version: z.string(),
  statement: z.string(),
  hash: z.string(),
  profiles: z.array(z.strictObject({ id: z.string(), title: z.string() })),
  profile: z.string(),
  fittedBy: z.string().nullable(),
  fittedAt: z.string().nullable(),
  values: z.array(
    z.strictObject({
      name: z.string(),
      type: z.enum(['pattern', 'int', 'text', 'hosts', 'prefixes']),
      title: z.string(),
      unit: z.string().optional(),
      min: z.number().optional(),
      max: z.number().optional(),
      default: setValue,
      set: setValue,
    }),
  ),
  topics: benchmarkSchema.shape.topics,
  rules: z.array(ruleSchema.safeExtend({ selected: z.boolean() })),
  frameworks: z.array(z.strictObject({ id: z.string(), title: z.string(), remark: z.string() })),
  coverage: z.array(requirementCoverage),
  overrides: z.array(overrideSchema),
  tailoring: z.array(tailoringSchema),
  /** How many questions it puts to people. */
  attestations: z.number(),
})
export type BenchmarkView = z.infer<typeof benchmarkView>

/** Requirements that ask for a review at intervals: done, overdue, and when the next is due. */
export const listReviews = endpoint({
  method: 'get',
  path: '/engagements/:engagement/reviews',
  access: 'read',
  summary: 'Requirements that ask for a review at intervals: done, overdue, and when the next is due',
  response: z.array(reviewView),
})

/** Confirms that an audit was the review that a requirement asks for. */
export const confirmReview = endpoint({
  method: 'post',
  path: '/engagements/:engagement/reviews',
  access: 'attest',
  summary: 'Confirms that an audit was the review that a requirement asks for',
  body: z.strictObject({
    framework: z.string().max(60),
    requirement: z.string().max(60),
    audit: z.int().positive(),
    note: z.string().trim().min(3).max(8000),
  }),
})

/** Frameworks that some rule or question speaks to: an audit can be for one of them. */
export const listFrameworks = endpoint({
  method: 'get',
  path: '/engagements/:engagement/frameworks',
  access: 'read',
  summary: 'Frameworks that some rule or question speaks to: an audit can be for one of them',
  response: z.array(
    z.strictObject({
      id: z.string(),
      title: z.string(),
      requirements: z.number(),
      rules: z.number(),
      questions: z.number(),
      /** Whether they are own controls of the engagement. */
      own: z.boolean(),
    }),
  ),
})

/** The benchmarks as fitted for this engagement. */
export const listBenchmarks = endpoint({
  method: 'get',
  path: '/engagements/:engagement/benchmarks',
  access: 'read',
  summary: 'The benchmarks as fitted for this engagement',
  response: z.array(benchmarkRow),
})

/** One benchmark: rules with branches, values with who set them, coverage of requirements. */
export const getBenchmark = endpoint({
  method: 'get',
  path: '/engagements/:engagement/benchmarks/:benchmark',
  access: 'read',
  summary: 'One benchmark: rules with branches, values with who set them, coverage of requirements',
  response: benchmarkView,
})

/** Profile, values, overrides and tailoring as a file, for headless audits. */
export const exportFitting = endpoint({
  method: 'get',
  path: '/engagements/:engagement/benchmarks/:benchmark/fitting.yaml',
  access: 'read',
  summary: 'Profile, values, overrides and tailoring as a file, for headless audits',
  file: 'application/yaml',
})

/** Sets profile and values for this engagement; null resets a value to its default. */
export const fitBenchmark = endpoint({
  method: 'put',
  path: '/engagements/:engagement/benchmarks/:benchmark',
  access: 'fit',
  summary: 'Sets profile and values for this engagement; null resets a value to its default',
  large: true,
  body: z.strictObject({
    profile: z.string(),
    values: z.record(
      z.string(),
      z.union([z.string().max(20_000), z.number(), z.array(z.string().max(200)).max(2000), z.null()]),
    ),
    overrides: z.array(overrideSchema).max(200).optional(),
    tailoring: z
      .array(tailoringSchema.omit({ by: true }))
      .max(1000)
      .optional(),
  }),
})

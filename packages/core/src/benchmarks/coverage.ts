import { z } from 'zod'
import { scoringSchema } from './scoring.ts'
import type { BenchmarkSource } from './benchmark.ts'

/**
 * How a requirement can be decided: by `machine`; `partly` by machine, a person judging the rest; by a `person` only;
 * or it lies `outside` the network altogether.
 */
export const decidedBySchema = z.enum(['machine', 'partly', 'person', 'outside'])
export type DecidedBy = z.infer<typeof decidedBySchema>

export const statedSchema = z.strictObject({
  title: z.string(),
  by: decidedBySchema.default('partly'),
  /** How often it asks for a review, in days. */
  review: z.int().min(1).optional(),
  /** What must hold of traffic for it, in words: expectations decide it. */
  traffic: z.string().optional(),
  /** The smallest group or level that asks for it. */
  group: z.string().optional(),
  /** Requirements of other frameworks that ask the same: what speaks to them speaks to this one. */
  same: z.array(z.string()).default([]),
})
export type Requirement = z.infer<typeof statedSchema>

/** A title alone, or a title with how the requirement can be decided. */
const requirementSchema = z.union([
  z.string().transform((title): Requirement => ({ title, by: 'partly', same: [] })),
  statedSchema,
])

/** How a requirement can be answered; what each means stands at the assessment of an audit. */
export const requirementAnswers = [
  'met',
  'not-met',
  'partly',
  'undecided',
  'not-applicable',
  'not-assessed',
  'outside',
] as const
export type RequirementAnswer = (typeof requirementAnswers)[number]

/** A published standard: its requirements by number, with titles in our own words. */
export const frameworkSchema = z.strictObject({
  id: z.string(),
  title: z.string(),
  remark: z.string(),
  /** Titles of the parts into which requirements fall, by the beginning of their numbers. */
  parts: z.record(z.string(), z.string()).default({}),
  requirements: z.record(z.string(), requirementSchema),
  scoring: scoringSchema.optional(),
  /** What reports on it call an answer, such as `In place`; where it is silent, our own word stands. */
  answers: z.partialRecord(z.enum(requirementAnswers), z.string()).default({}),
})
export type Framework = z.infer<typeof frameworkSchema>

export interface RequirementCoverage {
  readonly framework: string
  readonly requirement: string
  readonly title: string
  readonly part: string
  /** Rules that speak to it, and questions put to a person. */
  readonly rules: readonly string[]
  readonly attestations: readonly string[]
  /** Expectations of traffic that speak to it. */
  readonly expectations: readonly string[]
  readonly traffic: string | null
  readonly group: string | null
  /**
   * `machine`: its rules decide it · `partly`: rules decide some of it · `person`: a person attests it · `none`:
   * nothing here touches it · `outside` the network.
   */
  readonly coverage: 'machine' | 'partly' | 'person' | 'none' | 'outside'
}

/** Every requirement of the frameworks with what speaks to it in some benchmarks and expectations. */
export function coverageOf(
  benchmarks: readonly BenchmarkSource[],
  frameworks: readonly Framework[],
  expected: readonly { readonly id: string; readonly references: readonly string[] }[] = [],
): RequirementCoverage[] {
  const rulesFor = byReference(benchmarks.flatMap(({ rules }) => rules))
  const attestedBy = byReference(benchmarks.flatMap(({ attestations }) => attestations))
  const expectedFor = byReference(expected)
  return frameworks.flatMap((framework) =>
    Object.entries(framework.requirements).map(([requirement, { title, by, traffic = null, group = null, same }]) => {
      const references = [`${framework.id}:${requirement}`, ...same]
      const rules = [...new Set(references.flatMap((reference) => rulesFor.get(reference) ?? []))]
      const attestations = [...new Set(references.flatMap((reference) => attestedBy.get(reference) ?? []))]
      const expectations = [...new Set(references.flatMap((reference) => expectedFor.get(reference) ?? []))]
      return {
        framework: framework.id,
        requirement,
        title,
        part: partOf(framework, requirement),
        rules,
        attestations,
        expectations,
        traffic,
        group,
        coverage: covered(by, rules.length + expectations.length > 0, attestations.length > 0),
      }
    }),
  )
}

function covered(by: DecidedBy, byRule: boolean, byPerson: boolean): RequirementCoverage['coverage'] {
  if (byRule) return by === 'machine' ? 'machine' : 'partly'
  if (byPerson) return 'person'
  return by === 'outside' ? 'outside' : 'none'
}

function byReference(
  items: readonly { readonly id: string; readonly references: readonly string[] }[],
): Map<string, string[]> {
  const found = new Map<string, string[]>()
  for (const { id, references } of items)
    for (const reference of references) found.set(reference, [...(found.get(reference) ?? []), id])
  return found
}

/** The part with the longest beginning that a number has. */
function partOf({ parts }: Framework, requirement: string): string {
  const heads = Object.keys(parts)
    .filter((head) => requirement === head || requirement.startsWith(head))
    .sort((a, b) => b.length - a.length)
  return parts[heads[0] ?? ''] ?? ''
}

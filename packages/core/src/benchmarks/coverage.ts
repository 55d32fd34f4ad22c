import { z } from 'zod'
import type { BenchmarkSource } from './benchmark.ts'

/** A published standard: its requirements by number, with titles in our own words. */
export const frameworkSchema = z.strictObject({
  id: z.string(),
  title: z.string(),
  remark: z.string(),
  requirements: z.record(z.string(), z.string()),
})
export type Framework = z.infer<typeof frameworkSchema>

export interface RequirementCoverage {
  readonly framework: string
  readonly requirement: string
  readonly title: string
  /** Rules that speak to it. */
  readonly rules: readonly string[]
  /** `partly`: a machine decides some of it; no rule decides the whole of a requirement alone. */
  readonly coverage: 'partly' | 'none'
}

/** Every requirement of the frameworks with the rules that speak to it. */
export function coverageOf(benchmark: BenchmarkSource, frameworks: readonly Framework[]): RequirementCoverage[] {
  const rulesFor = new Map<string, string[]>()
  for (const rule of benchmark.rules) {
    for (const reference of rule.references) rulesFor.set(reference, [...(rulesFor.get(reference) ?? []), rule.id])
  }
  return frameworks.flatMap((framework) =>
    Object.entries(framework.requirements).map(([requirement, title]) => {
      const rules = rulesFor.get(`${framework.id}:${requirement}`) ?? []
      return { framework: framework.id, requirement, title, rules, coverage: rules.length > 0 ? ('partly' as const) : ('none' as const) }
    }),
  )
}

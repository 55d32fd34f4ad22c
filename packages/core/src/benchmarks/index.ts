/** Benchmarks: rules with profiles and values, and what they cover of published standards. */
export {
  benchmarkSchema,
  checkValue,
  effectiveValues,
  benchmarkAsRead,
  readBenchmark,
  rulesOf,
  type AttestationSource,
  type Benchmark,
  type BenchmarkSource,
  type Value,
} from './benchmark.ts'
export {
  checkScope,
  fittingSchema,
  overrideSchema,
  prepare,
  tailoringSchema,
  type CompiledBenchmark,
  type Choice,
  type Fitting,
  type Override,
  type Tailoring,
} from './fitting.ts'
export { answersTo, attestationAnswerSchema, type AttestationAnswer, type Attested } from './attestation.ts'
export { reviewsOf, type Review, type Reviewing } from './review.ts'
export {
  coverageOf,
  frameworkSchema,
  statedSchema,
  requirementAnswers,
  type Framework,
  type Requirement,
  type RequirementAnswer,
  type RequirementCoverage,
} from './coverage.ts'
export { scoringSchema, weightOf, type Scoring } from './scoring.ts'

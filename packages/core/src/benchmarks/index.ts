/** Benchmarks: rules with profiles and values, and what they cover of published standards. */
export { benchmarkSchema, checkValue, effectiveValues, readBenchmark, rulesOf, type Benchmark, type BenchmarkSource, type Value } from './benchmark.ts'
export { coverageOf, frameworkSchema, type Framework, type RequirementCoverage } from './coverage.ts'

import { dialectById, maskWithKey, prepare, readBenchmark, type Dialect } from '@jurybox/core'
import type { CompiledBenchmark } from '@jurybox/core/benchmarks'
import { benchmarkTexts } from '../src/index.ts'

/** The hardening rules, as the tests of this package put them to listings. */
export const benchmark = readBenchmark(
  benchmarkTexts().find(({ file }) => file === 'network-hardening.yaml')?.text ?? '',
)
export const mask = maskWithKey(new Uint8Array(32))

export function dialect(id: string): Dialect {
  const found = dialectById(id)
  if (!found) throw new Error(id)
  return found
}

/** The benchmark as it comes, with no value changed. */
export function benchOf(): CompiledBenchmark {
  return prepare({ benchmark, profile: 'level-2', values: {} })
}

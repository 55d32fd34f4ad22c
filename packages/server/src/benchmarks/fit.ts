import { CoreError, prepare } from '@jurybox/core'
import {
  checkValue,
  type Benchmark,
  type BenchmarkSource,
  type Override,
  type Tailoring,
  type Value,
} from '@jurybox/core/benchmarks'
import type { DataSource } from 'typeorm'
import type { ActivityLog } from '../activity/activity.ts'
import type { User } from '../auth/entity.ts'
import { Problem } from '../http/problem.ts'
import { Fittings } from './entity.ts'
import type { BenchmarkRepository } from './repository.ts'

/** A fault of one field, by its names from the outside in, joined by dots. */
class FieldFault extends Error {
  constructor(
    readonly field: string,
    message: string,
  ) {
    super(message)
  }
}

/** A fault in a fitting is reported to its author. @throws Problem */
function checked<T>(make: () => T): T {
  try {
    return make()
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error)
    throw new Problem(422, message, error instanceof FieldFault ? { fields: [{ field: error.field, message }] } : {})
  }
}

/** @throws FieldFault where the benchmark does not have a value, or what was given for it is wrong */
function valuesSet(
  source: BenchmarkSource,
  given: Readonly<Record<string, Value | null>>,
  path: string,
): Record<string, string | number | string[]> {
  return Object.fromEntries(
    Object.entries(given).flatMap(([name, text]) => {
      const value = Object.hasOwn(source.values, name) ? source.values[name] : undefined
      const field = `${path}.${name}`
      if (!value) throw new FieldFault(field, `there is no value "${name}"`)
      if (text === null) return []
      try {
        const checkedValue = checkValue(name, value, text)
        return [[name, typeof checkedValue === 'object' ? [...checkedValue] : checkedValue]]
      } catch (error) {
        if (error instanceof CoreError) throw new FieldFault(field, error.message)
        throw error
      }
    }),
  )
}

/** The author of a tailoring is kept for as long as the tailoring does not change. */
function signed(one: Omit<Tailoring, 'by'>, before: readonly Tailoring[], by: string): Tailoring {
  const same = before.find(
    ({ rule, selected, severity, reason }) =>
      rule === one.rule && selected === one.selected && severity === one.severity && reason === one.reason,
  )
  return same ?? { ...one, by }
}

/** What is needed of the rest of the server. */
export interface Needs {
  readonly activity: ActivityLog
  readonly benchmarks: BenchmarkRepository
  readonly database: DataSource
}

/** How a benchmark is fitted; what is left out stays. A value that is null goes back to its default. */
export interface FittingChange {
  readonly profile: string
  readonly values: Readonly<Record<string, Value | null>>
  readonly overrides?: readonly Override[] | undefined
  readonly tailoring?: readonly Omit<Tailoring, 'by'>[] | undefined
}

/** Fits a benchmark for an engagement. @throws Problem for what the benchmark does not have, or takes otherwise */
export async function fitTo(
  services: Needs,
  { engagementId, benchmark, user }: { engagementId: number; benchmark: Benchmark; user: User },
  { profile, values, overrides: scoped, tailoring: tailored }: FittingChange,
): Promise<void> {
  const { source } = benchmark
  const before = await services.benchmarks.fitting(engagementId, source.id)
  const { valueSet, overrides, tailoring } = checked(() => {
    const fitted = {
      valueSet: valuesSet(source, values, 'values'),
      overrides:
        scoped?.map((one, i) => ({ ...one, values: valuesSet(source, one.values, `overrides.${i}.values`) })) ??
        before.overrides,
      tailoring: tailored?.map((one) => signed(one, before.tailoring, user.fullName)) ?? before.tailoring,
    }
    prepare({ benchmark, profile, values: fitted.valueSet, overrides: fitted.overrides, tailoring: fitted.tailoring })
    return fitted
  })
  const row = { engagementId, benchmark: source.id, profile, valueSet, overrides, tailoring }
  await services.database.getRepository(Fittings).save({ ...row, setBy: user.id, setAt: new Date() })
  await services.activity.add({
    userId: user.id,
    engagementId,
    action: 'benchmark fitted',
    detail: { benchmark: source.id, profile, values: valueSet, overrides, tailoring },
  })
}

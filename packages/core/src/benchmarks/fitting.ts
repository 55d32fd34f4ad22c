import {
  compileExpression,
  compileScope,
  factsByName,
  fieldsIn,
  severitySchema,
  type JudgedDevice,
  type Rule,
  type RuleNeeds,
  type Severity,
} from '../rules/index.ts'
import { z } from 'zod'
import { effectiveValues, rulesOf, type Benchmark, type Value } from './benchmark.ts'

const valueGiven = z.union([z.string(), z.number(), z.array(z.string())])

/** Values for some of the devices: those for which a scope holds. A later entry goes before an earlier one. */
export const overrideSchema = z.strictObject({
  scope: z.string().min(1),
  title: z.string().min(1),
  values: z.record(z.string(), valueGiven),
})
export type Override = z.infer<typeof overrideSchema>

/** A rule left out, or of another severity; always with a reason, which the report prints. */
export const tailoringSchema = z.strictObject({
  rule: z.string(),
  selected: z.boolean().optional(),
  severity: severitySchema.optional(),
  reason: z.string().min(1),
  by: z.string().default(''),
})
export type Tailoring = z.infer<typeof tailoringSchema>

/** A benchmark as an engagement fits it, as a file: what the server gives out and headless audits take. */
export const fittingSchema = z.strictObject({
  benchmark: z.string(),
  profile: z.string().nullable().default(null),
  values: z.record(z.string(), valueGiven).default({}),
  overrides: z.array(overrideSchema).default([]),
  tailoring: z.array(tailoringSchema).default([]),
})
export type Fitting = z.infer<typeof fittingSchema>

/** A benchmark as chosen and fitted for an audit. */
export interface Choice {
  readonly benchmark: Benchmark
  readonly profile: string | null
  readonly values: Readonly<Record<string, Value>>
  readonly overrides?: readonly Override[]
  readonly tailoring?: readonly Tailoring[]
  /** Ids of the rules that are judged, such as those of one framework; all of the profile where left out. */
  readonly only?: readonly string[] | null
}

/** The values that hold for a device, and who set each of them. */
export interface HeldValues {
  readonly values: Readonly<Record<string, unknown>>
  /** `default`, `engagement`, or the title of the override. */
  readonly from: Readonly<Record<string, string>>
}

/** A choice with its rules and values worked out once for all devices. */
export interface CompiledBenchmark {
  readonly choice: Choice
  readonly rules: readonly Rule[]
  /** Rules that the profile holds and the fitting leaves out. */
  readonly left: readonly { readonly rule: string; readonly reason: string }[]
  /** Values of the benchmark that each rule reads, by rule. */
  readonly reads: ReadonlyMap<string, readonly string[]>
  /** What has to be at hand besides the configurations of a device: outputs of its commands, the snapshot before. */
  readonly needs: {
    readonly state: boolean
    readonly before: boolean
    /** What the estate says of a device: its groups, the sites around it, whether its software is approved. */
    readonly estate: boolean
  }
  severityOf(rule: string, stated: Severity): Severity
  /** @param device whose facts and model the scopes of overrides ask */
  valuesFor(device: JudgedDevice): HeldValues
}

/**
 * @throws Error for a profile, a rule or a value that the benchmark does not have, and for a scope that is no
 * expression
 */
export function prepare(choice: Choice): CompiledBenchmark {
  const { benchmark, profile, values, overrides = [], tailoring = [], only = null } = choice
  const byRule = new Map(tailoring.map((one) => [one.rule, one]))
  for (const { rule } of tailoring)
    if (!benchmark.rules.some(({ source }) => source.id === rule))
      throw new Error(`Benchmark "${benchmark.source.id}" has no rule "${rule}"`)
  const inProfile = rulesOf(benchmark, profile).filter(({ source }) => only === null || only.includes(source.id))
  const common = heldValues(benchmark, values, {}, 'engagement')
  const scoped = overrides.map(({ scope, title, values: own }) => {
    effectiveValues(benchmark.source, own)
    return { scope: compileScope(scope), title, values: own }
  })
  // Devices for which the same overrides hold share one set of values.
  const known = new Map<string, HeldValues>([['', common]])
  return {
    choice,
    rules: inProfile.filter(({ source }) => byRule.get(source.id)?.selected !== false),
    left: inProfile.flatMap(({ source }) => {
      const tailored = byRule.get(source.id)
      return tailored?.selected === false ? [{ rule: source.id, reason: tailored.reason }] : []
    }),
    reads: new Map(
      benchmark.rules.map(({ source, needs }) => [
        source.id,
        Object.keys(benchmark.source.values).filter((name) => needs.fields.has(name)),
      ]),
    ),
    needs: needsOfRules(
      inProfile.map(({ needs }) => needs),
      overrides.map(({ scope }) => scope),
    ),
    severityOf: (rule, stated) => byRule.get(rule)?.severity ?? stated,
    valuesFor: (device) => {
      if (scoped.length === 0) return common
      const holding = scoped.filter(({ scope }) => scope(namesForScope(device)).inside === true)
      const key = holding.map(({ title }) => title).join('\n')
      let held = known.get(key)
      if (!held) {
        held = holding.reduce(
          (under, { title, values: own }) => heldValues(benchmark, { ...values }, { under, own }, title),
          common,
        )
        known.set(key, held)
      }
      return held
    },
  }
}

function namesForScope(device: JudgedDevice): Record<string, unknown> {
  return { device: factsByName(device) }
}

function heldValues(
  benchmark: Benchmark,
  set: Readonly<Record<string, Value>>,
  over: { readonly under?: HeldValues; readonly own?: Readonly<Record<string, Value>> },
  title: string,
): HeldValues {
  const { under, own = {} } = over
  const fresh = effectiveValues(benchmark.source, under ? own : set)
  if (!under)
    return {
      values: fresh,
      from: Object.fromEntries(Object.keys(fresh).map((name) => [name, Object.hasOwn(set, name) ? title : 'default'])),
    }
  const changed = Object.keys(own)
  return {
    values: { ...under.values, ...Object.fromEntries(changed.map((name) => [name, fresh[name]])) },
    from: { ...under.from, ...Object.fromEntries(changed.map((name) => [name, title])) },
  }
}

function needsOfRules(rules: readonly RuleNeeds[], scopes: readonly string[]): CompiledBenchmark['needs'] {
  const fields = new Set([...rules.flatMap((rule) => [...rule.fields]), ...scopes.flatMap(fieldsIn)])
  const isRead = (root: string): boolean => [...fields].some((field) => field === root || field.startsWith(`${root}.`))
  return {
    state: rules.some(({ outputs }) => outputs) || isRead('state'),
    before: rules.some(({ before }) => before),
    estate: isRead('device.groups') || isRead('device.sites') || isRead('device.approved'),
  }
}

/** Whether a text is a scope. @throws Error that names what is wrong with it */
export function checkScope(source: string): void {
  compileExpression(source)
  compileScope(source)
}

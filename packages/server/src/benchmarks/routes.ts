import { checkValue, coverageOf, rulesOf } from '@jurybox/core'
import { z } from 'zod'
import { Fittings, Users } from '../db/entities.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'

export const benchmarkRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/benchmarks',
    access: 'read',
    summary: 'The benchmarks there are, as this engagement fits them',
    handle: async ({ services, engagementId }) =>
      Promise.all(
        services.benchmarks.all.map(async ({ benchmark }) => {
          const { id, title, version, statement, profiles, rules } = benchmark.source
          const fitting = await services.benchmarks.fitting(engagementId, id)
          return { id, title, version, statement, profiles, rules: rules.length, selected: rulesOf(benchmark, fitting.profile).length, profile: fitting.profile }
        }),
      ),
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/benchmarks/:benchmark',
    access: 'read',
    summary: 'One benchmark: rules with branches, values with who set them, coverage of requirements',
    handle: async ({ services, engagementId, params }) => {
      const benchmark = services.benchmarks.find(params['benchmark'] ?? '')
      const { source } = benchmark
      const fitting = await services.benchmarks.fitting(engagementId, source.id)
      const setBy = fitting.setBy === undefined ? null : await services.database.getRepository(Users).findOneBy({ id: fitting.setBy })
      const selected = new Set(rulesOf(benchmark, fitting.profile).map((rule) => rule.source.id))
      return {
        id: source.id,
        title: source.title,
        version: source.version,
        statement: source.statement,
        hash: benchmark.hash,
        profiles: source.profiles,
        profile: fitting.profile,
        fittedBy: setBy?.fullName ?? null,
        fittedAt: fitting.setAt?.toISOString() ?? null,
        values: Object.entries(source.values).map(([name, value]) => ({ name, ...value, default: value.default ?? null, set: fitting.valueSet[name] ?? null })),
        rules: source.rules.map((rule) => ({ ...rule, selected: selected.has(rule.id) })),
        frameworks: services.benchmarks.frameworks.map(({ id, title, remark }) => ({ id, title, remark })),
        coverage: coverageOf([source], services.benchmarks.frameworks),
      }
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/benchmarks/:benchmark',
    access: 'fit',
    summary: 'Sets profile and values for this engagement; a value of null goes back to its default',
    body: z.strictObject({ profile: z.string(), values: z.record(z.string(), z.union([z.string().max(20_000), z.number(), z.array(z.string().max(200)).max(2000), z.null()])) }),
    handle: async ({ services, caller, engagementId, params, body }) => {
      const benchmark = services.benchmarks.find(params['benchmark'] ?? '')
      const valueSet: Record<string, string | number | string[]> = {}
      try {
        rulesOf(benchmark, body.profile)
        for (const [name, given] of Object.entries(body.values)) {
          const value = Object.hasOwn(benchmark.source.values, name) ? benchmark.source.values[name] : undefined
          if (!value) throw new Error(`there is no value "${name}"`)
          if (given === null) continue
          const checked = checkValue(name, value, given)
          valueSet[name] = typeof checked === 'object' ? [...checked] : checked
        }
      } catch (error) {
        throw new Problem(422, error instanceof Error ? error.message : String(error))
      }
      await services.database.getRepository(Fittings).save({ engagementId, benchmark: benchmark.source.id, profile: body.profile, valueSet, setBy: caller.user.id, setAt: new Date() })
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'benchmark fitted', detail: { benchmark: benchmark.source.id, profile: body.profile, values: valueSet } })
      return undefined
    },
  }),
]

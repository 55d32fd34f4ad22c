import { citing } from '@jurybox/core/report'
import {
  confirmReview,
  exportFitting,
  fitBenchmark,
  getBenchmark,
  listBenchmarks,
  listFrameworks,
  listReviews,
} from '@jurybox/api/benchmarks'
import {
  coverageOf,
  reviewsOf,
  rulesOf,
  type BenchmarkSource,
  type RequirementCoverage,
  type Reviewing,
} from '@jurybox/core/benchmarks'
import { stringify } from 'yaml'
import { answersIn } from '../attestations/answers.ts'
import { Attestations } from '../attestations/entity.ts'
import { fitTo } from './fit.ts'
import { Users } from '../auth/entity.ts'
import { download } from '../http/download.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'

const DAY = 86_400_000
/** In place of a benchmark where a person confirms an audit as the review of a requirement. */
const REVIEW = 'review'

export const benchmarkRoutes = [
  route(listReviews, async ({ services, engagementId }) => {
    const { benchmarks, database } = services
    const frameworks = await benchmarks.frameworksIn(engagementId)
    const periodic = frameworks.map((framework) => ({
      ...framework,
      requirements: Object.fromEntries(
        Object.entries(framework.requirements).filter(([, { review }]) => review !== undefined),
      ),
    }))
    const done = new Map<string, Reviewing[]>()
    const add = (source: BenchmarkSource, reviews: (covered: RequirementCoverage) => Reviewing[]): void => {
      for (const covered of coverageOf([source], periodic)) {
        const key = `${covered.framework}:${covered.requirement}`
        done.set(key, [...(done.get(key) ?? []), ...reviews(covered)])
      }
    }
    const answers = await answersIn(database, engagementId)
    for (const { benchmark } of await benchmarks.allIn(engagementId))
      add(benchmark.source, ({ attestations }) =>
        answers
          .filter(
            (one) =>
              one.benchmark === benchmark.source.id && one.outcome === 'pass' && attestations.includes(one.attestation),
          )
          .map(({ at }) => ({ at, by: 'answer' })),
      )
    // That an audit was run reviews nothing: a person says that it was the review.
    for (const { benchmark, attestation, at } of answers)
      if (benchmark === REVIEW) done.set(attestation, [...(done.get(attestation) ?? []), { at, by: 'audit' }])
    const titles = new Map(periodic.map(({ id, title }) => [id, title]))
    return reviewsOf(periodic, done, await services.schedules.everyDays(engagementId), Date.now()).map((review) => ({
      ...review,
      frameworkTitle: titles.get(review.framework) ?? review.framework,
    }))
  }),
  route(confirmReview, async ({ services, caller, engagementId, body }) => {
    const audit = await services.audits.find(body.audit, engagementId)
    if (audit.finishedAt === null)
      throw new Problem(422, `Audit ${body.audit} is not finished, so it cannot be confirmed as a review.`)
    const known = await services.benchmarks.frameworksIn(engagementId)
    const days = known.find(({ id }) => id === body.framework)?.requirements[body.requirement]?.review
    if (days === undefined)
      throw new Problem(422, `"${body.framework}" has no requirement "${body.requirement}" with a review interval.`)
    const at = new Date()
    const attestation = `${body.framework}:${body.requirement}`
    const note = `Audit ${body.audit}: ${body.note}`
    await services.database
      .getRepository(Attestations)
      .insert({
        engagementId,
        benchmark: REVIEW,
        attestation,
        outcome: 'pass',
        note,
        files: [],
        answeredBy: caller.user.id,
        answeredByName: caller.user.fullName,
        at,
        until: new Date(at.getTime() + days * DAY),
      })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'attested',
      detail: { benchmark: REVIEW, attestation, outcome: 'pass', audit: body.audit },
    })
    return undefined
  }),
  route(listFrameworks, async ({ services, engagementId }) => {
    const all = (await services.benchmarks.allIn(engagementId)).map(({ benchmark }) => benchmark.source)
    return (await services.benchmarks.frameworksIn(engagementId)).flatMap((framework) => {
      const found = all.map((source) => citing(source, framework))
      const [rules, questions] = [
        found.reduce((sum, one) => sum + one.rules.length, 0),
        found.reduce((sum, one) => sum + one.attestations.length, 0),
      ]
      const requirements = Object.keys(framework.requirements).length
      const own = !services.benchmarks.frameworks.includes(framework)
      // Own controls are listed although nothing speaks to them: they are there to be seen, and deleted.
      return rules + questions === 0 && !own
        ? []
        : [{ id: framework.id, title: framework.title, requirements, rules, questions, own }]
    })
  }),
  route(listBenchmarks, async ({ services, engagementId }) =>
    Promise.all(
      (await services.benchmarks.allIn(engagementId)).map(async ({ benchmark }) => {
        const { id, title, version, statement, profiles, rules } = benchmark.source
        const fitting = await services.benchmarks.fitting(engagementId, id)
        return {
          id,
          title,
          version,
          statement,
          profiles,
          rules: rules.length,
          attestations: benchmark.source.attestations.length,
          selected: rulesOf(benchmark, fitting.profile).filter(
            ({ source }) => !fitting.tailoring.some(({ rule, selected }) => rule === source.id && selected === false),
          ).length,
          profile: fitting.profile,
        }
      }),
    ),
  ),
  route(getBenchmark, async ({ services, engagementId, params }) => {
    const frameworks = await services.benchmarks.frameworksIn(engagementId)
    const benchmark = await services.benchmarks.inEngagement(engagementId, params.benchmark)
    const { source } = benchmark
    const fitting = await services.benchmarks.fitting(engagementId, source.id)
    const setBy =
      fitting.setBy === undefined ? null : await services.database.getRepository(Users).findOneBy({ id: fitting.setBy })
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
      values: Object.entries(source.values).map(([name, value]) => ({
        name,
        ...value,
        default: value.default ?? null,
        set: fitting.valueSet[name] ?? null,
      })),
      overrides: fitting.overrides,
      tailoring: fitting.tailoring,
      topics: source.topics,
      attestations: source.attestations.length,
      rules: source.rules.map((rule) => ({
        ...rule,
        selected:
          selected.has(rule.id) && !fitting.tailoring.some((one) => one.rule === rule.id && one.selected === false),
      })),
      frameworks: frameworks.map(({ id, title, remark }) => ({ id, title, remark })),
      coverage: coverageOf(
        (await services.benchmarks.allIn(engagementId)).map((one) => one.benchmark.source),
        frameworks,
        await services.traffic.stated(engagementId),
      ),
    }
  }),
  route(exportFitting, async ({ services, engagementId, params, response }) => {
    const { source } = await services.benchmarks.inEngagement(engagementId, params.benchmark)
    const { profile, valueSet, overrides, tailoring } = await services.benchmarks.fitting(engagementId, source.id)
    download(
      response,
      `${source.id}-fitting.yaml`,
      'application/yaml; charset=utf-8',
      stringify({ benchmark: source.id, profile, values: valueSet, overrides, tailoring }),
    )
    return undefined
  }),
  route(fitBenchmark, async ({ services, caller, engagementId, params, body }) => {
    const benchmark = await services.benchmarks.inEngagement(engagementId, params.benchmark)
    await fitTo(services, { engagementId, benchmark, user: caller.user }, body)
    return undefined
  }),
]

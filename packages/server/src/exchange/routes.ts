import {
  BENCHMARK_FORMATS,
  compareResults,
  exportBenchmark,
  deleteFramework,
  exportFramework,
  importFramework,
  importPlanOfAction,
  importProfile,
} from '@jurybox/api/exchange'
import { EXPECTATIONS } from '@jurybox/core/audit'
import {
  benchmarkCatalog,
  benchmarkComponents,
  findingKey,
  fittingProfile,
  frameworkCatalog,
  readFittingProfile,
  readFrameworkCatalog,
  readOscal,
  readOtherResults,
  readPlanOfAction,
  writeOscal,
  writeXccdfBenchmark,
} from '@jurybox/core/exchange'
import { grouped } from '@jurybox/core/syntax'
import type { Request } from 'express'
import { In } from 'typeorm'
import { Verdicts } from '../audits/entity.ts'
import { frameworkOf } from '../audits/service.ts'
import { OwnFrameworks } from '../benchmarks/entity.ts'
import { fitTo } from '../benchmarks/fit.ts'
import type { FindingChange } from '../findings/service.ts'
import { download } from '../http/download.ts'
import { Problem, notFound } from '../http/problem.ts'
import { oneFile } from '../http/one-file.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

const JSON_TYPE = 'application/json; charset=utf-8'
/** Most names that an answer lists. */
const LISTED = 200
function firstOf(names: readonly string[]): { count: number; names: string[] } {
  return { count: names.length, names: names.slice(0, LISTED) }
}

/** The text of the one file that was sent. */
function textOf(request: Request): string {
  return oneFile(request).buffer.toString('utf8')
}

/** A file of others is refused with where it is not as expected. @throws Problem */
function read<T>(make: () => T): T {
  try {
    return make()
  } catch (error) {
    throw new Problem(422, error instanceof Error ? error.message : String(error))
  }
}

type Format = (typeof BENCHMARK_FORMATS)[number]
const isFormat = (text: string): text is Format => (BENCHMARK_FORMATS as readonly string[]).includes(text)

async function written(services: Services, engagementId: number, id: string, format: Format): Promise<string> {
  const { source } = await services.benchmarks.inEngagement(engagementId, id)
  const at = new Date().toISOString()
  switch (format) {
    case 'oscal-catalog':
      return writeOscal('catalog', benchmarkCatalog(source, at))
    case 'oscal-component-definition':
      return writeOscal(
        'component-definition',
        benchmarkComponents(source, await services.benchmarks.frameworksIn(engagementId), at),
      )
    case 'xccdf':
      return writeXccdfBenchmark(source)
    case 'oscal-profile': {
      const { profile, valueSet: values, tailoring } = await services.benchmarks.fitting(engagementId, id)
      return writeOscal('profile', fittingProfile(source, { profile, values, tailoring }, at))
    }
  }
}

export const exchangeRoutes = [
  route(exportBenchmark, async ({ services, engagementId, params: { benchmark, format }, response }) => {
    if (!isFormat(format))
      throw new Problem(404, `There is no format "${format}" (available: ${BENCHMARK_FORMATS.join(', ')}).`)
    const isXml = format === 'xccdf'
    const body = await written(services, engagementId, benchmark, format)
    const name = `${benchmark}.${format}.${isXml ? 'xml' : 'json'}`
    download(response, name, isXml ? 'application/xml; charset=utf-8' : JSON_TYPE, body)
    return undefined
  }),
  route(importProfile, async ({ services, caller, engagementId, params, request }) => {
    const benchmark = await services.benchmarks.inEngagement(engagementId, params.benchmark)
    const { fitting, lost } = read(() => readFittingProfile(readOscal(textOf(request), 'profile'), benchmark.source))
    const before = await services.benchmarks.fitting(engagementId, benchmark.source.id)
    await fitTo(
      services,
      { engagementId, benchmark, user: caller.user },
      {
        profile: fitting.profile ?? before.profile,
        values: fitting.values,
        // Whoever brings a profile in signs what it leaves out.
        tailoring: fitting.tailoring.map(({ by: _, ...one }) => one),
      },
    )
    return { values: Object.keys(fitting.values).length, tailored: fitting.tailoring.length, lost: firstOf(lost) }
  }),
  route(exportFramework, async ({ services, engagementId, params, response }) => {
    const framework = (await services.benchmarks.frameworksIn(engagementId)).find(({ id }) => id === params.name)
    if (!framework) throw notFound('framework')
    const body = writeOscal('catalog', frameworkCatalog(framework, new Date().toISOString()))
    download(response, `${framework.id}.catalog.json`, JSON_TYPE, body)
    return undefined
  }),
  route(importFramework, async ({ services, caller, engagementId, request }) => {
    const { framework, lost } = read(() => readFrameworkCatalog(readOscal(textOf(request), 'catalog')))
    if (services.benchmarks.frameworks.some(({ id }) => id === framework.id))
      throw new Problem(409, `The framework “${framework.id}” ships with Jury Box and cannot be replaced.`)
    const own = { engagementId, id: framework.id, body: framework, createdBy: caller.user.id, createdAt: new Date() }
    await services.database.getRepository(OwnFrameworks).upsert(own, ['engagementId', 'id'])
    const requirements = Object.keys(framework.requirements).length
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'framework imported',
      detail: { title: framework.title, requirements },
    })
    return { id: framework.id, title: framework.title, requirements, lost: firstOf(lost) }
  }),
  route(deleteFramework, async ({ services, caller, engagementId, params }) => {
    const frameworks = services.database.getRepository(OwnFrameworks)
    const own = await frameworks.findOneBy({ engagementId, id: params.name })
    if (!own) throw notFound('framework of your own')
    const audits = await services.audits.list(engagementId)
    if (audits.some((audit) => frameworkOf(audit) === own.id))
      throw new Problem(409, `An audit was made for “${own.body.title}”, so it cannot be deleted.`)
    await frameworks.delete({ engagementId, id: own.id })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'framework deleted',
      detail: { title: own.body.title },
    })
    return undefined
  }),
  route(importPlanOfAction, async ({ services, caller, engagementId, params, request }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const { marks, lost } = read(() => readPlanOfAction(readOscal(textOf(request), 'plan-of-action-and-milestones')))
    const rows = await services.database
      .getRepository(Verdicts)
      .find({
        where: { auditId: audit.id, outcome: In(['fail', 'unknown', 'error']) },
        select: { id: true, device: true, benchmark: true, rule: true },
      })
    const ids = new Map(rows.map((row) => [findingKey(row), row.id]))
    const now = await services.findings.of(engagementId)
    // What is changed alike is changed, and told in the audit log, at once.
    const changes = new Map<string, { readonly change: FindingChange; readonly verdicts: number[] }>()
    const unknown: string[] = []
    const beyond = [...lost]
    let unchanged = 0
    for (const [key, mark] of marks) {
      const id = ids.get(key)
      const { due = null, comment = '', done = null } = now.get(key) ?? {}
      if (id === undefined && key.startsWith(`${EXPECTATIONS} `)) {
        // People say something of findings of rules only.
        if (mark.due === null && mark.comment === '' && !mark.done) unchanged++
        else beyond.push(`what is said of ${key}`)
      } else if (id === undefined) unknown.push(key)
      else if (mark.due === due && mark.comment === comment && mark.done === (done !== null)) unchanged++
      else {
        const same = JSON.stringify(mark)
        const group = changes.get(same) ?? { change: mark, verdicts: new Array<number>() }
        group.verdicts.push(id)
        changes.set(same, group)
      }
    }
    for (const { change, verdicts } of changes.values())
      await services.findings.update(audit, verdicts, change, caller.user)
    const changed = [...changes.values()].reduce((sum, { verdicts }) => sum + verdicts.length, 0)
    return { changed, unchanged, unknown: firstOf(unknown), lost: firstOf(beyond) }
  }),
  route(compareResults, async ({ services, engagementId, params, request }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const { verdicts, expected } = await services.audits.document(audit)
    const rows = [...verdicts, ...expected]
    const rules = new Map<string, string[]>()
    for (const [benchmark, own] of grouped(rows, (row) => row.benchmark))
      rules.set(benchmark, [...new Set(own.map(({ rule }) => rule))])
    const ours = new Map(rows.map((row) => [findingKey(row), row.outcome]))
    const { outcomes, lost } = read(() => readOtherResults(textOf(request), rules))
    let same = 0
    const unknown: string[] = []
    const differing = outcomes.flatMap(({ device, rule, id, outcome: theirs, note }) => {
      const own = rule && ours.get(findingKey({ ...rule, device }))
      if (!rule || own === undefined) unknown.push(`${id} on ${device}`)
      else if (own === theirs) same++
      else return [{ device, rule: rule.rule, ours: own as string, theirs: theirs as string, note }]
      return []
    })
    return { same, differing, unknown: firstOf(unknown), lost: firstOf(lost) }
  }),
]

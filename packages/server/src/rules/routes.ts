import { readBenchmark, type Benchmark } from '@jurybox/core'
import { z } from 'zod'
import { BenchmarkVersions, OwnBenchmarks, Users } from '../db/entities.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

const MAX_TEXT = 500_000
/** Longer than a trial of thousands of devices takes; a rule that runs on is ended. */
const TRIAL_MS = 30_000

/** @throws Problem that says where the text is wrong and what was expected there */
function benchmarkIn(text: string): Benchmark {
  try {
    return readBenchmark(text)
  } catch (error) {
    throw new Problem(422, error instanceof Error ? error.message : String(error))
  }
}

/** @throws Problem where it took too long or could not be done */
async function inTime<T>(work: Promise<T>): Promise<T> {
  try {
    return await work
  } catch (error) {
    const late = error instanceof Error && ['AbortError', 'TimeoutError'].includes(error.name)
    throw new Problem(422, late ? `The trial was ended after ${TRIAL_MS / 1000} s.` : `The trial could not be made: ${error instanceof Error ? error.message : String(error)}`)
  }
}

async function versionOf(services: Services, engagementId: number, params: Readonly<Record<string, string>>) {
  const version = await services.database.getRepository(OwnBenchmarks).findOneBy({ engagementId, benchmark: params['benchmark'] ?? '', number: Number(params['number']) || 0 })
  if (!version) throw notFound('version of a benchmark')
  return version
}

export const ruleRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/own-benchmarks',
    access: 'read',
    summary: 'Benchmarks of one’s own: every version that was saved',
    handle: async ({ services, engagementId }) => {
      const versions = await services.database.getRepository(OwnBenchmarks).find({ where: { engagementId }, order: { benchmark: 'ASC', number: 'DESC' } })
      const users = new Map((await services.database.getRepository(Users).find()).map((user) => [user.id, user.fullName]))
      return versions.map(({ benchmark, number, hash, why, createdBy, createdAt, publishedAt }) => ({ benchmark, number, hash, why, by: users.get(createdBy) ?? '', createdAt: createdAt.toISOString(), publishedAt: publishedAt?.toISOString() ?? null }))
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/own-benchmarks/:benchmark/:number',
    access: 'read',
    summary: 'The YAML text of one version',
    handle: async ({ services, engagementId, params }) => {
      const { benchmark, number, hash } = await versionOf(services, engagementId, params)
      return { benchmark, number, text: await services.benchmarks.textOf(hash) }
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/own-benchmarks/trial',
    access: 'write-rules',
    summary: 'What a benchmark that is being written says of its examples and of every device; nothing is kept',
    body: z.strictObject({ text: z.string().max(MAX_TEXT), snapshotId: z.int().positive().nullable() }),
    handle: async ({ services, engagementId, body }) => {
      const benchmark = benchmarkIn(body.text)
      const snapshot = body.snapshotId === null ? null : await services.snapshots.find(body.snapshotId, engagementId)
      const [examples, judged] = await inTime(Promise.all([services.audits.examplesOf(body.text, TRIAL_MS), snapshot ? services.audits.tried(snapshot, body.text, benchmark, TRIAL_MS) : []]))
      const answers = judged.flatMap(({ deviceId, verdicts }) => verdicts.map((verdict) => ({ deviceId, verdict })))
      return {
        examples,
        rules: benchmark.source.rules.map(({ id, title, severity }) => {
          const own = answers.filter(({ verdict }) => verdict.rule === id)
          const remedied = own.find(({ verdict }) => verdict.outcome === 'fail' && verdict.remedy)
          return {
            id, title, severity,
            devices: own.map(({ deviceId, verdict: { device, outcome, branch, note, exhibits } }) => ({ deviceId, device, outcome, branch, note, line: exhibits[0] ? { record: Number(exhibits[0].record), from: exhibits[0].from, text: exhibits[0].text.split('\n')[0] ?? '' } : null })),
            remedy: remedied?.verdict.remedy ? { device: remedied.verdict.device, remedy: remedied.verdict.remedy } : null,
          }
        }),
      }
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/own-benchmarks',
    access: 'write-rules',
    summary: 'Saves a benchmark as its next version; its examples have to hold',
    body: z.strictObject({ text: z.string().max(MAX_TEXT), why: z.string().trim().min(3).max(400) }),
    handle: async ({ services, caller, engagementId, body }) => {
      const { source, hash } = benchmarkIn(body.text)
      if (services.benchmarks.all.some(({ benchmark }) => benchmark.source.id === source.id)) throw new Problem(422, `"${source.id}" is the name of a benchmark that ships; choose another id.`)
      const wrong = (await inTime(services.audits.examplesOf(body.text, TRIAL_MS))).find((example) => example.wrong.length > 0)
      if (wrong) throw new Problem(422, `Rule "${wrong.rule}", example "${wrong.name}": ${wrong.wrong.join('; ')}.`)
      const number = await services.database.transaction(async (manager) => {
        if (!(await manager.existsBy(BenchmarkVersions, { hash }))) await manager.insert(BenchmarkVersions, { hash, benchmark: source.id, version: source.version, text: body.text, createdAt: new Date() })
        const last = await manager.findOne(OwnBenchmarks, { where: { engagementId, benchmark: source.id }, order: { number: 'DESC' } })
        if (last?.hash === hash) throw new Problem(422, `Nothing differs from version ${last.number}.`)
        const next = (last?.number ?? 0) + 1
        await manager.insert(OwnBenchmarks, { engagementId, benchmark: source.id, number: next, hash, why: body.why, createdBy: caller.user.id, createdAt: new Date(), publishedAt: null })
        return next
      })
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'benchmark saved', detail: { benchmark: source.id, number, hash, why: body.why } })
      return { benchmark: source.id, number }
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/own-benchmarks/:benchmark/:number/publish',
    access: 'write-rules',
    summary: 'Puts a version on the shelf: audits can choose it',
    handle: async ({ services, caller, engagementId, params }) => {
      const version = await versionOf(services, engagementId, params)
      await services.database.getRepository(OwnBenchmarks).update({ id: version.id }, { publishedAt: new Date() })
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'benchmark published', detail: { benchmark: version.benchmark, number: version.number, hash: version.hash } })
      return undefined
    },
  }),
]

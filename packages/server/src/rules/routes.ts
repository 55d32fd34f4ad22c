import {
  citeLines,
  citePasted,
  compareOwnBenchmark,
  getOwnBenchmark,
  listOwnBenchmarks,
  publishOwnBenchmark,
  saveOwnBenchmark,
  tryRules,
} from '@jurybox/api/rules'
import type { Verdict } from '@jurybox/core'
import { differencesOf } from '@jurybox/core/authoring'
import { BenchmarkVersions } from '../benchmarks/entity.ts'
import { OwnBenchmarks } from './entity.ts'
import { Users } from '../auth/entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { intactText } from '../snapshots/damage.ts'
import type { Services } from '../services.ts'
import type { TriedDevice } from './trial.ts'
/** Failing devices whose remedy is shown. */
const MAX_REMEDIES = 50
/** Longer than a trial of thousands of devices takes; a rule that runs on is ended. */
const TRIAL_MS = 60_000

/** @throws Problem where it took too long or could not be done */
async function inTime<T>(work: (signal: AbortSignal) => Promise<T>, gone?: AbortSignal): Promise<T> {
  // Held here until the end: a signal of `AbortSignal.timeout` may be collected before its time has come.
  const late = new AbortController()
  const timer = setTimeout(() => late.abort(), TRIAL_MS)
  const leave = (): void => late.abort()
  gone?.addEventListener('abort', leave)
  try {
    return await work(late.signal)
  } catch (error) {
    throw new Problem(
      422,
      late.signal.aborted
        ? `The trial was stopped after ${TRIAL_MS / 1000} s.`
        : `The trial failed: ${error instanceof Error ? error.message : String(error)}`,
    )
  } finally {
    clearTimeout(timer)
    gone?.removeEventListener('abort', leave)
  }
}

async function versionOf(
  services: Services,
  engagementId: number,
  { benchmark, number }: { readonly benchmark: string; readonly number: number },
) {
  const version = await services.database.getRepository(OwnBenchmarks).findOneBy({ engagementId, benchmark, number })
  if (!version) throw notFound('version of a benchmark')
  return version
}

function answersTo(rule: string, tried: readonly TriedDevice[]): { deviceId: number; verdict: Verdict }[] {
  return tried.flatMap(({ deviceId, verdicts }) =>
    verdicts.filter((verdict) => verdict.rule === rule).map((verdict) => ({ deviceId, verdict })),
  )
}

export const ruleRoutes = [
  route(listOwnBenchmarks, async ({ services, engagementId }) => {
    const versions = await services.database
      .getRepository(OwnBenchmarks)
      .find({ where: { engagementId }, order: { benchmark: 'ASC', number: 'DESC' } })
    const users = new Map((await services.database.getRepository(Users).find()).map((user) => [user.id, user.fullName]))
    return versions.map(({ benchmark, number, hash, why, createdBy, createdAt, publishedAt }) => ({
      benchmark,
      number,
      hash,
      why,
      by: users.get(createdBy) ?? '',
      createdAt: createdAt.toISOString(),
      publishedAt: publishedAt?.toISOString() ?? null,
    }))
  }),
  route(getOwnBenchmark, async ({ services, engagementId, params }) => {
    const { benchmark, number, hash } = await versionOf(services, engagementId, params)
    return { benchmark, number, text: await services.benchmarks.textOf(hash) }
  }),
  route(
    tryRules,
    async ({ services, caller, engagementId, body: { text, snapshotId, besideId, devices, rules }, gone }) => {
      const draft = await services.outside.read('draft', text)
      const { wrong } = draft
      // An incomplete text is no client error: it is being written.
      if (!draft.source) return { wrong, examples: [], rules: [] }
      const [snapshot, beside] = await Promise.all(
        [snapshotId, besideId].map((id) => (id === null ? null : services.snapshots.find(id, engagementId))),
      )
      await services.trials.count(caller.user.id, engagementId, draft.source.id)
      const { needs } = draft
      const asked = async (of: typeof snapshot, signal: AbortSignal) =>
        of ? services.trial.answers(of, text, needs, rules, devices, signal) : []
      const [examples, judged] = await inTime(
        (signal) => Promise.all([services.trial.examplesOf(text, signal), asked(snapshot, signal)]),
        gone,
      )
      const then = await inTime((signal) => asked(beside, signal), gone)
      return {
        wrong,
        examples,
        rules: draft.source.rules
          .filter(({ id }) => rules === null || rules.includes(id))
          .map(({ id, title, severity }) => {
            const own = answersTo(id, judged)
            const failing = own.filter(({ verdict }) => verdict.outcome === 'fail' && verdict.remedy)
            return {
              id,
              title,
              severity,
              devices: own.map(({ deviceId, verdict: { device, outcome, branch, note, exhibits } }) => ({
                deviceId,
                device,
                outcome,
                branch,
                note,
                line: exhibits[0]
                  ? {
                      record: Number(exhibits[0].record),
                      from: exhibits[0].from,
                      text: exhibits[0].text.split('\n')[0] ?? '',
                    }
                  : null,
              })),
              beside: answersTo(id, then).map(({ deviceId, verdict: { outcome, branch } }) => ({
                deviceId,
                outcome,
                branch,
              })),
              remedies: failing
                .slice(0, MAX_REMEDIES)
                .map(({ deviceId, verdict: { device, remedy } }) => ({ deviceId, device, remedy })),
            }
          }),
      }
    },
  ),
  route(citeLines, async ({ services, engagementId, body }) => {
    const record = await services.snapshots.record(body.recordId, engagementId)
    if (record.dialect === 'none')
      throw new Problem(422, 'Only configuration lines can be cited. Use a state condition for outputs.')
    const text = intactText(await services.records.texts([record.sha256]), record)
    const maskKey = await services.records.maskKeyOf(engagementId)
    return {
      dialect: record.dialect,
      ...(await services.outside.read('citedLines', { text, dialect: record.dialect, lines: body.lines, maskKey })),
    }
  }),
  route(citePasted, async ({ services, engagementId, body: { text, dialect, like } }) => {
    const record = like && (await services.snapshots.record(like.recordId, engagementId))
    const example =
      like && record
        ? {
            text: intactText(await services.records.texts([record.sha256]), record),
            dialect: record.dialect,
            line: like.line,
          }
        : null
    const { condition, wrong } = await services.outside.read('pasted', {
      text,
      dialect,
      like: example,
      maskKey: await services.records.maskKeyOf(engagementId),
    })
    if (wrong !== null) throw new Problem(422, wrong)
    return { condition }
  }),
  route(compareOwnBenchmark, async ({ services, engagementId, body }) => {
    const { wrong, source } = await services.outside.read('draft', body.text)
    if (!source) return { wrong, against: null, differences: null }
    const own = services.database.getRepository(OwnBenchmarks)
    const version = await own.findOne({
      where: { engagementId, benchmark: source.id, ...(body.number === undefined ? {} : { number: body.number }) },
      order: { number: 'DESC' },
    })
    return {
      wrong,
      against: version && { benchmark: version.benchmark, number: version.number },
      differences: version && differencesOf((await services.benchmarks.version(version.hash)).source, source),
    }
  }),
  route(saveOwnBenchmark, async ({ services, caller, engagementId, body }) => {
    const draft = await services.outside.read('draft', body.text)
    if (!draft.source) throw new Problem(422, draft.wrong)
    const { source, hash } = draft
    if (services.benchmarks.all.some(({ benchmark }) => benchmark.source.id === source.id))
      throw new Problem(422, `"${source.id}" is the id of a shipped benchmark. Choose another id.`)
    const wrong = (await inTime((signal) => services.trial.examplesOf(body.text, signal))).find(
      (example) => example.wrong.length > 0,
    )
    if (wrong) throw new Problem(422, `Rule "${wrong.rule}", example "${wrong.name}": ${wrong.wrong.join('; ')}.`)
    const number = await services.database.transaction(async (manager) => {
      if (!(await manager.existsBy(BenchmarkVersions, { hash })))
        await manager.insert(BenchmarkVersions, {
          hash,
          benchmark: source.id,
          version: source.version,
          text: body.text,
          createdAt: new Date(),
        })
      const last = await manager.findOne(OwnBenchmarks, {
        where: { engagementId, benchmark: source.id },
        order: { number: 'DESC' },
      })
      if (last?.hash === hash) throw new Problem(422, `No changes since version ${last.number}.`)
      const next = (last?.number ?? 0) + 1
      await manager.insert(OwnBenchmarks, {
        engagementId,
        benchmark: source.id,
        number: next,
        hash,
        why: body.why,
        createdBy: caller.user.id,
        createdAt: new Date(),
        publishedAt: null,
      })
      return next
    })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'benchmark saved',
      detail: { benchmark: source.id, number, hash, why: body.why },
    })
    return { benchmark: source.id, number }
  }),
  route(publishOwnBenchmark, async ({ services, caller, engagementId, params }) => {
    const version = await versionOf(services, engagementId, params)
    await services.database.getRepository(OwnBenchmarks).update({ id: version.id }, { publishedAt: new Date() })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'benchmark published',
      detail: { benchmark: version.benchmark, number: version.number, hash: version.hash },
    })
    return undefined
  }),
]

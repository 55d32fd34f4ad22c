import { discoveryPlanSchema } from '@jurybox/api/discovery'
import {
  exportVerdicts,
  getAudit,
  getGrid,
  getVerdict,
  listScores,
  listVerdicts,
  retryJob,
  runAudit,
} from '@jurybox/api/audits'
import { DEFAULT_LANGUAGE, textsOf } from '@jurybox/core/report'
import { PROBES } from '@jurybox/core/dialects'
import { csvOf } from '@jurybox/core/syntax'
import { z } from 'zod'
import { Devices } from '../estate/entity.ts'
import { Verdicts } from './entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { route } from '../http/route.ts'
import { viewOf } from '../jobs/board.ts'
import { findingKey } from '@jurybox/core/exchange'
import { scopeOf } from './scope.ts'
import { ruleTitles, titledChoices } from './titles.ts'
import { sinceOf, verdictsAsked, waivedIn } from './verdict-list.ts'

/** Columns of the list of verdicts as CSV. */
const VERDICT_CSV = [
  'outcome',
  'waived',
  'severity',
  'device',
  'benchmark',
  'rule',
  'branch',
  'note',
  'title',
  'severity_rank',
  'requirements',
  'owner',
  'due',
  'overdue',
  'comment',
  'done_by',
  'done_at',
  'verdict',
] as const
/** For sorting elsewhere: the gravest is the highest. */
const SEVERITY_RANKS: Readonly<Record<string, number>> = { info: 1, low: 2, medium: 3, high: 4 }

export const auditRoutes = [
  route(runAudit, async ({ services, caller, engagementId, body }) => {
    const snapshot = await services.snapshots.find(body.snapshotId, engagementId)
    if ((body.framework === null) === (body.choices.length === 0))
      throw new Problem(422, 'Select benchmarks, or a framework.')
    const choices = await services.benchmarks.chosenBy(engagementId, body.framework, body.choices)
    const scope = await scopeOf(services, snapshot, body.limit)
    const job = await services.audits.start(engagementId, caller.user.id, snapshot, choices, scope)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'audit started',
      detail: {
        job: job.id,
        snapshot: snapshot.id,
        limited: scope?.title ?? null,
        choices: choices.map(({ benchmark, profile }) => ({ benchmark, profile })),
        ...(body.framework === null ? {} : { framework: body.framework }),
      },
    })
    return viewOf(job)
  }),
  route(retryJob, async ({ services, caller, engagementId, params }) => {
    const job = await services.jobs.find(params.job, engagementId)
    if (job?.kind === 'collect' && job.state !== 'running' && job.state !== 'done') {
      const { devices, title } = z
        .object({ devices: z.array(z.string()).nullable(), title: z.string() })
        .parse(job.params)
      return viewOf(await services.collecting.start(engagementId, caller.user.id, devices, title))
    }
    if (job?.kind === 'discover' && job.state !== 'running' && job.state !== 'done') {
      const { plan } = z.object({ plan: discoveryPlanSchema }).parse(job.params)
      return viewOf(
        await services.discovery.start(
          engagementId,
          caller.user.id,
          plan,
          await services.discovery.tries(engagementId, plan),
        ),
      )
    }
    if (job?.kind === 'probe' && job.state !== 'running' && job.state !== 'done') {
      const { device, probe, target } = z
        .object({ device: z.string(), probe: z.enum(PROBES), target: z.string() })
        .parse(job.params)
      return viewOf(await services.collecting.probe(engagementId, caller.user.id, device, probe, target))
    }
    const again = z
      .object({
        snapshotId: z.int(),
        benchmarks: z.array(z.object({ benchmark: z.string(), profile: z.string() })),
        framework: z.string().nullable().default(null),
        scope: z
          .object({ title: z.string(), devices: z.array(z.string()) })
          .nullable()
          .default(null),
      })
      .safeParse(job?.params)
    if (!job || job.kind !== 'audit' || !again.success)
      throw new Problem(404, 'There is no such audit in this engagement.')
    if (job.state === 'running' || job.state === 'done')
      throw new Problem(409, 'This job is running or done, so it cannot be retried.')
    const snapshot = await services.snapshots.find(again.data.snapshotId, engagementId)
    const { framework, benchmarks } = again.data
    const choices = await services.benchmarks.chosenBy(engagementId, framework, benchmarks)
    return viewOf(await services.audits.start(engagementId, caller.user.id, snapshot, choices, again.data.scope))
  }),
  route(getAudit, async ({ services, engagementId, params }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const snapshot = await services.snapshots.find(audit.snapshotId, engagementId)
    return {
      id: audit.id,
      build: audit.build,
      counts: audit.counts,
      choices: await titledChoices(services, audit.choices),
      scope: audit.scope,
      computed: audit.computed,
      remembered: audit.remembered,
      finishedAt: audit.finishedAt?.toISOString() ?? null,
      snapshot: { id: snapshot.id, title: snapshot.title, takenAt: snapshot.takenAt.toISOString() },
    }
  }),
  route(listScores, async ({ services, engagementId }) => {
    const snapshots = new Map((await services.snapshots.list(engagementId)).map((snapshot) => [snapshot.id, snapshot]))
    const say = textsOf(DEFAULT_LANGUAGE)
    return {
      formulas: { flat: say('standing.flat'), weighted: say('standing.weighted') },
      audits: (await services.audits.scores(engagementId)).map(({ audit, scores }) => ({
        id: audit.id,
        snapshotId: audit.snapshotId,
        snapshot: snapshots.get(audit.snapshotId)?.title ?? '',
        takenAt: snapshots.get(audit.snapshotId)?.takenAt.toISOString() ?? '',
        finishedAt: audit.finishedAt?.toISOString() ?? null,
        scores,
      })),
    }
  }),
  route(getGrid, async ({ services, engagementId, params }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const rows = await services.database
      .getRepository(Verdicts)
      .find({
        where: { auditId: audit.id },
        select: { id: true, deviceId: true, device: true, benchmark: true, rule: true, outcome: true, severity: true },
        order: { device: 'ASC', place: 'ASC' },
      })
    const rules = await Promise.all(
      audit.choices.map(async (choice) => (await services.benchmarks.version(choice.hash)).source),
    )
    const judged = new Set(rows.map((row) => `${row.benchmark} ${row.rule}`))
    const cited = new Set(rules.flatMap((source) => source.rules.flatMap(({ references }) => references)))
    const facts = new Map(
      (await services.database.getRepository(Devices).findBy({ engagementId })).map((device) => [
        device.id,
        device.facts,
      ]),
    )
    const waived = await waivedIn(services, audit)
    const before = await services.audits.before(audit)
    const compared = new Set(before?.choices.map(({ benchmark }) => benchmark))
    const then = new Map(
      (before
        ? await services.database
            .getRepository(Verdicts)
            .find({
              where: { auditId: before.id },
              select: { deviceId: true, benchmark: true, rule: true, outcome: true },
            })
        : []
      ).map((row) => [`${row.deviceId} ${row.benchmark} ${row.rule}`, row.outcome]),
    )
    return {
      before: before && {
        id: before.id,
        finishedAt: before.finishedAt?.toISOString() ?? null,
        snapshot: (await services.snapshots.find(before.snapshotId, engagementId)).title,
      },
      rules: rules.flatMap((source) =>
        source.rules
          .filter((rule) => judged.has(`${source.id} ${rule.id}`))
          .map((rule) => ({
            benchmark: source.id,
            id: rule.id,
            title: rule.title,
            topic: rule.topic,
            severity: rule.severity,
            references: rule.references,
          })),
      ),
      devices: [...new Map(rows.map((row) => [row.deviceId, row.device]))]
        .map(([id, name]) => ({ id, name, facts: facts.get(id) ?? {} }))
        .sort((a, b) => (a.name < b.name ? -1 : 1)),
      frameworks: (await services.benchmarks.frameworksIn(engagementId))
        .map(({ id, title, requirements }) => ({
          id,
          title,
          requirements: Object.fromEntries(
            Object.entries(requirements)
              .filter(([number]) => cited.has(`${id}:${number}`))
              .map(([number, { title: of }]) => [number, of]),
          ),
        }))
        .filter(({ requirements }) => Object.keys(requirements).length > 0),
      cells: rows.map(({ id, deviceId, benchmark, rule, outcome }) => ({
        id,
        deviceId,
        benchmark,
        rule,
        outcome,
        waived: waived.has(id),
        since: compared.has(benchmark) ? sinceOf(then.get(`${deviceId} ${benchmark} ${rule}`), outcome) : null,
      })),
    }
  }),
  route(listVerdicts, async ({ services, caller, engagementId, params, query }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const waived = await waivedIn(services, audit)
    const asked = await verdictsAsked(services, audit, query, waived, caller.user.id)
    const [rows, total] = await asked.offset(query.offset).limit(query.limit).getManyAndCount()
    const before = await services.audits.before(audit)
    const titles = await ruleTitles(services, audit.choices)
    const findings = await services.findings.of(engagementId)
    return {
      total,
      before: before && {
        id: before.id,
        snapshot: (await services.snapshots.find(before.snapshotId, engagementId)).title,
      },
      verdicts: rows.map(({ id, deviceId, device, benchmark, rule, outcome, severity, branch, note }) => ({
        id,
        deviceId,
        device,
        benchmark,
        rule,
        outcome,
        severity,
        branch,
        note,
        waived: waived.has(id),
        title: titles.get(`${benchmark} ${rule}`) ?? rule,
        finding: findings.get(findingKey({ benchmark, rule, device })) ?? null,
      })),
    }
  }),
  route(exportVerdicts, async ({ services, caller, engagementId, params, query, response }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const waived = await waivedIn(services, audit)
    const rows = await (await verdictsAsked(services, audit, query, waived, caller.user.id)).getMany()
    const titles = await ruleTitles(services, audit.choices)
    const findings = await services.findings.of(engagementId)
    const lines = rows.map(({ id, outcome, severity, device, benchmark, rule, branch, note, requirements }) => {
      const finding = findings.get(findingKey({ benchmark, rule, device }))
      return {
        outcome,
        waived: waived.has(id) ? 'waived' : '',
        severity,
        severity_rank: SEVERITY_RANKS[severity] ?? '',
        device,
        benchmark,
        rule,
        title: titles.get(`${benchmark} ${rule}`) ?? rule,
        branch,
        note,
        requirements: requirements.join(' '),
        owner: finding?.owner?.name ?? '',
        due: finding?.due ?? '',
        overdue: finding?.overdue ? 'overdue' : '',
        comment: finding?.comment ?? '',
        done_by: finding?.done?.by ?? '',
        done_at: finding?.done?.at ?? '',
        verdict: id,
      }
    })
    download(
      response,
      `verdicts-${audit.id}.csv`,
      'text/csv; charset=utf-8',
      csvOf(
        [...VERDICT_CSV],
        lines.map((line) => VERDICT_CSV.map((column) => line[column])),
      ),
    )
    return undefined
  }),
  route(getVerdict, async ({ services, engagementId, params }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const row = await services.database.getRepository(Verdicts).findOneBy({ id: params.verdict, auditId: audit.id })
    if (!row) throw notFound('verdict')
    const choice = audit.choices.find(({ benchmark }) => benchmark === row.benchmark)
    const source = choice && (await services.benchmarks.version(choice.hash)).source
    const rule = source?.rules.find(({ id }) => id === row.rule)
    const device = await services.database.getRepository(Devices).findOneByOrFail({ id: row.deviceId })
    // The branches of the form in which the rule was put to this device.
    const asked = rule && [rule, ...rule.also].find(({ dialects }) => dialects.some((id) => id === device.dialect))
    const titles = new Map(
      (await services.benchmarks.frameworksIn(engagementId)).flatMap((framework) =>
        Object.entries(framework.requirements).map(([number, { title }]) => [
          `${framework.id}:${number}`,
          { framework: framework.title, number, title },
        ]),
      ),
    )
    const snapshot = await services.snapshots.find(audit.snapshotId, engagementId)
    const [body] = await services.audits.cited(
      snapshot,
      await services.audits.waived(engagementId, await services.sealedVerdicts.open([row])),
    )
    if (!body) throw notFound('verdict')
    return {
      id: row.id,
      auditId: audit.id,
      deviceId: row.deviceId,
      verdict: body,
      rule: rule && {
        title: rule.title,
        statement: rule.statement,
        topic: rule.topic,
        profile: source?.profiles.find(({ id }) => id === rule.profile)?.title ?? rule.profile,
        branches: (asked?.decide ?? []).map(({ id, outcome }) => ({ id, outcome })),
      },
      values: body.values.map((value) => ({ ...value, title: source?.values[value.name]?.title ?? value.name })),
      references: body.references.map((reference) => ({
        reference,
        ...(titles.get(reference) ?? { framework: '', number: reference, title: '' }),
      })),
      finding: await services.findings.one(engagementId, row),
    }
  }),
]

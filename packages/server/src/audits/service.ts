import { In } from 'typeorm'
import type { AuditDocument, Verdict } from '@jurybox/core'
import { linesOf } from '@jurybox/core/analysis'
import {
  applyWaivers,
  attestedIn,
  countVerdicts,
  elsewhereIn,
  expectedVerdicts,
  noCounts,
  quoted,
  scoreOf,
  scoresIn,
  tailoredIn,
  withElsewhere,
  type CitingVerdict,
  type Counts,
  type Score,
  type Waivable,
} from '@jurybox/core/audit'
import type { Choice } from '@jurybox/core/benchmarks'
import { citing } from '@jurybox/core/report'
import { answersIn } from '../attestations/answers.ts'
import { Audits, Verdicts, type Audit, type AuditChoice, type AuditScope } from './entity.ts'
import { Devices } from '../estate/entity.ts'
import { Records, type SnapshotRow, type StoredRecord } from '../snapshots/entity.ts'
import type { Job } from '../jobs/entity.ts'
import { Problem } from '../http/problem.ts'
import type { ActivityLog } from '../activity/activity.ts'
import type { AlertService } from '../alerts/service.ts'
import type { JobBoard } from '../jobs/board.ts'
import type { Logger } from 'pino'
import type { TrafficService } from '../traffic/service.ts'
import type { WaiverService } from '../waivers/service.ts'
import { DamagedContent } from '../snapshots/damage.ts'
import { Judging, subjectsOf, type AuditPlan, type JudgedSubject, type Needs as JudgingNeeds } from './judging.ts'

/** What is needed of the rest of the server. */
export interface Needs extends JudgingNeeds {
  readonly activity: ActivityLog
  readonly alerts: AlertService
  readonly jobs: JobBoard
  readonly log: Logger
  readonly traffic: TrafficService
  readonly waivers: WaiverService
}

/** Most rows in one statement. */
const BATCH = 1000
/** Records whose lines are shown at a time. */
const SHOWN_AT_ONCE = 50

/** Runs audits in worker threads and keeps what they find. */
export class AuditService {
  readonly #running = new Set<Promise<void>>()
  readonly judging: Judging
  /** What else follows an audit before its job is done. */
  whenAudited: (audit: Audit) => Promise<void> = () => Promise.resolve()

  constructor(readonly services: Needs) {
    this.judging = new Judging(services)
  }

  /**
   * Starts an audit and returns its job at once.
   * @param scope the devices that it is limited to; null: all of the snapshot
   */
  async start(
    engagementId: number,
    userId: number,
    snapshot: SnapshotRow,
    choices: readonly AuditChoice[],
    scope: AuditScope | null = null,
  ): Promise<Job> {
    const { jobs } = this.services
    const docket = await this.#planOf(choices)
    const subjects = await subjectsOf(this.services, snapshot, docket.benches)
    const count = scope === null ? subjects.length : subjects.filter(({ name }) => scope.devices.includes(name)).length
    const { job, signal } = await jobs.open({
      engagementId,
      kind: 'audit',
      total: count,
      createdBy: userId,
      message: `Auditing ${count} devices of “${snapshot.title}”${scope ? `, limited to ${scope.title}` : ''}`,
      params: {
        snapshotId: snapshot.id,
        benchmarks: choices.map(({ benchmark, profile }) => ({ benchmark, profile })),
        framework: frameworkOf({ choices: [...choices] }),
        scope,
      },
    })
    const work = this.#run(job, snapshot, choices, docket, subjects, scope, signal)
    this.#running.add(work)
    void work.finally(() => this.#running.delete(work))
    return job
  }

  async #planOf(choices: readonly AuditChoice[]): Promise<AuditPlan> {
    try {
      return await this.judging.planOf(choices)
    } catch (error) {
      throw new Problem(422, error instanceof Error ? error.message : String(error))
    }
  }

  async #run(
    job: Job,
    snapshot: SnapshotRow,
    choices: readonly AuditChoice[],
    docket: AuditPlan,
    subjects: readonly JudgedSubject[],
    scope: AuditScope | null,
    signal: AbortSignal,
  ): Promise<void> {
    const { database, jobs } = this.services
    try {
      const maskKey = await this.services.records.maskKeyOf(job.engagementId)
      const only = scope === null ? null : new Set(scope.devices)
      const progress = (done: number): Promise<void> => jobs.progress(job, Math.min(done, job.total))
      const { found, estateHash } = await this.judging.judge({ docket, subjects, only, maskKey, signal, progress })
      if (!jobs.mayBeSaved(job)) {
        await jobs.finish(job, 'stopped', `Stopped after ${job.done} of ${job.total} devices. No results were saved.`)
        return
      }
      const computed = found.filter(({ fresh }) => fresh).length
      const left = docket.benches.reduce(
        (sum, { choice: { benchmark }, rules }) => sum + benchmark.rules.length - rules.length,
        0,
      )
      const counts = {
        ...sumOf(found.flatMap(({ judgements }) => judgements.map((judgement) => judgement.counts))),
        notselected: left * found.length,
      }
      // One transaction: an audit is there with all that it names or not at all.
      const audit = await database.transaction(async (manager) => {
        const saved = await manager.save(
          Audits,
          manager.create(Audits, {
            engagementId: job.engagementId,
            snapshotId: snapshot.id,
            jobId: job.id,
            build: this.services.build,
            choices: [...choices],
            counts,
            scope,
            computed,
            remembered: found.length - computed,
            estateHash,
            createdBy: job.createdBy,
            createdAt: job.createdAt,
            finishedAt: new Date(),
          }),
        )
        const named = found.flatMap(({ subject, judgements }) => {
          const [records, before] = [subject.records, subject.before ?? []].map((held) =>
            JSON.stringify(held.map(({ id }) => id)),
          )
          return judgements.map(({ id }) => [saved.id, id, subject.id, records, before])
        })
        for (let from = 0; from < named.length; from += BATCH)
          await manager.query(
            'INSERT INTO audit_judgements (audit_id, judgement_id, device_id, records, before_records) VALUES ?',
            [named.slice(from, from + BATCH)],
          )
        return saved
      })
      await this.services.alerts.audited(audit)
      await this.whenAudited(audit)
      await jobs.finish(
        Object.assign(job, { done: job.total, params: { ...job.params, auditId: audit.id } }),
        'done',
        (['fail', 'unknown', 'pass'] as const)
          .map((outcome) => `${audit.counts?.[outcome] ?? 0} ${outcome}`)
          .join(', '),
      )
      await this.services.activity.add({
        userId: job.createdBy,
        engagementId: job.engagementId,
        action: 'audit finished',
        detail: { audit: audit.id, snapshot: snapshot.id, counts: audit.counts },
      })
    } catch (error) {
      await jobs.fail(job, signal, error, { what: 'The audit', kept: 'No results were saved.' })
    }
  }

  /**
   * Judges at once a snapshot that carries devices over, by what the last audit before it judged by: what has not
   * changed is remembered, so that only what came anew is computed. Null where nothing is carried over, or nothing was
   * judged before.
   */
  async follow(snapshot: SnapshotRow, userId: number): Promise<Job | null> {
    const { snapshots } = this.services
    if (!(await snapshots.held(snapshot)).some(({ carried }) => carried)) return null
    const earlier = new Map(
      (await snapshots.list(snapshot.engagementId))
        .filter((one) => one.takenAt < snapshot.takenAt)
        .map((one, at) => [one.id, at]),
    )
    const found = (await this.list(snapshot.engagementId)).filter(
      (audit) => isWhole(audit) && earlier.has(audit.snapshotId),
    )
    const last = found
      .sort((a, b) => (earlier.get(a.snapshotId) ?? 0) - (earlier.get(b.snapshotId) ?? 0) || a.id - b.id)
      .at(-1)
    return last ? this.judgeAgain(snapshot, last, userId) : null
  }

  /**
   * Judges a snapshot by the benchmarks of an audit as the engagement fits them now; null, and a line in the log, where
   * that cannot be.
   */
  async judgeAgain(snapshot: SnapshotRow, { choices }: Pick<Audit, 'choices'>, userId: number): Promise<Job | null> {
    try {
      const chosen = await Promise.all(
        choices.map(({ benchmark, profile }) =>
          this.services.benchmarks.choice(snapshot.engagementId, benchmark, profile),
        ),
      )
      return await this.start(snapshot.engagementId, userId, snapshot, chosen)
    } catch (error) {
      // Whatever hinders it, the snapshot itself is there: it stays unjudged, which every page says.
      this.services.log.warn(
        { snapshot: snapshot.id, reason: error instanceof Error ? error.message : String(error) },
        'a snapshot was not judged at once',
      )
      return null
    }
  }

  /** The last audit of a snapshot: of all its devices where there is one, else the last that is limited to some. */
  async of(snapshotId: number): Promise<Audit | null> {
    const rows = await this.services.database
      .getRepository(Audits)
      .find({ where: { snapshotId }, order: { id: 'ASC' } })
    return rows.findLast(isWhole) ?? rows.at(-1) ?? null
  }

  /** @throws Problem where the engagement has no such finished audit */
  async find(id: number, engagementId: number): Promise<Audit> {
    const audit = await this.services.database.getRepository(Audits).findOneBy({ id, engagementId })
    if (!audit) throw new Problem(404, 'There is no such audit in this engagement.')
    return audit
  }

  /**
   * The last audit of an earlier snapshot by a benchmark that this audit holds as well, of the same devices or of all.
   */
  async before(audit: Audit): Promise<Audit | null> {
    const { snapshots } = this.services
    const { takenAt } = await snapshots.find(audit.snapshotId, audit.engagementId)
    const earlier = new Map(
      (await snapshots.list(audit.engagementId))
        .filter((one) => one.takenAt < takenAt)
        .map((one) => [one.id, one.takenAt.getTime()]),
    )
    const own = new Set(audit.choices.map(({ benchmark }) => benchmark))
    const found = (await this.list(audit.engagementId)).filter(
      ({ snapshotId, choices, scope }) =>
        earlier.has(snapshotId) &&
        choices.some(({ benchmark }) => own.has(benchmark)) &&
        frameworkOf({ choices }) === frameworkOf(audit) &&
        (scope === null || sameScope(scope, audit.scope)),
    )
    return (
      found.sort((a, b) => (earlier.get(a.snapshotId) ?? 0) - (earlier.get(b.snapshotId) ?? 0) || a.id - b.id).at(-1) ??
      null
    )
  }

  async list(engagementId: number): Promise<Audit[]> {
    return this.services.database.getRepository(Audits).find({ where: { engagementId }, order: { id: 'ASC' } })
  }

  /** The remedies of an audit with their real secrets, by device. Computed for the download, kept nowhere. */
  async commandsOf(audit: Audit): Promise<{ device: string; verdict: CitingVerdict }[]> {
    const snapshot = await this.services.snapshots.find(audit.snapshotId, audit.engagementId)
    const docket = await this.judging.planOf(audit.choices)
    const subjects = await subjectsOf(this.services, snapshot, docket.benches)
    const { scope } = audit
    const found = (await this.judging.verdicts({ docket, subjects, maskKey: null })).filter(
      ({ deviceId }) =>
        scope === null || subjects.some(({ id, name }) => id === deviceId && scope.devices.includes(name)),
    )
    return found
      .flatMap(({ verdicts }) =>
        verdicts
          .filter((v) => v.outcome === 'fail' && v.remedy && 'commands' in v.remedy)
          .map((verdict) => ({ device: verdict.device, verdict })),
      )
      .sort((a, b) => (a.device < b.device ? -1 : a.device > b.device ? 1 : 0))
  }

  /** Verdicts of an audit with what is waived of them now. */
  async waived<V extends Waivable>(engagementId: number, verdicts: readonly V[]): Promise<V[]> {
    return applyWaivers(verdicts, await this.services.waivers.standing(engagementId), Date.now())
  }

  /** The verdicts of expectations, with what is waived of them now. */
  async verdictsOf(
    engagementId: number,
    ...answered: Parameters<typeof expectedVerdicts>
  ): Promise<AuditDocument['expected']> {
    return this.waived(engagementId, expectedVerdicts(...answered))
  }

  /** The scores of every finished audit, in the order in which they were made. */
  async scores(engagementId: number): Promise<{ audit: Audit; scores: readonly Score[] }[]> {
    const finished = (await this.list(engagementId)).filter(({ counts }) => counts !== null)
    const all: { audit: Audit; scores: readonly Score[] }[] = []
    for (const audit of finished) all.push({ audit, scores: audit.scores ?? (await this.#scored(audit)) })
    return all
  }

  async #scored(audit: Audit): Promise<Score[]> {
    const { database, benchmarks } = this.services
    const counted: { benchmark: string; rule: string; outcome: Verdict['outcome']; count: string }[] =
      await database.query(
        `SELECT benchmark, rule, outcome, COUNT(*) AS count
          FROM audit_verdicts
          WHERE audit_id = ?
          GROUP BY benchmark, rule, outcome`,
        [audit.id],
      )
    const scores = await Promise.all(
      audit.choices.map(async ({ benchmark, hash }) => {
        const topics = new Map((await benchmarks.version(hash)).source.rules.map(({ id, topic }) => [id, topic]))
        return scoreOf(
          benchmark,
          counted
            .filter((row) => row.benchmark === benchmark)
            .map(({ rule, outcome, count }) => ({ rule, outcome, count: Number(count) })),
          (rule) => topics.get(rule) ?? '',
        )
      }),
    )
    await database.getRepository(Audits).update({ id: audit.id }, { scores })
    return scores
  }

  /** The audit as the document that the command line prints. */
  async document(audit: Audit): Promise<AuditDocument> {
    const { database, snapshots, benchmarks } = this.services
    const snapshot = await snapshots.find(audit.snapshotId, audit.engagementId)
    const held = (await snapshots.held(snapshot)).filter(
      ({ device }) => audit.scope === null || audit.scope.devices.includes(device),
    )
    const rows = await database
      .getRepository(Verdicts)
      .find({ where: { auditId: audit.id }, order: { device: 'ASC', place: 'ASC' } })
    const verdicts = await this.cited(
      snapshot,
      await this.waived(audit.engagementId, await this.services.sealedVerdicts.open(rows)),
    )
    const devices = await database
      .getRepository(Devices)
      .findBy({ id: In([...new Set(held.map((record) => record.deviceId))]) })
    const chosen = await Promise.all(audit.choices.map((choice) => benchmarks.chosen(choice)))
    const left = audit.counts?.['notselected'] ?? 0
    const fingerprint = await this.services.records.fingerprints(audit.engagementId)
    const framework = frameworkOf(audit)
    return {
      schema: 1,
      build: audit.build,
      benchmarks: chosen.map(({ profile, benchmark: { source } }) => ({
        id: source.id,
        title: source.title,
        version: source.version,
        profile: profile ?? '',
      })),
      snapshot: { title: snapshot.title, takenAt: snapshot.takenAt.toISOString() },
      ...(framework === null ? {} : { framework }),
      ...(audit.scope ? { limitedTo: audit.scope.title } : {}),
      devices: devices
        .map((device) => {
          return {
            name: device.name,
            dialect: device.dialect,
            ...linesOf(held.filter((record) => record.deviceId === device.id)),
          }
        })
        .sort((a, b) => (a.name < b.name ? -1 : 1)),
      records: held.map((record) => ({
        id: String(record.id),
        device: record.device,
        kind: record.kind,
        path: record.path,
        fingerprint: fingerprint(record.sha256),
        takenAt: record.takenAt?.toISOString() ?? null,
        timeSource: record.timeSource,
      })),
      refused: snapshot.refused.map(({ path, reason }) => ({ path, reason })),
      verdicts,
      attested: await this.#attested(audit, chosen),
      expected: await this.#expected(snapshot),
      tailored: tailoredIn(chosen),
      scores: scoresIn(chosen, verdicts),
      counts: countVerdicts(verdicts, left),
    }
  }

  /** Questions with their answers: of an audit for a framework, those that speak to it. */
  async #attested(audit: Audit, chosen: readonly Choice[]): Promise<AuditDocument['attested']> {
    const { database, benchmarks } = this.services
    const all = attestedIn(chosen, await answersIn(database, audit.engagementId), Date.now())
    const known = await benchmarks.frameworksIn(audit.engagementId)
    const framework = known.find(({ id }) => id === frameworkOf(audit))
    if (!framework) return all
    const asked = new Set(
      chosen.flatMap(({ benchmark: { source } }) =>
        citing(source, framework).attestations.map((id) => `${source.id} ${id}`),
      ),
    )
    return all.filter(({ benchmark, id }) => asked.has(`${benchmark} ${id}`))
  }

  /** Verdicts with the lines that they cite, of their own device and of others. */
  async cited(snapshot: SnapshotRow, verdicts: readonly (CitingVerdict & Waivable)[]): Promise<Verdict[]> {
    const others = elsewhereIn(verdicts)
    const elsewhere =
      others.length === 0
        ? []
        : (await this.services.snapshots.held(snapshot)).filter(({ device, kind }) =>
            others.some((one) => one.device === device && one.kind === kind),
          )
    const cited = verdicts.flatMap(({ exhibits }) =>
      exhibits.flatMap(({ record, device, text }) =>
        device === undefined && text === undefined ? [Number(record)] : [],
      ),
    )
    const own = await this.services.database
      .getRepository(Records)
      .find({ select: { id: true, sha256: true, dialect: true }, where: { id: In([...new Set(cited)]) } })
    const shown = await this.#shownLines([...own, ...elsewhere], snapshot.engagementId)
    return withElsewhere(
      quoted(verdicts, (record) => shown.get(record) ?? null),
      (device, kind) => {
        const record = elsewhere.find((one) => one.device === device && one.kind === kind)
        const lines = shown.get(String(record?.id))
        return record && lines ? { id: String(record.id), text: lines.range } : null
      },
    )
  }

  /** By the id of a record, its lines as people may see them; of a damaged one each line says so. */
  async #shownLines(
    records: readonly Pick<StoredRecord, 'id' | 'sha256' | 'dialect'>[],
    engagementId: number,
  ): Promise<Map<string, { range: (from: number, to: number) => string }>> {
    const shown = new Map<string, { range: (from: number, to: number) => string }>()
    const byId = new Map(records.map((record) => [record.id, record]))
    const all = [...byId.values()]
    for (let from = 0; from < all.length; from += SHOWN_AT_ONCE) {
      await Promise.all(
        all.slice(from, from + SHOWN_AT_ONCE).map(async (record) => {
          const lines = await this.services.records.maskedLines(record, engagementId).catch((error: unknown) => {
            if (error instanceof DamagedContent) return null
            throw error
          })
          shown.set(String(record.id), {
            range: (from, to) => lines?.slice(from - 1, to).join('\n') ?? '(the record is damaged)',
          })
        }),
      )
    }
    return shown
  }

  /** The verdicts of expectations in a snapshot, with their lines. */
  async #expected(snapshot: SnapshotRow): Promise<AuditDocument['expected']> {
    const { traffic, estate, snapshots, records } = this.services
    const answered = await estate.patiently(() => traffic.expectations(snapshot))
    const shown = new Set(answered.flatMap(({ answer }) => answer.exhibits.map(({ record }) => record)))
    const held = (await snapshots.held(snapshot)).filter(({ id }) => shown.has(String(id)))
    const texts = new Map(
      await Promise.all(
        held.map(
          async (record) => [String(record.id), await records.maskedLines(record, snapshot.engagementId)] as const,
        ),
      ),
    )
    return this.verdictsOf(snapshot.engagementId, answered, ({ record, from, to }) =>
      (texts.get(record) ?? []).slice(from - 1, to).join('\n'),
    )
  }

  async close(): Promise<void> {
    await Promise.allSettled(this.#running)
  }
}

function sameScope(a: AuditScope, b: AuditScope | null): boolean {
  return b !== null && a.devices.length === b.devices.length && a.devices.every((device, i) => device === b.devices[i])
}

function sumOf(all: readonly Readonly<Record<string, number>>[]): Counts {
  const sum = noCounts()
  for (const counts of all)
    for (const outcome of Object.keys(sum) as (keyof Counts)[]) sum[outcome] += counts[outcome] ?? 0
  return sum
}

/** The framework that an audit is for; null where it asks whole benchmarks. */
export function frameworkOf({ choices }: Pick<Audit, 'choices'>): string | null {
  return choices[0]?.framework ?? null
}

/** Whether it judged all devices by whole benchmarks: what pages show where no audit is chosen. */
export function isWhole(audit: Pick<Audit, 'choices' | 'scope'>): boolean {
  return audit.scope === null && frameworkOf(audit) === null
}

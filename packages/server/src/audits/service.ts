import { availableParallelism } from 'node:os'
import { gunzipSync, gzipSync } from 'node:zlib'
import { Piscina } from 'piscina'
import { In } from 'typeorm'
import { countVerdicts, isPartOfModel, judgedOf, rulesOf, scoresIn, verdictSchema, type AuditDocument, type Report, type Verdict } from '@jurybox/core'
import { z } from 'zod'
import { Audits, Devices, Judgements, Verdicts, type Audit, type AuditChoice, type Job, type SnapshotRow } from '../db/entities.ts'
import { Problem } from '../http/problem.ts'
import type { Services } from '../services.ts'
import type { HeldRecord } from '../snapshots/service.ts'
import { sha256 } from '../vault/vault.ts'
import type { AuditTask } from './worker.ts'

const BATCH = 200
const verdictsSchema = z.array(verdictSchema)

/** Runs audits in worker threads and keeps what they find. */
export class AuditService {
  readonly #pool = new Piscina<AuditTask, Verdict[]>({
    filename: new URL('./worker.ts', import.meta.url).href,
    execArgv: ['--import', 'tsx'],
    minThreads: 0,
    maxThreads: Math.max(1, availableParallelism() - 1),
    idleTimeout: 30_000,
    // One device costs milliseconds; a worker that outgrows this is ended and its device reported as failed.
    // Judging makes many small things that live for one device: with room for them, few are kept longer than that.
    resourceLimits: { maxOldGenerationSizeMb: 1024, maxYoungGenerationSizeMb: 192 },
  })
  readonly #pdf = new Piscina<Report, Uint8Array>({ filename: new URL('../reports/pdf.ts', import.meta.url).href, name: 'writePdf', execArgv: ['--import', 'tsx'], minThreads: 0, maxThreads: 1, idleTimeout: 30_000 })
  readonly #running = new Set<Promise<void>>()

  constructor(readonly services: Services) {}

  /** Starts an audit and returns its job at once. */
  async start(engagementId: number, userId: number, snapshot: SnapshotRow, choices: readonly AuditChoice[]): Promise<Job> {
    const { jobs } = this.services
    for (const choice of choices) this.#checked(await this.services.benchmarks.version(choice.hash), choice)
    const devices = await this.#devicesOf(snapshot)
    const { job, signal } = await jobs.open({
      engagementId,
      kind: 'audit',
      total: devices.size,
      createdBy: userId,
      message: `Judging ${devices.size} devices of “${snapshot.title}”`,
      params: { snapshotId: snapshot.id, benchmarks: choices.map(({ benchmark, profile }) => ({ benchmark, profile })) },
    })
    const work = this.#run(job, snapshot, choices, [...devices.values()], signal)
    this.#running.add(work)
    void work.finally(() => this.#running.delete(work))
    return job
  }

  /** The records that each device is judged by: what no rule looks at makes no verdict anew. */
  async #devicesOf(snapshot: SnapshotRow): Promise<Map<number, HeldRecord[]>> {
    const all = new Map<number, HeldRecord[]>()
    for (const record of await this.services.snapshots.held(snapshot)) all.set(record.deviceId, [...(all.get(record.deviceId) ?? []), record])
    const judged = new Map<number, HeldRecord[]>()
    for (const [id, records] of all) {
      const dialect = judgedOf(records)?.dialect
      if (dialect !== undefined) judged.set(id, records.filter(({ kind }) => isPartOfModel(kind, dialect)))
    }
    return judged
  }

  #checked(benchmark: Parameters<typeof rulesOf>[0], choice: AuditChoice): void {
    try {
      rulesOf(benchmark, choice.profile)
    } catch (error) {
      throw new Problem(422, error instanceof Error ? error.message : String(error))
    }
  }

  async #run(job: Job, snapshot: SnapshotRow, choices: readonly AuditChoice[], devices: readonly HeldRecord[][], signal: AbortSignal): Promise<void> {
    const { database, jobs, log } = this.services
    try {
      const texts = await Promise.all(choices.map(async (choice) => ({ hash: choice.hash, text: await this.services.benchmarks.textOf(choice.hash), profile: choice.profile, values: choice.values })))
      const maskKey = await this.services.records.maskKeyOf(job.engagementId)
      const found: { deviceId: number; verdicts: Verdict[] }[] = []
      let computed = 0
      let next = 0
      const judgeNext = async (): Promise<void> => {
        for (let records = devices[next++]; records && !signal.aborted; records = devices[next++]) {
          const { verdicts, fresh } = await this.#judge(records, texts, maskKey, signal)
          if (fresh) computed++
          found.push({ deviceId: records[0]?.deviceId ?? 0, verdicts })
          await jobs.progress(job, found.length)
        }
      }
      await Promise.all(Array.from({ length: this.#pool.options.maxThreads + 1 }, judgeNext))
      if (signal.aborted) {
        await jobs.finish(job, 'stopped', `Stopped after ${found.length} of ${devices.length} devices. No result was kept.`)
        return
      }
      const all = found.flatMap(({ verdicts }) => verdicts)
      const left = (await Promise.all(choices.map(async (choice) => {
        const benchmark = await this.services.benchmarks.version(choice.hash)
        return benchmark.rules.length - rulesOf(benchmark, choice.profile).length
      }))).reduce((sum, count) => sum + count, 0)
      // One transaction: an audit is there with all its verdicts or not at all.
      const audit = await database.transaction(async (manager) => {
        const saved = await manager.save(
          Audits,
          manager.create(Audits, { engagementId: job.engagementId, snapshotId: snapshot.id, jobId: job.id, build: this.services.build, choices: [...choices], counts: countVerdicts(all, left * devices.length), computed, remembered: devices.length - computed, createdBy: job.createdBy, createdAt: job.createdAt, finishedAt: new Date() }),
        )
        const rows = found.flatMap(({ deviceId, verdicts }) => verdicts.map((v) => ({ auditId: saved.id, deviceId, device: v.device, benchmark: v.benchmark, rule: v.rule, outcome: v.outcome, severity: v.severity, branch: v.branch, note: v.note, body: JSON.stringify(v) })))
        for (let from = 0; from < rows.length; from += BATCH) await manager.insert(Verdicts, rows.slice(from, from + BATCH))
        return saved
      })
      await jobs.finish(Object.assign(job, { done: devices.length, params: { ...job.params, auditId: audit.id } }), 'done', `${audit.counts?.['fail'] ?? 0} fail, ${audit.counts?.['unknown'] ?? 0} unknown, ${audit.counts?.['pass'] ?? 0} pass`)
      await this.services.activity.add({ userId: job.createdBy, engagementId: job.engagementId, action: 'audit finished', detail: { audit: audit.id, snapshot: snapshot.id, counts: audit.counts } })
    } catch (error) {
      const stopped = signal.aborted
      if (!stopped) log.error({ job: job.id, error: error instanceof Error ? { message: error.message, stack: error.stack } : String(error) }, 'audit failed')
      await jobs.finish(job, stopped ? 'stopped' : 'failed', stopped ? 'Stopped. No result was kept.' : 'The audit failed; the server log says why. No result was kept.')
    }
  }

  /**
   * Verdicts of one device, remembered under everything they depend on: build, rules, values, records, name, and the
   * key that marks secrets. What has not changed is not computed again.
   */
  async #judge(records: readonly HeldRecord[], choices: AuditTask['choices'], maskKey: Buffer, signal: AbortSignal): Promise<{ verdicts: Verdict[]; fresh: boolean }> {
    const device = records[0]?.device ?? ''
    const memoKey = sha256(JSON.stringify([this.services.build, device, choices.map(({ hash, profile, values }) => [hash, profile, values]), records.map(({ id, kind, sha256: hash, dialect }) => [id, kind, hash, dialect]), sha256(maskKey)]))
    const memos = this.services.database.getRepository(Judgements)
    const known = await memos.findOneBy({ memoKey })
    if (known) return { verdicts: verdictsSchema.parse(JSON.parse(gunzipSync(known.body).toString('utf8'))), fresh: false }
    const verdicts = await this.#compute(records, choices, maskKey, signal)
    await memos.createQueryBuilder().insert().orIgnore().values({ memoKey, body: gzipSync(JSON.stringify(verdicts)) }).execute()
    return { verdicts, fresh: true }
  }

  async #compute(records: readonly HeldRecord[], choices: AuditTask['choices'], maskKey: Buffer | null, signal?: AbortSignal): Promise<Verdict[]> {
    const texts = await this.services.records.texts(records.map((record) => record.sha256))
    const task: AuditTask = {
      device: records[0]?.device ?? '',
      dialect: judgedOf(records)?.dialect ?? '',
      records: records.map((record) => ({ id: String(record.id), kind: record.kind, dialect: record.dialect, text: texts.get(record.sha256) ?? '' })),
      choices,
      maskKey,
    }
    return this.#pool.run(task, signal ? { signal } : {})
  }

  /** @throws Problem where the engagement has no such finished audit */
  async find(id: number, engagementId: number): Promise<Audit> {
    const audit = await this.services.database.getRepository(Audits).findOneBy({ id, engagementId })
    if (!audit) throw new Problem(404, 'There is no such audit in this engagement.')
    return audit
  }

  async list(engagementId: number): Promise<Audit[]> {
    return this.services.database.getRepository(Audits).find({ where: { engagementId }, order: { id: 'ASC' } })
  }

  /** The remedies of an audit with their real secrets, by device. Computed for the download, kept nowhere. */
  async commandsOf(audit: Audit): Promise<{ device: string; verdict: Verdict }[]> {
    const snapshot = await this.services.snapshots.find(audit.snapshotId, audit.engagementId)
    const devices = await this.#devicesOf(snapshot)
    const choices = await Promise.all(audit.choices.map(async (choice) => ({ hash: choice.hash, text: await this.services.benchmarks.textOf(choice.hash), profile: choice.profile, values: choice.values })))
    const out: { device: string; verdict: Verdict }[] = []
    for (const records of [...devices.values()].sort((a, b) => ((a[0]?.device ?? '') < (b[0]?.device ?? '') ? -1 : 1))) {
      const device = records[0]?.device ?? ''
      const verdicts = await this.#compute(records, choices, null)
      out.push(...verdicts.filter((v) => v.outcome === 'fail' && v.remedy && 'commands' in v.remedy).map((verdict) => ({ device, verdict })))
    }
    return out
  }

  /** The report as PDF, laid out in a worker: a long one takes seconds. */
  async pdfOf(report: Report): Promise<Buffer> {
    return Buffer.from(await this.#pdf.run(report))
  }

  /** The audit as the document that the command line prints. */
  async document(audit: Audit): Promise<AuditDocument> {
    const { database, snapshots, benchmarks } = this.services
    const snapshot = await snapshots.find(audit.snapshotId, audit.engagementId)
    const held = await snapshots.held(snapshot)
    const rows = await database.getRepository(Verdicts).find({ where: { auditId: audit.id }, order: { device: 'ASC', id: 'ASC' } })
    const verdicts = verdictsSchema.parse(rows.map((row) => JSON.parse(row.body) as unknown))
    const devices = await database.getRepository(Devices).findBy({ id: In([...new Set(held.map((record) => record.deviceId))]) })
    const chosen = await Promise.all(audit.choices.map(async (choice) => ({ choice, benchmark: await benchmarks.version(choice.hash) })))
    const left = audit.counts?.['notselected'] ?? 0
    return {
      schema: 1,
      build: audit.build,
      benchmarks: chosen.map(({ choice, benchmark: { source } }) => ({ id: source.id, title: source.title, version: source.version, profile: choice.profile })),
      snapshot: { title: snapshot.title, takenAt: snapshot.takenAt.toISOString() },
      devices: devices
        .map((device) => {
          const judged = judgedOf(held.filter((record) => record.deviceId === device.id))
          return { name: device.name, dialect: device.dialect, lines: judged?.lineCount ?? 0, unread: judged?.unread.length ?? 0 }
        })
        .sort((a, b) => (a.name < b.name ? -1 : 1)),
      records: held.map((record) => ({ id: String(record.id), device: record.device, kind: record.kind, path: record.path, sha256: record.sha256, takenAt: record.takenAt?.toISOString() ?? null, timeSource: record.timeSource })),
      refused: snapshot.refused,
      verdicts,
      attested: [],
      tailored: [],
      scores: scoresIn(chosen.map(({ benchmark, choice }) => ({ benchmark, profile: choice.profile, values: choice.values })), verdicts),
      counts: countVerdicts(verdicts, left),
    }
  }

  async close(): Promise<void> {
    await Promise.all([this.#pool.close({ force: true }), this.#pdf.close({ force: true })])
    await Promise.allSettled(this.#running)
  }
}

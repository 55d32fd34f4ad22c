import type { ReportChoice } from '@jurybox/api/reports'
import {
  AUDIENCES,
  REPORT_FORMATS,
  comparisonHtml,
  DEFAULT_LANGUAGE,
  makeReport,
  textsOf,
  narrowed,
  writeHtml,
  type ComparisonDocument,
  type Report,
} from '@jurybox/core/report'
import type { Check } from '@jurybox/core/checks'
import type { FindingMarks } from '@jurybox/core/exchange'
import { toString } from 'qrcode'
import type { DataSource } from 'typeorm'
import type { Logger } from 'pino'
import type { AlertService } from '../alerts/service.ts'
import type { Audit } from '../audits/entity.ts'
import { isWhole, type AuditService } from '../audits/service.ts'
import type { BenchmarkRepository } from '../benchmarks/repository.ts'
import { findingChanges, type Needs as ChangeNeeds } from '../changes/finding-changes.ts'
import { Engagements, type Engagement } from '../engagements/entity.ts'
import type { EstateService } from '../estate/service.ts'
import { fingerprintOf, type SigningKeyRing } from '../evidence/keys.ts'
import type { FindingService } from '../findings/service.ts'
import { Problem } from '../http/problem.ts'
import type { Settings } from '../operation/settings.ts'
import { openPool } from '../jobs/pool.ts'
import type { RecordStore } from '../snapshots/records.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import { sha256 } from '../vault/vault.ts'
import { MadeReports, SavedReports, type MadeReport, type SavedReport } from './entity.ts'
import { Printer } from './print.ts'

/** What is needed of the rest of the server. */
export interface Needs extends ChangeNeeds {
  readonly alerts: AlertService
  readonly audits: AuditService
  readonly benchmarks: BenchmarkRepository
  readonly database: DataSource
  readonly estate: EstateService
  readonly findings: FindingService
  readonly evidence: { readonly keys: SigningKeyRing }
  readonly log: Logger
  readonly records: RecordStore
  readonly settings: Settings
  readonly snapshots: SnapshotService
}

const say = textsOf(DEFAULT_LANGUAGE)

/** A report with the benchmarks by which was judged. */
interface Made {
  readonly report: Report
  readonly sources: Parameters<typeof makeReport>[1]
  readonly marks: FindingMarks
}

/** A form of report as the server gives it: those of the core, and those that are laid out here. */
interface Writer {
  readonly form: string
  readonly title: string
  readonly what: string
  readonly type: string
  /** @param gone whoever asked no longer waits */
  write(made: Made, gone?: AbortSignal): Promise<Buffer | string> | string
}

const OFFICE = 'application/vnd.openxmlformats-officedocument'

/** Makes evidence reports in all their forms. */
export class ReportService {
  readonly #printer: Printer
  readonly #office = openPool<Report, Uint8Array>(new URL('office.ts', import.meta.url), {
    task: 'writeXlsx',
    threads: 1,
    idleSeconds: 30,
    memoryMb: 1024,
  })
  readonly writers: readonly Writer[]

  constructor(readonly services: Needs) {
    this.#printer = new Printer(services.settings.chromium)
    this.writers = [
      {
        form: 'pdf',
        title: 'PDF',
        what: 'for printing and filing',
        type: 'application/pdf',
        write: ({ report }, gone) => this.#printed(report, gone),
      },
      {
        form: 'docx',
        title: 'DOCX',
        what: 'for editing',
        type: `${OFFICE}.wordprocessingml.document`,
        write: ({ report }, gone) => this.#laidOut(report, 'writeDocx', gone),
      },
      {
        form: 'xlsx',
        title: 'XLSX',
        what: 'sheets, for filtering and counting',
        type: `${OFFICE}.spreadsheetml.sheet`,
        write: ({ report }, gone) => this.#laidOut(report, 'writeXlsx', gone),
      },
      ...REPORT_FORMATS.map((format): Writer => ({
        ...format,
        write: ({ report, sources, marks }) =>
          format.write({ document: report.document, benchmarks: sources, report: () => report, marks }),
      })),
    ]
  }

  writerOf(form: string): Writer {
    const writer = this.writers.find((one) => one.form === form)
    if (writer) return writer
    const known = this.writers.map((one) => one.form).join(', ')
    throw new Problem(404, `There is no report format "${form}" (available: ${known}).`)
  }

  /** @param gone whoever asked no longer waits: what takes long is stopped */
  async write(
    audit: Audit,
    form: string,
    choice: ReportChoice,
    gone?: AbortSignal,
  ): Promise<{ body: Buffer | string; type: string }> {
    const writer = this.writerOf(form)
    return { body: await writer.write(await this.#made(audit, choice), gone), type: writer.type }
  }

  /** The report as one HTML file. @param style more of it, by whoever shows the file */
  async html(audit: Audit, choice: ReportChoice, style: string): Promise<string> {
    return writeHtml((await this.#made(audit, choice)).report, style)
  }

  /** A comparison of two snapshots as PDF. */
  async printComparison(document: ComparisonDocument, checks: readonly Check[]): Promise<Buffer> {
    return this.#printer.print({
      html: comparisonHtml(document, checks),
      head: `${document.title} · ${new Date().toISOString().slice(0, 10)}`,
      foot: '',
    })
  }

  async #laidOut(report: Report, name: 'writeDocx' | 'writeXlsx', gone?: AbortSignal): Promise<Buffer> {
    return Buffer.from(await this.#office.run(report, { name, ...(gone ? { signal: gone } : {}) }))
  }

  async #printed(report: Report, gone?: AbortSignal): Promise<Buffer> {
    const printed = {
      html: writeHtml(report),
      head: `${report.title} · ${report.madeAt.slice(0, 10)}`,
      foot: report.cover.confidentiality,
      language: report.language,
    }
    return this.#printer.print(printed, gone)
  }

  async #made(audit: Audit, choice: ReportChoice): Promise<Made> {
    const { database, benchmarks, audits } = this.services
    const engagement = await database.getRepository(Engagements).findOneByOrFail({ id: audit.engagementId })
    const { client, periodFrom, periodTo } = engagement
    const sources = await Promise.all(audit.choices.map(async ({ hash }) => (await benchmarks.version(hash)).source))
    const whole = await audits.document(audit)
    const document = isLimited(choice) ? narrowed(whole, await this.#limitOf(audit, choice, sources)) : whole
    const title =
      choice.title === ''
        ? `${sources.map((source) => source.title).join(', ')}: ${document.snapshot.title}`
        : choice.title
    return {
      report: makeReport(document, sources, await benchmarks.frameworksIn(audit.engagementId), {
        title,
        engagement: engagement.title,
        madeAt: new Date().toISOString(),
        signing: await this.#signing(audit.engagementId),
        cover: {
          client,
          auditor: choice.auditor,
          confidentiality: choice.confidentiality,
          period: periodWords(periodFrom, periodTo),
          logo: logoOf(engagement),
        },
        sections: choice.sections.length > 0 ? choice.sections : AUDIENCES[choice.audience],
        // What became of the audit before is known of all devices, not of some.
        before: isLimited(choice) ? null : await this.#before(audit),
      }),
      sources,
      marks: new Map(
        [...(await this.services.findings.of(audit.engagementId))].map(([key, { owner, due, comment, done }]) => [
          key,
          { owner: owner?.name ?? null, due, comment, done: done !== null },
        ]),
      ),
    }
  }

  /** Which devices and rules a report is on. @throws Problem where a device, site or topic is not there */
  async #limitOf(
    audit: Audit,
    { device, site, topic }: ReportChoice,
    sources: Made['sources'],
  ): Promise<Parameters<typeof narrowed>[1]> {
    const snapshot = await this.services.snapshots.find(audit.snapshotId, audit.engagementId)
    const all = device !== '' || site !== '' ? await this.services.estate.devices(snapshot) : []
    const names = all
      .filter(({ name, facts }) => (device === '' || name === device) && (site === '' || facts.site === site))
      .map(({ name }) => name)
    if ((device !== '' || site !== '') && names.length === 0)
      throw new Problem(422, `No device of “${snapshot.title}” is ${device === '' ? `at the site “${site}”` : device}.`)
    const within = new Set(
      sources.flatMap(({ id: benchmark, rules, attestations }) =>
        [...rules, ...attestations].filter((one) => one.topic === topic).map(({ id }) => `${benchmark} ${id}`),
      ),
    )
    if (topic !== '' && within.size === 0) throw new Problem(422, `No rule has the topic “${topic}”.`)
    const words = [
      device && say('limit.device', { name: device }),
      site && say('limit.site', { name: site }),
      topic && say('limit.topic', { name: topic }),
    ]
    return {
      devices: device === '' && site === '' ? null : new Set(names),
      holdsRule: topic === '' ? null : (benchmark, rule) => within.has(`${benchmark} ${rule}`),
      words: words.filter(Boolean).join(', '),
    }
  }

  /** The findings of the audit of the snapshot before, held against these; null where there is none. */
  async #before(audit: Audit): Promise<Report['summary']['before']> {
    const { snapshots, audits } = this.services
    const snapshot = await snapshots.find(audit.snapshotId, audit.engagementId)
    const earlier = await snapshots.before(snapshot)
    if (!earlier || (await audits.of(earlier.id)) === null) return null
    const changes = [...(await findingChanges(this.services, earlier, snapshot)).values()].flat()
    const count = (kind: (typeof changes)[number]['change']): number =>
      changes.filter(({ change }) => change === kind).length
    return {
      title: earlier.title,
      takenAt: earlier.takenAt.toISOString(),
      resolved: count('resolved'),
      added: count('new'),
      stillOpen: count('open'),
    }
  }

  /** Of an engagement that signed nothing yet there is no key to print. */
  async #signing(engagementId: number): Promise<Report['signing']> {
    const publicKey = await this.services.evidence.keys.publicKey({ engagementId })
    if (publicKey === null) return null
    const fingerprint = fingerprintOf(publicKey)
    // Within HTML a picture needs no name space, and a report names no address.
    const svg = await toString(fingerprint, { type: 'svg', margin: 1, width: 120 })
    return { publicKey, fingerprint, qr: svg.replace(/ xmlns="[^"]*"/, '') }
  }

  get saved() {
    return this.services.database.getRepository(SavedReports)
  }

  get made() {
    return this.services.database.getRepository(MadeReports)
  }

  /** Makes the reports that are to follow each audit. What goes wrong here spoils no audit. */
  async audited(audit: Audit): Promise<void> {
    if (!isWhole(audit)) return
    for (const saved of await this.saved.findBy({ engagementId: audit.engagementId, afterAudit: true }))
      try {
        const made = await this.#keep(audit, saved)
        await this.services.alerts.reported(made)
      } catch (error) {
        this.services.log.error({ err: error, report: saved.title }, 'a report after an audit was not made')
      }
  }

  async #keep(audit: Audit, { title, format, choice }: SavedReport): Promise<MadeReport> {
    const bytes = Buffer.from((await this.write(audit, format, choice)).body)
    const hash = sha256(bytes)
    return this.services.database.transaction(async (manager) => {
      await this.services.records.keep(manager, new Map([[hash, bytes]]))
      return manager.save(
        MadeReports,
        manager.create(MadeReports, {
          engagementId: audit.engagementId,
          auditId: audit.id,
          title,
          format,
          sha256: hash,
          size: bytes.length,
          madeAt: new Date(),
        }),
      )
    })
  }

  async close(): Promise<void> {
    await this.#printer.close()
    await this.#office.close({ force: true })
  }
}

const isLimited = ({ device, site, topic }: ReportChoice): boolean => device !== '' || site !== '' || topic !== ''

function periodWords(from: string | null, to: string | null): string {
  return from !== null && to !== null ? say('cover.periodFromTo', { from, to }) : (from ?? to ?? '')
}

function logoOf({ logo, logoType }: Engagement): Report['cover']['logo'] {
  return logo === null || logoType === null ? null : { type: logoType, base64: logo.toString('base64') }
}

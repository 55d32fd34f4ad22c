import {
  downloadCommands,
  downloadReport,
  listReportFormats,
  previewReport,
  type ReportChoice,
} from '@jurybox/api/reports'
import { AUDIENCES, REPORT_FORMATS, makeReport, writeHtml, type Report } from '@jurybox/core/report'
import { toString } from 'qrcode'
import { findingChanges } from '../changes/finding-changes.ts'
import { fingerprintOf } from '../evidence/keys.ts'
import { Engagements } from '../engagements/entity.ts'
import type { Audit } from '../audits/entity.ts'
import { Problem } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { previewLook } from './preview-look.ts'

async function reportOf(
  services: Services,
  audit: Audit,
  { audience, auditor, confidentiality }: ReportChoice,
): Promise<{ report: Report; sources: Parameters<typeof makeReport>[1] }> {
  const engagement = await services.database.getRepository(Engagements).findOneByOrFail({ id: audit.engagementId })
  const { client, periodFrom, periodTo } = engagement
  const sources = await Promise.all(
    audit.choices.map(async (choice) => (await services.benchmarks.version(choice.hash)).source),
  )
  const document = await services.audits.document(audit)
  const title = `${sources.map((source) => source.title).join(', ')}: ${document.snapshot.title}`
  return {
    report: makeReport(document, sources, services.benchmarks.frameworks, {
      title,
      engagement: engagement.title,
      madeAt: new Date().toISOString(),
      signing: await signingOf(services, audit.engagementId),
      cover: {
        client,
        auditor,
        confidentiality,
        period: [periodFrom, periodTo].filter((day) => day !== null).join(' to '),
      },
      sections: AUDIENCES[audience],
      before: await beforeOf(services, audit),
    }),
    sources,
  }
}

/** The findings of the audit of the snapshot before, held against these; null where there is none. */
async function beforeOf(services: Services, audit: Audit): Promise<Report['summary']['before']> {
  const snapshot = await services.snapshots.find(audit.snapshotId, audit.engagementId)
  const earlier = await services.snapshots.before(snapshot)
  if (!earlier || (await services.audits.of(earlier.id)) === null) return null
  const changes = [...(await findingChanges(services, earlier, snapshot)).values()].flat()
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
async function signingOf({ evidence }: Services, engagementId: number): Promise<Report['signing']> {
  const publicKey = await evidence.keys.publicKey({ engagementId })
  if (publicKey === null) return null
  const fingerprint = fingerprintOf(publicKey)
  // Within HTML a picture needs no name space, and a report names no address.
  const svg = await toString(fingerprint, { type: 'svg', margin: 1, width: 120 })
  return { publicKey, fingerprint, qr: svg.replace(/ xmlns="[^"]*"/, '') }
}

/** A form of report as the server gives it: those of the core, and the one that is printed here. */
interface Writer {
  readonly form: string
  readonly title: string
  readonly what: string
  readonly type: string
  write(made: Awaited<ReturnType<typeof reportOf>>, services: Services): Promise<string | Buffer> | string
}

const PRINTED: Writer = {
  form: 'pdf',
  title: 'PDF',
  what: 'for printing and filing',
  type: 'application/pdf',
  write: ({ report }, services) => services.audits.pdfOf(report),
}

const WRITERS: readonly Writer[] = REPORT_FORMATS.map((format): Writer => ({
  ...format,
  write: ({ report, sources }) =>
    format.write({ document: report.document, benchmarks: sources, report: () => report }),
})).toSpliced(1, 0, PRINTED)

export const reportRoutes = [
  route(listReportFormats, () => Promise.resolve(WRITERS.map(({ form, title, what }) => ({ form, title, what })))),
  route(downloadReport, async ({ services, caller, engagementId, params, query, response }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const form = params.format
    const writer = WRITERS.find((one) => one.form === form)
    if (!writer)
      throw new Problem(
        404,
        `There is no report format "${form}" (available: ${WRITERS.map((one) => one.form).join(', ')}).`,
      )
    const body = await writer.write(await reportOf(services, audit, query), services)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'report downloaded',
      detail: { audit: audit.id, form },
    })
    download(response, `audit-${audit.id}.${form}`, writer.type, body)
    return undefined
  }),
  route(previewReport, async ({ services, engagementId, params, query, response }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    // A document of its own, framed by the page: its only permission is its own style.
    response.setHeader(
      'Content-Security-Policy',
      "default-src 'none'; style-src 'unsafe-inline'; font-src data:; frame-ancestors 'self'; sandbox",
    )
    response.type('html').send(writeHtml((await reportOf(services, audit, query)).report, previewLook(query.theme)))
    return undefined
  }),
  route(downloadCommands, async ({ services, caller, engagementId, params, response }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'commands with secrets downloaded',
      detail: { audit: audit.id },
    })
    const parts = (await services.audits.commandsOf(audit)).map(({ device, verdict: { rule, remedy } }) =>
      remedy && 'commands' in remedy
        ? [
            `! ${device}: ${rule}`,
            ...remedy.commands,
            '! rollback',
            ...remedy.rollback.map((line) => `! ${line}`),
            '',
          ].join('\n')
        : '',
    )
    download(response, `audit-${audit.id}-commands.txt`, 'text/plain; charset=utf-8', parts.join('\n'))
    return undefined
  }),
]

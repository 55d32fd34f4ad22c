import {
  LOGO_BYTES,
  deleteReport,
  downloadCommands,
  downloadMadeReport,
  downloadReport,
  listReportFormats,
  listReports,
  previewReport,
  removeLogo,
  saveReport,
  setLogo,
} from '@jurybox/api/reports'
import { Engagements } from '../engagements/entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { oneFile } from '../http/one-file.ts'
import { route } from '../http/route.ts'
import type { SavedReport } from './entity.ts'
import { previewLook } from './look.ts'

/** Most reports that were made after audits, in a list. */
const LISTED = 50

function savedView({ id, title, format, choice, afterAudit }: SavedReport) {
  return { id, title, format, choice, afterAudit }
}

/** The media type of a picture by its first bytes; null where it is neither PNG (ISO/IEC 15948) nor JPEG. */
function pictureType(bytes: Uint8Array): 'image/png' | 'image/jpeg' | null {
  const begins = (...signature: readonly number[]): boolean => signature.every((byte, i) => bytes[i] === byte)
  if (begins(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return 'image/png'
  return begins(0xff, 0xd8, 0xff) ? 'image/jpeg' : null
}

export const reportRoutes = [
  route(listReportFormats, ({ services }) =>
    Promise.resolve(services.reports.writers.map(({ form, title, what }) => ({ form, title, what }))),
  ),
  route(downloadReport, async ({ services, caller, engagementId, params, query, response, gone }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const { body, type } = await services.reports.write(audit, params.format, query, gone)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'report downloaded',
      detail: { audit: audit.id, form: params.format },
    })
    download(response, `audit-${audit.id}.${params.format}`, type, body)
    return undefined
  }),
  route(previewReport, async ({ services, engagementId, params, query, response }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    // A document of its own, framed by the page: its only permissions are its own style, fonts and pictures.
    response.setHeader(
      'Content-Security-Policy',
      "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:; frame-ancestors 'self'; sandbox",
    )
    response.type('html').send(await services.reports.html(audit, query, previewLook(query.theme)))
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
  route(listReports, async ({ services: { reports, database }, engagementId }) => {
    const [saved, made, engagement] = await Promise.all([
      reports.saved.find({ where: { engagementId }, order: { title: 'ASC' } }),
      reports.made.find({ where: { engagementId }, order: { id: 'DESC' }, take: LISTED }),
      database.getRepository(Engagements).findOneByOrFail({ id: engagementId }),
    ])
    return {
      saved: saved.map(savedView),
      made: made.map(({ id, title, format, auditId, size, madeAt }) => ({
        id,
        title,
        format,
        audit: auditId,
        size,
        madeAt: madeAt.toISOString(),
      })),
      hasLogo: engagement.logoType !== null,
    }
  }),
  route(saveReport, async ({ services: { reports, activity }, caller, engagementId, body }) => {
    reports.writerOf(body.format)
    const before = await reports.saved.findOneBy({ engagementId, title: body.title })
    const saved = await reports.saved.save({
      ...(before ?? { engagementId, createdBy: caller.user.id, createdAt: new Date() }),
      ...body,
    })
    await activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'report saved',
      detail: { title: saved.title, format: saved.format, afterAudit: saved.afterAudit },
    })
    return savedView(saved)
  }),
  route(deleteReport, async ({ services: { reports, activity }, caller, engagementId, params }) => {
    const saved = await reports.saved.findOneBy({ engagementId, id: params.report })
    if (!saved) throw notFound('report')
    await reports.saved.delete({ id: saved.id })
    await activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'report deleted',
      detail: { title: saved.title },
    })
    return undefined
  }),
  route(downloadMadeReport, async ({ services, caller, engagementId, params, response }) => {
    const made = await services.reports.made.findOneBy({ engagementId, id: params.report })
    if (!made) throw notFound('report')
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'report downloaded',
      detail: { audit: made.auditId, form: made.format },
    })
    const { type } = services.reports.writerOf(made.format)
    const body = Buffer.from(await services.records.bytes(made.sha256))
    download(response, `${made.title}-${made.id}.${made.format}`, type, body)
    return undefined
  }),
  route(setLogo, async ({ services, caller, engagementId, request }) => {
    const file = oneFile(request)
    if (file.size > LOGO_BYTES)
      throw new Problem(422, `The picture has ${file.size} bytes; at most ${LOGO_BYTES} are taken.`)
    const logoType = pictureType(file.buffer)
    if (logoType === null) throw new Problem(422, 'The file is neither a PNG nor a JPEG picture.')
    await services.database.getRepository(Engagements).update({ id: engagementId }, { logo: file.buffer, logoType })
    await services.activity.add({ userId: caller.user.id, engagementId, action: 'logo set', detail: {} })
    return undefined
  }),
  route(removeLogo, async ({ services, caller, engagementId }) => {
    await services.database.getRepository(Engagements).update({ id: engagementId }, { logo: null, logoType: null })
    await services.activity.add({ userId: caller.user.id, engagementId, action: 'logo removed', detail: {} })
    return undefined
  }),
]

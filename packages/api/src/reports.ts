import { AUDIENCE_IDS, type Audience } from '@jurybox/core/report'
import { endpoint } from './endpoint.ts'
import { z } from 'zod'

/** A form in which reports are written; its id is the ending of the files. */
export const reportFormatView = z.strictObject({ form: z.string(), title: z.string(), what: z.string() })
export type ReportFormatView = z.infer<typeof reportFormatView>

/** For whom a report is made, and what stands on its first page. */
export const reportChoice = z.object({
  audience: z.enum(AUDIENCE_IDS as readonly [Audience, ...Audience[]]).default('technical'),
  auditor: z.string().max(160).default(''),
  confidentiality: z.string().max(160).default(''),
})
export type ReportChoice = z.infer<typeof reportChoice>

/** The formats of reports. */
export const listReportFormats = endpoint({
  method: 'get',
  path: '/report-formats',
  access: 'signed-in',
  summary: 'The formats of reports',
  response: z.array(reportFormatView),
})

/** The evidence report of an audit; secrets masked. */
export const downloadReport = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/report.:format',
  access: 'read',
  summary: 'The evidence report of an audit; secrets masked',
  query: reportChoice,
  file: 'application/octet-stream',
})

/** The HTML report for reading in place. */
export const previewReport = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/preview',
  access: 'read',
  summary: 'The HTML report for reading in place',
  query: reportChoice.extend({ theme: z.enum(['light', 'dark']).default('light') }),
  file: 'application/octet-stream',
})

/** Remediation commands with real secrets; every download is logged. */
export const downloadCommands = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/commands.txt',
  access: 'exportSecrets',
  summary: 'Remediation commands with real secrets; every download is logged',
  fresh: true,
  file: 'text/plain',
})

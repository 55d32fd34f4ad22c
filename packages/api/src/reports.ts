import { endpoint } from './endpoint.ts'
import { z } from 'zod'

/** A form in which reports are written; its id is the ending of the files. */
export const reportFormatView = z.strictObject({ form: z.string(), title: z.string(), what: z.string() })
export type ReportFormatView = z.infer<typeof reportFormatView>

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
  file: 'application/octet-stream',
})

/** The HTML report for reading in place. */
export const previewReport = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/preview',
  access: 'read',
  summary: 'The HTML report for reading in place',
  query: z.object({ theme: z.enum(['light', 'dark']).default('light') }),
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

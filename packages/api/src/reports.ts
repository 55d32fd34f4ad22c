import { AUDIENCE_IDS, SECTION_IDS, type Audience, type SectionId } from '@jurybox/core/report'
import { endpoint } from './endpoint.ts'
import { lineOf } from './text.ts'
import { oneFile } from './upload.ts'
import { z } from 'zod'

/** A form in which reports are written; its id is the ending of the files. */
export const reportFormatView = z.strictObject({ form: z.string(), title: z.string(), what: z.string() })
export type ReportFormatView = z.infer<typeof reportFormatView>

const sections = z
  .array(z.enum(SECTION_IDS as readonly [SectionId, ...SectionId[]]))
  .refine((all) => new Set(all).size === all.length, 'a section stands in a report once')

/** For whom a report is made, what it consists of, and what stands on its first page. Empty: not said. */
export const reportChoice = z.object({
  audience: z.enum(AUDIENCE_IDS as readonly [Audience, ...Audience[]]).default('technical'),
  /** In their order, parted by commas in an address; none: those of the audience. */
  sections: z
    .preprocess((all) => (typeof all === 'string' ? all.split(',').filter((one) => one !== '') : all), sections)
    .default([]),
  title: z.string().max(160).default(''),
  auditor: z.string().max(160).default(''),
  confidentiality: z.string().max(160).default(''),
  /** What it is limited to. */
  device: z.string().max(160).default(''),
  site: z.string().max(160).default(''),
  topic: z.string().max(160).default(''),
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

export const savedReportView = z.strictObject({
  id: z.number(),
  title: z.string(),
  format: z.string(),
  choice: reportChoice,
  /** Made after each audit of whole benchmarks on all devices. */
  afterAudit: z.boolean(),
})
export type SavedReportView = z.infer<typeof savedReportView>

export const madeReportView = z.strictObject({
  id: z.number(),
  title: z.string(),
  format: z.string(),
  audit: z.number(),
  size: z.number(),
  madeAt: z.string(),
})
export type MadeReportView = z.infer<typeof madeReportView>

/** Reports as people put them together, and those that were made after audits, the newest first. */
export const listReports = endpoint({
  method: 'get',
  path: '/engagements/:engagement/reports',
  access: 'read',
  summary: 'Saved reports, and those that were made after audits, the newest first',
  response: z.strictObject({
    saved: z.array(savedReportView),
    made: z.array(madeReportView),
    /** Whether a picture of the client stands on reports. */
    hasLogo: z.boolean(),
  }),
})

/** Saves what a report consists of under a title; the same title is overwritten. */
export const saveReport = endpoint({
  method: 'put',
  path: '/engagements/:engagement/reports',
  access: 'run',
  summary: 'Saves what a report consists of under a title; the same title is overwritten',
  body: z.strictObject({
    title: lineOf(160),
    format: z.string().min(1).max(20),
    choice: reportChoice,
    afterAudit: z.boolean().default(false),
  }),
  response: savedReportView,
})

/** Deletes a saved report; what was made of it stays. */
export const deleteReport = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/reports/:report',
  access: 'run',
  summary: 'Deletes a saved report; what was made of it stays',
})

/** A report that was made after an audit, as it was made. */
export const downloadMadeReport = endpoint({
  method: 'get',
  path: '/engagements/:engagement/made-reports/:report',
  access: 'read',
  summary: 'A report that was made after an audit, as it was made',
  file: 'application/octet-stream',
})

/** Most bytes of a picture of a client. */
export const LOGO_BYTES = 256 * 1024

/** Sets the picture of the client that stands on reports: PNG or JPEG. */
export const setLogo = endpoint({
  method: 'post',
  path: '/engagements/:engagement/logo',
  access: 'manage',
  summary: 'Sets the picture of the client that stands on reports: PNG or JPEG, at most 256 KiB',
  upload: true,
  body: oneFile,
})

/** Removes the picture of the client. */
export const removeLogo = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/logo',
  access: 'manage',
  summary: 'Removes the picture of the client from reports',
})

import type { ReportChoice } from '@jurybox/api/reports'
import { EntitySchema } from 'typeorm'
import { flag, id, int, json, text, time } from '../db/columns.ts'

/** A report as somebody put it together, to be made again. */
export interface SavedReport {
  id: number
  engagementId: number
  title: string
  choice: ReportChoice
  format: string
  /** Made after each audit of all devices. */
  afterAudit: boolean
  createdBy: number
  createdAt: Date
}
export const SavedReports = new EntitySchema<SavedReport>({
  name: 'saved_reports',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    choice: json('choice'),
    format: text('format'),
    afterAudit: flag('after_audit'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

/** A report that was made after an audit; its file is kept sealed among the contents. */
export interface MadeReport {
  id: number
  engagementId: number
  auditId: number
  title: string
  format: string
  sha256: string
  size: number
  madeAt: Date
}
export const MadeReports = new EntitySchema<MadeReport>({
  name: 'made_reports',
  columns: {
    id,
    engagementId: int('engagement_id'),
    auditId: int('audit_id'),
    title: text('title'),
    format: text('format'),
    sha256: text('sha256'),
    size: int('size'),
    madeAt: time('made_at'),
  },
})

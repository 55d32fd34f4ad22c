import { EntitySchema } from 'typeorm'
import { int, key, text, time } from '../db/columns.ts'

/** What people say of a finding: it stays while the verdict objects, from audit to audit. */
export interface FindingRow {
  engagementId: number
  benchmark: string
  rule: string
  device: string
  comment: string
  ownerId: number | null
  /** `YYYY-MM-DD`, the last day on which it is not overdue. */
  dueOn: string | null
  doneBy: number | null
  doneByName: string
  doneAt: Date | null
}
export const Findings = new EntitySchema<FindingRow>({
  name: 'findings',
  columns: {
    engagementId: key(int('engagement_id')),
    benchmark: key(text('benchmark')),
    rule: key(text('rule')),
    device: key(text('device')),
    comment: { type: 'text', name: 'comment' },
    ownerId: { ...int('owner_id'), nullable: true },
    dueOn: { ...text('due_on'), nullable: true },
    doneBy: { ...int('done_by'), nullable: true },
    doneByName: text('done_by_name'),
    doneAt: time('done_at', true),
  },
})

import type { Approval, ApprovalException } from '@jurybox/core/estate'
import { EntitySchema } from 'typeorm'
import { id, int, json, text, time } from '../db/columns.ts'

/** A version that some devices may run, or a device that may run another one. */
export interface StoredApproval {
  id: number
  engagementId: number
  kind: 'version' | 'exception'
  body: Approval | ApprovalException
  createdBy: number
  createdByName: string
  createdAt: Date
}
export const Approvals = new EntitySchema<StoredApproval>({
  name: 'approvals',
  columns: {
    id,
    engagementId: int('engagement_id'),
    kind: text('kind'),
    body: json('body'),
    createdBy: int('created_by'),
    createdByName: text('created_by_name'),
    createdAt: time('created_at'),
  },
})

import { EntitySchema } from 'typeorm'
import { id, int, json, text, time } from '../db/columns.ts'

export type JobState = 'running' | 'done' | 'stopped' | 'failed' | 'interrupted'

export interface Job {
  id: number
  engagementId: number
  kind: string
  state: JobState
  done: number
  total: number
  message: string
  params: Record<string, unknown>
  createdBy: number
  createdAt: Date
  finishedAt: Date | null
}
export const Jobs = new EntitySchema<Job>({
  name: 'jobs',
  columns: {
    id,
    engagementId: int('engagement_id'),
    kind: text('kind'),
    state: text('state'),
    done: int('done'),
    total: int('total'),
    message: { type: 'text', name: 'message' },
    params: json('params'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
    finishedAt: time('finished_at', true),
  },
})

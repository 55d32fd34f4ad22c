import type { WindowState } from '@jurybox/api/windows'
import { EntitySchema } from 'typeorm'
import { id, int, json, text, time } from '../db/columns.ts'

/** A change window: what is to be changed when, collected before and after. */
export interface ChangeWindow {
  id: number
  engagementId: number
  title: string
  reason: string
  state: WindowState
  beginsAt: Date
  endsAt: Date
  /** Names of the devices that are to be changed. */
  devices: string[]
  /** Id of the set of checks; null: none. */
  checks: string | null
  beforeId: number | null
  afterId: number | null
  problem: string
  createdBy: number
  createdByName: string
  createdAt: Date
  /** When the change was said to be made: checks settle from here on. */
  changedAt: Date | null
}
export const ChangeWindows = new EntitySchema<ChangeWindow>({
  name: 'change_windows',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    reason: { type: 'text', name: 'reason' },
    state: text('state'),
    beginsAt: time('begins_at'),
    endsAt: time('ends_at'),
    devices: json('devices'),
    checks: { ...text('checks'), nullable: true },
    beforeId: { ...int('before_id'), nullable: true },
    afterId: { ...int('after_id'), nullable: true },
    problem: { type: 'text', name: 'problem' },
    createdBy: int('created_by'),
    createdByName: text('created_by_name'),
    createdAt: time('created_at'),
    changedAt: time('changed_at', true),
  },
})

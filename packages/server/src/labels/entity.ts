import type { LabelDefinition, LabelValue } from '@jurybox/core/estate'
import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

/** A label as an engagement defines it. */
export interface StoredLabel extends LabelDefinition {
  engagementId: number
  createdBy: number
  createdAt: Date
}
export const Labels = new EntitySchema<StoredLabel>({
  name: 'labels',
  columns: {
    engagementId: key(int('engagement_id')),
    name: key(text('name')),
    type: text('type'),
    choices: json('choices'),
    note: text('note'),
    sets: { ...text('sets'), nullable: true },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

/** A label of a device that became another one; the last of them says who set what it has now. */
export interface LabelEntry {
  id: number
  engagementId: number
  deviceId: number
  label: string
  value: LabelValue | null
  how: 'person' | 'list' | 'rule'
  setBy: number | null
  setByName: string
  at: Date
}
export const LabelChanges = new EntitySchema<LabelEntry>({
  name: 'label_changes',
  columns: {
    id,
    engagementId: int('engagement_id'),
    deviceId: int('device_id'),
    label: text('label'),
    value: json('value'),
    how: text('how'),
    setBy: { ...int('set_by'), nullable: true },
    setByName: text('set_by_name'),
    at: time('at'),
  },
})

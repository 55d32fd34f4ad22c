import type { DiscoveryPlan } from '@jurybox/api/discovery'
import { EntitySchema } from 'typeorm'
import { id, int, json, text, time } from '../db/columns.ts'

/** What is done again and again. */
export interface Schedule {
  id: number
  engagementId: number
  title: string
  does: 'collect' | 'audit' | 'both' | 'discover'
  cron: string
  /** A name of the IANA time zone database. */
  zone: string
  /** Null: all that can be reached, or those of the group. */
  devices: string[] | null
  /** Title of a group whose members they are each time; null where it names none. */
  group: string | null
  benchmarks: string[]
  /** Also begins where a device says this word in a syslog message; null where it does not. */
  word: string | null
  /** Looks first whether a configuration has changed, and goes on with those devices only. */
  looks: boolean
  /** Where a discovery begins; null where it is none. */
  discovery: DiscoveryPlan | null
  paused: boolean
  lastAt: Date | null
  lastSaid: string
  createdBy: number
  createdAt: Date
}
export const Schedules = new EntitySchema<Schedule>({
  name: 'schedules',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    does: text('does'),
    cron: text('cron'),
    zone: text('zone'),
    devices: { ...json('devices'), nullable: true },
    group: { ...text('group_title'), nullable: true },
    benchmarks: json('benchmarks'),
    word: { ...text('word'), nullable: true },
    looks: { type: 'boolean', name: 'looks' },
    discovery: { ...json('discovery'), nullable: true },
    paused: { type: 'boolean', name: 'paused' },
    lastAt: time('last_at', true),
    lastSaid: { type: 'text', name: 'last_said' },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

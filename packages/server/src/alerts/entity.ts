import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

/** A channel by which somebody is notified. */
export interface StoredAlert {
  id: number
  engagementId: number
  title: string
  channel: 'mail' | 'webhook' | 'ticket'
  /** Where it goes, without any secret. */
  settings: Record<string, unknown>
  /** Sealed; null where the channel needs none. */
  secret: Buffer | null
  kinds: string[]
  /** The least severity that is sent. */
  severity: 'info' | 'low' | 'medium' | 'high'
  /** When the digest is sent; null: events are sent at once. */
  cron: string | null
  zone: string
  paused: boolean
  createdBy: number
  createdAt: Date
}
export const Alerts = new EntitySchema<StoredAlert>({
  name: 'alerts',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    channel: text('channel'),
    settings: json('settings'),
    secret: { type: 'blob', nullable: true },
    kinds: json('kinds'),
    severity: text('severity'),
    cron: { ...text('cron'), nullable: true },
    zone: text('zone'),
    paused: { type: 'boolean', name: 'paused' },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

/** Something that happened, once. */
export interface StoredEvent {
  id: number
  engagementId: number
  /** Hash of the cause: the same event is never sent twice. */
  source: string
  kind: string
  at: Date
  device: string | null
  /** Interface, line, user or whatever part of the device it concerns. */
  subject: string | null
  severity: string
  title: string
  detail: string
}
export const AlertEvents = new EntitySchema<StoredEvent>({
  name: 'alert_events',
  columns: {
    id,
    engagementId: int('engagement_id'),
    source: text('source'),
    kind: text('kind'),
    at: time('at'),
    device: { ...text('device'), nullable: true },
    subject: { ...text('subject'), nullable: true },
    severity: text('severity'),
    title: { type: 'text', name: 'title' },
    detail: { type: 'mediumtext', name: 'detail' },
  },
})

/** One message and its delivery state. */
export interface Delivery {
  id: number
  alertId: number
  /** `unsure`: the server stopped while it was on its way; it is not sent again. */
  state: 'waiting' | 'sending' | 'sent' | 'failed' | 'unsure'
  attempts: number
  nextAt: Date
  said: string
  createdAt: Date
  sentAt: Date | null
  test: boolean
}
export const Deliveries = new EntitySchema<Delivery>({
  name: 'alert_deliveries',
  columns: {
    id,
    alertId: int('alert_id'),
    state: text('state'),
    attempts: int('attempts'),
    nextAt: time('next_at'),
    said: { type: 'text', name: 'said' },
    createdAt: time('created_at'),
    sentAt: time('sent_at', true),
    test: { type: 'boolean', name: 'test' },
  },
})

/** Which alert reports which event in which delivery; null while it waits for its digest. */
export interface AlertedEvent {
  alertId: number
  eventId: number
  deliveryId: number | null
}
export const AlertedEvents = new EntitySchema<AlertedEvent>({
  name: 'alert_told',
  columns: {
    alertId: key(int('alert_id')),
    eventId: key(int('event_id')),
    deliveryId: { ...int('delivery_id'), nullable: true },
  },
})

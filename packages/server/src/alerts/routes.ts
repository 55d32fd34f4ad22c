import { z } from 'zod'
import { Alerts, Deliveries, type Delivery, type StoredAlert } from '../db/alert-entities.ts'
import { Problem, notFound } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import { lineOf } from '../http/text.ts'
import { cronOf, nextTimes, rhythmSchema, wordsFor } from '../schedules/when.ts'
import type { Services } from '../services.ts'
import { channelSchema } from './channels.ts'
import { KINDS } from './notification.ts'

/** Deliveries that are shown of each alert. */
const SHOWN = 5

function deliveryView({ id, state, attempts, nextAt, said, createdAt, sentAt, test }: Delivery) {
  return {
    id,
    state,
    attempts,
    said,
    test,
    createdAt: createdAt.toISOString(),
    sentAt: sentAt?.toISOString() ?? null,
    nextAt: state === 'waiting' && attempts > 0 ? nextAt.toISOString() : null,
  }
}

function viewOf(
  { id, title, channel, settings, secret, kinds, severity, cron, zone, paused }: StoredAlert,
  deliveries: readonly Delivery[],
) {
  return {
    id,
    title,
    channel,
    settings,
    hasSecret: secret !== null,
    kinds,
    severity,
    when: cron === null ? 'at once' : `together ${wordsFor(cron)}`,
    zone,
    paused,
    deliveries: deliveries.map(deliveryView),
  }
}

/** The newest first. */
async function lastOf(services: Services, { id }: StoredAlert): Promise<Delivery[]> {
  return services.database
    .getRepository(Deliveries)
    .find({ where: { alertId: id }, order: { id: 'DESC' }, take: SHOWN })
}

async function found(services: Services, id: number, engagementId: number): Promise<StoredAlert> {
  const alert = await services.database.getRepository(Alerts).findOneBy({ id, engagementId })
  if (!alert) throw notFound('alert')
  return alert
}

export const alertRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/alerts',
    access: 'read',
    summary: 'Who is told of what, with the last deliveries',
    handle: async ({ services, engagementId }) => {
      const alerts = await services.database
        .getRepository(Alerts)
        .find({ where: { engagementId }, order: { id: 'ASC' } })
      return Promise.all(alerts.map(async (alert) => viewOf(alert, await lastOf(services, alert))))
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/alerts',
    access: 'manage',
    summary: 'Tells somebody: by mail, by a signed call, or by a ticket',
    body: z.strictObject({
      title: lineOf(120),
      to: channelSchema,
      secret: z.string().min(1).max(500).optional(),
      kinds: z.array(z.enum(KINDS)).min(1),
      severity: z.enum(['info', 'low', 'medium', 'high']),
      digest: rhythmSchema.nullable().default(null),
      zone: z.string().min(1).max(64).default('UTC'),
    }),
    handle: async ({
      services,
      caller,
      engagementId,
      body: {
        title,
        to: { channel, ...settings },
        secret,
        kinds,
        severity,
        digest,
        zone,
      },
    }) => {
      if (channel === 'webhook' && (secret ?? '').length < 16)
        throw new Problem(
          422,
          'A call is signed with a key of 16 characters at least, which the other side knows as well.',
        )
      const cron = digest && cronOf(digest)
      try {
        if (cron !== null) nextTimes(cron, zone, new Date(), 1)
      } catch (error) {
        throw new Problem(422, error instanceof Error ? error.message : String(error))
      }
      const rows = services.database.getRepository(Alerts)
      const saved = await rows.save(
        rows.create({
          engagementId,
          title,
          channel,
          settings,
          secret: secret === undefined ? null : services.alerts.seal(engagementId, secret),
          kinds,
          severity,
          cron,
          zone,
          paused: false,
          createdBy: caller.user.id,
          createdAt: new Date(),
        }),
      )
      services.alerts.arm(saved)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'alert added',
        detail: { title, channel, kinds },
      })
      return viewOf(saved, [])
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/alerts/:alert/test',
    access: 'manage',
    summary: 'Sends a message that says that it is a test',
    handle: async ({ services, engagementId, params }) => {
      const alert = await found(services, idIn(params, 'alert'), engagementId)
      await services.alerts.test(alert)
      await services.alerts.settled()
      const [last] = await lastOf(services, alert)
      return last && deliveryView(last)
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/alerts/:alert',
    access: 'manage',
    summary: 'Pauses an alert, or lets it go on',
    body: z.strictObject({ paused: z.boolean() }),
    handle: async ({ services, caller, engagementId, params, body: { paused } }) => {
      const rows = services.database.getRepository(Alerts)
      const saved = await rows.save({ ...(await found(services, idIn(params, 'alert'), engagementId)), paused })
      services.alerts.arm(saved)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: paused ? 'alert paused' : 'alert goes on',
        detail: { title: saved.title },
      })
      return viewOf(saved, await lastOf(services, saved))
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/alerts/:alert',
    access: 'manage',
    summary: 'Takes an alert away, with the record of its deliveries',
    handle: async ({ services, caller, engagementId, params }) => {
      const alert = await found(services, idIn(params, 'alert'), engagementId)
      services.alerts.disarm(alert.id)
      await services.alerts.settled()
      await services.database.getRepository(Alerts).delete({ id: alert.id })
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'alert removed',
        detail: { title: alert.title },
      })
      return undefined
    },
  }),
]

import { addAlert, deleteAlert, listAlerts, pauseAlert, testAlert } from '@jurybox/api/alerts'
import { Alerts, Deliveries, type Delivery, type StoredAlert } from './entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { cronOf, nextTimes, wordsFor } from '../schedules/when.ts'
import type { Services } from '../services.ts'

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
  route(listAlerts, async ({ services, engagementId }) => {
    const alerts = await services.database.getRepository(Alerts).find({ where: { engagementId }, order: { id: 'ASC' } })
    return Promise.all(alerts.map(async (alert) => viewOf(alert, await lastOf(services, alert))))
  }),
  route(
    addAlert,
    async ({
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
        throw new Problem(422, 'A webhook needs a signing key of at least 16 characters, shared with the receiver.')
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
  ),
  route(testAlert, async ({ services, engagementId, params }) => {
    const alert = await found(services, params.alert, engagementId)
    await services.alerts.test(alert)
    await services.alerts.settled()
    const [last] = await lastOf(services, alert)
    return last && deliveryView(last)
  }),
  route(pauseAlert, async ({ services, caller, engagementId, params, body: { paused } }) => {
    const rows = services.database.getRepository(Alerts)
    const saved = await rows.save({ ...(await found(services, params.alert, engagementId)), paused })
    services.alerts.arm(saved)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: paused ? 'alert paused' : 'alert resumed',
      detail: { title: saved.title },
    })
    return viewOf(saved, await lastOf(services, saved))
  }),
  route(deleteAlert, async ({ services, caller, engagementId, params }) => {
    const alert = await found(services, params.alert, engagementId)
    services.alerts.disarm(alert.id)
    await services.alerts.settled()
    await services.database.getRepository(Alerts).delete({ id: alert.id })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'alert deleted',
      detail: { title: alert.title },
    })
    return undefined
  }),
]

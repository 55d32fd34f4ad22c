import type { ActivityFilter } from '@jurybox/api/activity'
import { exportInstallationActivity, listInstallationActivity } from '@jurybox/api/accounts'
import { exportActivity, listActivity, verifyActivity } from '@jurybox/api/engagements'
import { csvOf } from '@jurybox/core/syntax'
import type { Response } from 'express'
import { MoreThanOrEqual } from 'typeorm'
import { Activities, type ActivityEntry } from './entity.ts'
import type { User } from '../auth/entity.ts'
import { download } from '../http/download.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { activityWords } from './words.ts'

type Detail = Readonly<Record<string, unknown>>

function viewOf({ id, at, action, detail, hash, user }: ActivityEntry & { user?: User | null }) {
  const parsed = JSON.parse(detail) as Detail
  return {
    id,
    at: at.toISOString(),
    user: user?.fullName ?? null,
    action,
    words: activityWords(action, parsed),
    detail: parsed as unknown,
    hash,
  }
}

async function pageOf(
  { activity }: Services,
  engagementId: number | null,
  query: ActivityFilter & { limit: number; offset: number },
) {
  const [rows, total] = await activity
    .asked(engagementId, query)
    .offset(query.offset)
    .limit(query.limit)
    .getManyAndCount()
  return { firstBreak: await activity.firstBreak(), total, entries: rows.map(viewOf) }
}

async function sendCsv(
  { activity }: Services,
  engagementId: number | null,
  query: ActivityFilter,
  response: Response,
): Promise<undefined> {
  const rows = (await activity.asked(engagementId, query).getMany()).map(viewOf)
  download(
    response,
    'audit-log.csv',
    'text/csv; charset=utf-8',
    csvOf(
      ['id', 'at', 'user', 'action', 'words', 'detail', 'hash'],
      rows.map(({ id, at, user, action, words, detail, hash }) => [
        id,
        at,
        user ?? '',
        action,
        words,
        JSON.stringify(detail),
        hash,
      ]),
    ),
  )
  return undefined
}

/** The audit log: of an engagement, and of the installation. */
export const activityRoutes = [
  route(listActivity, ({ services, engagementId, query }) => pageOf(services, engagementId, query)),
  route(exportActivity, ({ services, engagementId, query, response }) =>
    sendCsv(services, engagementId, query, response),
  ),
  route(verifyActivity, async ({ services, engagementId, query: { from } }) => {
    const { database, activity, evidence } = services
    const entries = database.getRepository(Activities)
    const [last] = await entries.find({ order: { id: 'DESC' }, take: 1, select: { id: true, hash: true } })
    return {
      entries: await entries.countBy({ id: MoreThanOrEqual(from) }),
      firstBreak: await activity.firstBreak(from),
      head: last ? { entry: last.id, hash: last.hash } : null,
      signed: await evidence.logHeads.checked(engagementId),
    }
  }),
  route(listInstallationActivity, ({ services, query }) => pageOf(services, null, query)),
  route(exportInstallationActivity, ({ services, query, response }) => sendCsv(services, null, query, response)),
]

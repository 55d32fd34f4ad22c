import { In, type EntityTarget } from 'typeorm'
import { z } from 'zod'
import { signInName } from '../auth/routes.ts'
import { ROLES } from '../auth/roles.ts'
import { Alerts } from '../db/alert-entities.ts'
import {
  Activities,
  Audits,
  Credentials,
  Devices,
  Engagements,
  Memberships,
  DeviceConnections,
  Schedules,
  Snapshots,
  Users,
} from '../db/entities.ts'
import { Problem } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { lineOf, lineOrNone } from '../http/text.ts'

/** @throws Problem where there is no such member, or where it is the only lead and would no longer be one */
async function requireMember(
  { database }: Services,
  engagementId: number,
  userId: number,
  losesLead: boolean,
): Promise<void> {
  const memberships = database.getRepository(Memberships)
  const membership = await memberships.findOneBy({ engagementId, userId })
  if (!membership) throw new Problem(404, 'There is no such member in this engagement.')
  if (!losesLead || membership.role !== 'lead') return
  const leads = await memberships.countBy({ engagementId, role: 'lead' })
  if (leads === 1) throw new Problem(409, 'An engagement keeps at least one lead: name another one first.')
}

export const engagementRoutes = [
  route({
    method: 'post',
    path: '/engagements',
    access: 'signed-in',
    summary: 'Opens an engagement; whoever opens it leads it',
    body: z.strictObject({ title: lineOf(160), client: lineOrNone(160) }),
    handle: async ({ services, caller, body }) => {
      if (!caller.user.isAdmin && !caller.user.mayOpen)
        throw new Problem(403, 'Your account may not open engagements. Ask an administrator of this installation.')
      return { id: (await services.createEngagement(body, caller.user)).id }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement',
    access: 'read',
    summary: 'The engagement, the caller’s role, and what waits at each stage',
    handle: async ({ services, engagementId, role }) => {
      const engagement = await services.database.getRepository(Engagements).findOneByOrFail({ id: engagementId })
      const audits = await services.audits.list(engagementId)
      const latest = audits.findLast(({ scope }) => scope === null) ?? audits.at(-1)
      return {
        id: engagement.id,
        title: engagement.title,
        client: engagement.client,
        role,
        waiting: {
          estate: await services.database.getRepository(Devices).countBy({ engagementId }),
          snapshots: (await services.snapshots.list(engagementId)).length,
          benchmarks: services.benchmarks.all.length,
          verdicts: latest?.counts
            ? (latest.counts['fail'] ?? 0) + (latest.counts['unknown'] ?? 0) + (latest.counts['error'] ?? 0)
            : 0,
          reports: audits.length,
        },
      }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/set-up',
    access: 'read',
    summary: 'How far an engagement has been set up, and where the key is kept',
    handle: async ({ services, engagementId }) => {
      const counts = await Promise.all(
        [Credentials, DeviceConnections, Schedules, Alerts, Snapshots, Audits].map(
          (table: EntityTarget<{ engagementId: number }>) =>
            services.database.getRepository(table).countBy({ engagementId }),
        ),
      )
      const [credentials = 0, devices = 0, schedules = 0, alerts = 0, snapshots = 0, audits = 0] = counts
      return { key: services.keyChange.source, credentials, devices, schedules, alerts, snapshots, audits }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/chronicle',
    access: 'read',
    summary: 'Everything on the time line: snapshots, and the audits that judged them',
    handle: async ({ services, engagementId }) => {
      const snapshots = await services.snapshots.list(engagementId)
      const audits = await services.database
        .getRepository(Audits)
        .find({ where: { engagementId }, order: { id: 'ASC' } })
      return {
        snapshots: snapshots.map((snapshot) => ({
          id: snapshot.id,
          title: snapshot.title,
          takenAt: snapshot.takenAt.toISOString(),
          createdAt: snapshot.createdAt.toISOString(),
          refused: snapshot.refused.length,
        })),
        audits: audits.map((audit) => ({
          id: audit.id,
          snapshotId: audit.snapshotId,
          finishedAt: audit.finishedAt?.toISOString() ?? null,
          counts: audit.counts,
          choices: audit.choices.map(({ benchmark, profile }) => ({ benchmark, profile })),
          scope: audit.scope,
          computed: audit.computed,
          remembered: audit.remembered,
        })),
      }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/members',
    access: 'read',
    summary: 'Who takes part, in which role',
    handle: async ({ services, engagementId }) => {
      const memberships = await services.database.getRepository(Memberships).findBy({ engagementId })
      const users = await services.database
        .getRepository(Users)
        .findBy({ id: In(memberships.map(({ userId }) => userId)) })
      return memberships.map(({ userId, role }) => {
        const user = users.find(({ id }) => id === userId)
        return { id: userId, name: user?.name ?? '', fullName: user?.fullName ?? '', role }
      })
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/members',
    access: 'manage',
    summary: 'Makes an account a member of the engagement',
    body: z.strictObject({ name: signInName, role: z.enum(ROLES) }),
    handle: async ({ services, caller, engagementId, body }) => {
      const user = await services.database.getRepository(Users).findOneBy({ name: body.name, disabled: false })
      if (!user)
        throw new Problem(
          404,
          `There is no account “${body.name}”. An administrator of this installation creates accounts.`,
        )
      if (await services.database.getRepository(Memberships).existsBy({ engagementId, userId: user.id }))
        throw new Problem(409, `${user.fullName} is a member already.`)
      await services.database.getRepository(Memberships).insert({ engagementId, userId: user.id, role: body.role })
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'member added',
        detail: { name: user.name, role: body.role },
      })
      return { id: user.id }
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/members/:user',
    access: 'manage',
    summary: 'Changes the role of a member',
    body: z.strictObject({ role: z.enum(ROLES) }),
    handle: async ({ services, caller, engagementId, params, body }) => {
      const userId = idIn(params, 'user')
      const memberships = services.database.getRepository(Memberships)
      await requireMember(services, engagementId, userId, body.role !== 'lead')
      await memberships.update({ engagementId, userId }, { role: body.role })
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'role changed',
        detail: { userId, role: body.role },
      })
      return undefined
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/members/:user',
    access: 'manage',
    summary: 'Removes a member from the engagement',
    handle: async ({ services, caller, engagementId, params }) => {
      const userId = idIn(params, 'user')
      const memberships = services.database.getRepository(Memberships)
      await requireMember(services, engagementId, userId, true)
      await memberships.delete({ engagementId, userId })
      services.sessions.changed(userId)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'member removed',
        detail: { userId },
      })
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/activity',
    access: 'manage',
    summary: 'Who did what, newest first, and whether the chain of entries is whole',
    query: z.object({
      limit: z.coerce.number().int().min(1).max(500).default(100),
      offset: z.coerce.number().int().min(0).default(0),
    }),
    handle: async ({ services, engagementId, query }) => {
      const entries = await services.activity.of(engagementId, query.limit, query.offset)
      const users = await services.database
        .getRepository(Users)
        .findBy({ id: In(entries.flatMap(({ userId }) => userId ?? [])) })
      return {
        firstBreak: await services.activity.firstBreak(),
        total: await services.database.getRepository(Activities).countBy({ engagementId }),
        entries: entries.map((entry) => ({
          id: entry.id,
          at: entry.at.toISOString(),
          user: users.find(({ id }) => id === entry.userId)?.fullName ?? null,
          action: entry.action,
          detail: JSON.parse(entry.detail) as unknown,
          hash: entry.hash,
        })),
      }
    },
  }),
]

import {
  addMember,
  changeRole,
  getChronicle,
  getEngagement,
  getSetUp,
  listMembers,
  openEngagement,
  removeMember,
} from '@jurybox/api/engagements'
import { In, type EntityTarget } from 'typeorm'
import { Alerts } from '../alerts/entity.ts'
import { Audits } from '../audits/entity.ts'
import { Credentials, DeviceConnections } from '../collect/entity.ts'
import { Devices } from '../estate/entity.ts'
import { Engagements, Memberships } from './entity.ts'
import { Schedules } from '../schedules/entity.ts'
import { Snapshots } from '../snapshots/entity.ts'
import { Users } from '../auth/entity.ts'
import { frameworkOf, isWhole } from '../audits/service.ts'
import { titledChoices } from '../audits/titles.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

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
  if (leads === 1) throw new Problem(409, 'At least one lead is required. Make another member a lead first.')
}

async function nameOf({ database }: Services, userId: number): Promise<string> {
  return (await database.getRepository(Users).findOneBy({ id: userId }))?.name ?? ''
}

export const engagementRoutes = [
  route(openEngagement, async ({ services, caller, body }) => {
    if (!caller.user.isAdmin && !caller.user.mayOpen)
      throw new Problem(403, 'Your account may not open engagements. Ask an administrator of this installation.')
    return { id: (await services.createEngagement(body, caller.user)).id }
  }),
  route(getEngagement, async ({ services, engagementId, role }) => {
    const engagement = await services.database.getRepository(Engagements).findOneByOrFail({ id: engagementId })
    const audits = await services.audits.list(engagementId)
    const latest = audits.findLast(isWhole) ?? audits.at(-1)
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
  }),
  route(getSetUp, async ({ services, engagementId }) => {
    const counts = await Promise.all(
      [Credentials, DeviceConnections, Schedules, Alerts, Snapshots, Audits].map(
        (table: EntityTarget<{ engagementId: number }>) =>
          services.database.getRepository(table).countBy({ engagementId }),
      ),
    )
    const [credentials = 0, devices = 0, schedules = 0, alerts = 0, snapshots = 0, audits = 0] = counts
    return { key: services.keyChange.source, credentials, devices, schedules, alerts, snapshots, audits }
  }),
  route(getChronicle, async ({ services, engagementId }) => {
    const snapshots = await services.snapshots.list(engagementId)
    const tags = await services.archive.tagsOf(engagementId)
    const audits = await services.database.getRepository(Audits).find({ where: { engagementId }, order: { id: 'ASC' } })
    return {
      snapshots: snapshots.map((snapshot) => ({
        id: snapshot.id,
        title: snapshot.title,
        takenAt: snapshot.takenAt.toISOString(),
        createdAt: snapshot.createdAt.toISOString(),
        refused: snapshot.refused.length,
        tags: tags.get(snapshot.id) ?? [],
      })),
      audits: await Promise.all(
        audits.map(async (audit) => ({
          id: audit.id,
          snapshotId: audit.snapshotId,
          finishedAt: audit.finishedAt?.toISOString() ?? null,
          counts: audit.counts,
          choices: (await titledChoices(services, audit.choices)).map(
            ({ benchmark, title, profile, profileTitle }) => ({ benchmark, title, profile, profileTitle }),
          ),
          scope: audit.scope,
          framework: frameworkOf(audit),
          computed: audit.computed,
          remembered: audit.remembered,
        })),
      ),
    }
  }),
  route(listMembers, async ({ services, engagementId }) => {
    const memberships = await services.database.getRepository(Memberships).findBy({ engagementId })
    const users = await services.database
      .getRepository(Users)
      .findBy({ id: In(memberships.map(({ userId }) => userId)) })
    return memberships.map(({ userId, role }) => {
      const user = users.find(({ id }) => id === userId)
      return { id: userId, name: user?.name ?? '', fullName: user?.fullName ?? '', role }
    })
  }),
  route(addMember, async ({ services, caller, engagementId, body }) => {
    const user = await services.database.getRepository(Users).findOneBy({ name: body.name, disabled: false })
    if (!user) throw new Problem(404, `There is no account “${body.name}”. Ask an administrator to create it.`)
    if (await services.database.getRepository(Memberships).existsBy({ engagementId, userId: user.id }))
      throw new Problem(409, `${user.fullName} is already a member.`)
    await services.database.getRepository(Memberships).insert({ engagementId, userId: user.id, role: body.role })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'member added',
      detail: { name: user.name, role: body.role },
    })
    return { id: user.id }
  }),
  route(changeRole, async ({ services, caller, engagementId, params, body }) => {
    const userId = params.user
    const memberships = services.database.getRepository(Memberships)
    await requireMember(services, engagementId, userId, body.role !== 'lead')
    await memberships.update({ engagementId, userId }, { role: body.role })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'role changed',
      detail: { userId, name: await nameOf(services, userId), role: body.role },
    })
    return undefined
  }),
  route(removeMember, async ({ services, caller, engagementId, params }) => {
    const userId = params.user
    const memberships = services.database.getRepository(Memberships)
    await requireMember(services, engagementId, userId, true)
    await memberships.delete({ engagementId, userId })
    services.sessions.changed(userId)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'member removed',
      detail: { userId, name: await nameOf(services, userId) },
    })
    return undefined
  }),
]

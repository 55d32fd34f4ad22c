import { EXPECTATIONS, type Waiver } from '@jurybox/core/audit'
import { IsNull, type DataSource } from 'typeorm'
import { z } from 'zod'
import { Devices, Waivers, type StoredWaiver } from '../db/entities.ts'
import { Problem, notFound } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import { lineOf } from '../http/text.ts'

function viewOf({ id, benchmark, rule, device, subject, reason, owner, expires, createdAt, endedAt }: StoredWaiver) {
  return {
    id,
    benchmark,
    rule,
    device,
    subject,
    reason,
    owner,
    expires: expires.toISOString(),
    createdAt: createdAt.toISOString(),
    endedAt: endedAt?.toISOString() ?? null,
  }
}

/** The waivers of an engagement that were not withdrawn. */
export async function waiversIn(database: DataSource, engagementId: number): Promise<Waiver[]> {
  const rows = await database.getRepository(Waivers).findBy({ engagementId, endedAt: IsNull() })
  return rows.map(({ benchmark, rule, device, subject, reason, owner, expires }) => ({
    benchmark,
    rule,
    device,
    subject,
    reason,
    owner,
    expires: expires.toISOString(),
  }))
}

export const waiverRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/waivers',
    access: 'read',
    summary: 'The waivers of an engagement, those taken back among them',
    handle: async ({ services, engagementId }) =>
      (await services.database.getRepository(Waivers).find({ where: { engagementId }, order: { id: 'DESC' } })).map(
        viewOf,
      ),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/waivers',
    access: 'waive',
    summary:
      'Waives a rule on some devices, or on all; says what came of each. Of benchmark “expectations” the rule is an expectation of traffic, which is of no device',
    body: z.strictObject({
      benchmark: z.string().max(64),
      rule: z.string().max(64),
      /** Null: every device. */
      devices: z.array(z.string().max(160)).min(1).max(5000).nullable(),
      subject: z.string().max(255).nullable().default(null),
      reason: z.string().trim().min(3).max(4000),
      owner: lineOf(160),
      expires: z.iso.datetime({ offset: true }),
    }),
    handle: async ({ services, caller, engagementId, body }) => {
      const { benchmark, rule, devices, subject, reason, owner } = body
      const expires = new Date(body.expires)
      if (expires.getTime() <= Date.now()) throw new Problem(422, 'A waiver has to expire in the future.')
      if (benchmark === EXPECTATIONS) {
        if (devices !== null || subject !== null)
          throw new Problem(422, 'An expectation of traffic is waived as a whole, not of a device.')
        if (!(await services.traffic.stated(engagementId)).some(({ id }) => id === rule))
          throw new Problem(422, `There is no expectation "${rule}".`)
      } else if (
        !(await services.benchmarks.inEngagement(engagementId, benchmark)).source.rules.some(({ id }) => id === rule)
      )
        throw new Problem(422, `There is no rule "${rule}" in "${benchmark}".`)
      const known = new Set(
        (await services.database.getRepository(Devices).findBy({ engagementId })).map(({ name }) => name),
      )
      const waivers = services.database.getRepository(Waivers)
      const standing = await waivers.findBy({ engagementId, benchmark, rule, endedAt: IsNull() })
      const came: { device: string | null; what: string }[] = []
      for (const device of devices ?? [null]) {
        if (device !== null && !known.has(device)) came.push({ device, what: 'there is no such device' })
        else if (standing.some((one) => one.device === device && one.subject === subject && one.expires >= expires))
          came.push({ device, what: 'waived at least as long already' })
        else {
          await waivers.insert({
            engagementId,
            benchmark,
            rule,
            device,
            subject,
            reason,
            owner,
            expires,
            createdBy: caller.user.id,
            createdAt: new Date(),
            endedAt: null,
          })
          came.push({ device, what: 'waived' })
        }
      }
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'waived',
        detail: {
          benchmark,
          rule,
          subject,
          reason,
          owner,
          expires: body.expires,
          devices: came.filter(({ what }) => what === 'waived').map(({ device }) => device),
        },
      })
      return { came }
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/waivers/:waiver',
    access: 'waive',
    summary: 'Takes a waiver back; it stays on record',
    handle: async ({ services, caller, engagementId, params }) => {
      const waivers = services.database.getRepository(Waivers)
      const waiver = await waivers.findOneBy({ id: idIn(params, 'waiver'), engagementId, endedAt: IsNull() })
      if (!waiver) throw notFound('waiver')
      await waivers.update({ id: waiver.id }, { endedAt: new Date() })
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'waiver taken back',
        detail: { benchmark: waiver.benchmark, rule: waiver.rule, device: waiver.device, subject: waiver.subject },
      })
      return undefined
    },
  }),
]

import { approvalSchema, exceptionSchema, imagesFor, type Approval, type ApprovalException } from '@jurybox/core/estate'
import { z } from 'zod'
import { Approvals, type StoredApproval } from '../db/estate-entities.ts'
import type { User } from '../db/entities.ts'
import { Problem, notFound } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import type { Services } from '../services.ts'

async function saved(
  services: Services,
  engagementId: number,
  user: User,
  kind: StoredApproval['kind'],
  body: Approval | ApprovalException,
): Promise<{ id: number }> {
  const rows = services.database.getRepository(Approvals)
  const { id } = await rows.save(
    rows.create({ engagementId, kind, body, createdBy: user.id, createdByName: user.fullName, createdAt: new Date() }),
  )
  services.estate.changed(engagementId)
  await services.activity.add({
    userId: user.id,
    engagementId,
    action: kind === 'version' ? 'version approved' : 'exception made',
    detail: { ...body },
  })
  return { id }
}

export const approvalRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/approvals',
    access: 'read',
    summary: 'Approved versions with their images, the exceptions, and where each device stands',
    query: z.object({ snapshot: z.coerce.number().int().positive().optional() }),
    handle: async ({ services, engagementId, query }) => {
      const rows = await services.database
        .getRepository(Approvals)
        .find({ where: { engagementId }, order: { id: 'ASC' } })
      const view = ({ id, body, createdByName, createdAt }: StoredApproval) => ({
        id,
        ...body,
        setBy: createdByName,
        setAt: createdAt.toISOString(),
      })
      const versions = rows.filter(({ kind }) => kind === 'version')
      const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
      const [standing, running] = snapshot
        ? [await services.estate.approvals(snapshot), await services.estate.running(snapshot)]
        : [new Map(), new Map()]
      return {
        versions: versions.map(view),
        exceptions: rows.filter(({ kind }) => kind === 'exception').map(view),
        devices: [...running.values()].map((device) => ({
          device: device.name,
          os: device.os,
          model: device.model,
          version: device.version,
          ...standing.get(device.name),
          images: imagesFor(
            device,
            versions.map(({ body }) => body as Approval),
          ).images.map(({ image, version }) => ({ image, version })),
        })),
      }
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/approvals',
    access: 'describe',
    summary: 'Approves a version for models, for what a label says, or for one device',
    body: approvalSchema,
    handle: async ({ services, caller, engagementId, body }) =>
      saved(services, engagementId, caller.user, 'version', body),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/approval-exceptions',
    access: 'describe',
    summary: 'Lets a device run another version, for a reason and a time',
    body: exceptionSchema,
    handle: async ({ services, caller, engagementId, body }) => {
      if (body.until < new Date().toISOString().slice(0, 10))
        throw new Problem(422, 'An exception has to end in the future.')
      return saved(services, engagementId, caller.user, 'exception', body)
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/approvals/:approval',
    access: 'describe',
    summary: 'Takes an approved version or an exception away',
    handle: async ({ services, caller, engagementId, params }) => {
      const rows = services.database.getRepository(Approvals)
      const row = await rows.findOneBy({ id: idIn(params, 'approval'), engagementId })
      if (!row) throw notFound('approval')
      await rows.delete({ id: row.id })
      services.estate.changed(engagementId)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: row.kind === 'version' ? 'version no longer approved' : 'exception ended',
        detail: { ...row.body },
      })
      return undefined
    },
  }),
]

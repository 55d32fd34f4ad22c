import { addApprovalException, approveVersion, deleteApproval, listApprovals } from '@jurybox/api/approvals'
import {
  imagesFor,
  type Approval,
  type ApprovalAnswer,
  type ApprovalException,
  type RunningDevice,
} from '@jurybox/core/estate'
import { Approvals, type StoredApproval } from './entity.ts'
import type { User } from '../auth/entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
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
    action: kind === 'version' ? 'version approved' : 'approval exception added',
    detail: { ...body },
  })
  return { id }
}

/** A device of which nothing is known yet. */
const NO_ANSWER: ApprovalAnswer = { standing: 'none', why: '', versions: [] }

/** Who set it, and when. */
function signatureOf({ id, createdByName, createdAt }: StoredApproval): { id: number; setBy: string; setAt: string } {
  return { id, setBy: createdByName, setAt: createdAt.toISOString() }
}

export const approvalRoutes = [
  route(listApprovals, async ({ services, engagementId, query }) => {
    const rows = await services.database
      .getRepository(Approvals)
      .find({ where: { engagementId }, order: { id: 'ASC' } })
    const versions = rows.filter(({ kind }) => kind === 'version')
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    const [standing, running] = snapshot
      ? [await services.estate.approvals(snapshot), await services.estate.running(snapshot)]
      : [new Map<string, ApprovalAnswer>(), new Map<string, RunningDevice & { readonly os: string }>()]
    return {
      versions: versions.map((row) => ({ ...(row.body as Approval), ...signatureOf(row) })),
      exceptions: rows
        .filter(({ kind }) => kind === 'exception')
        .map((row) => ({ ...(row.body as ApprovalException), ...signatureOf(row) })),
      devices: [...running.values()].map((device) => ({
        device: device.name,
        os: device.os,
        model: device.model,
        version: device.version,
        ...(standing.get(device.name) ?? NO_ANSWER),
        images: imagesFor(
          device,
          versions.map(({ body }) => body as Approval),
        ).images.map(({ image, version }) => ({ image, version })),
      })),
    }
  }),
  route(approveVersion, async ({ services, caller, engagementId, body }) =>
    saved(services, engagementId, caller.user, 'version', body),
  ),
  route(addApprovalException, async ({ services, caller, engagementId, body }) => {
    if (body.until < new Date().toISOString().slice(0, 10))
      throw new Problem(422, 'The end date must be in the future.')
    return saved(services, engagementId, caller.user, 'exception', body)
  }),
  route(deleteApproval, async ({ services, caller, engagementId, params }) => {
    const rows = services.database.getRepository(Approvals)
    const row = await rows.findOneBy({ id: params.approval, engagementId })
    if (!row) throw notFound('approval')
    await rows.delete({ id: row.id })
    services.estate.changed(engagementId)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: row.kind === 'version' ? 'version approval deleted' : 'approval exception deleted',
      detail: { ...row.body },
    })
    return undefined
  }),
]

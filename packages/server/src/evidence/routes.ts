import {
  countersignPack,
  downloadPack,
  downloadRealPack,
  listPacks,
  makePack,
  makeRealPack,
} from '@jurybox/api/evidence'
import { In } from 'typeorm'
import type { User } from '../auth/entity.ts'
import { Problem } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { route } from '../http/route.ts'
import { viewOf } from '../jobs/board.ts'
import type { Services } from '../services.ts'
import { Snapshots } from '../snapshots/entity.ts'
import type { EvidencePack } from './entity.ts'
import { fingerprintOf } from './keys.ts'

async function begin(services: Services, engagementId: number, auditId: number, masked: boolean, user: User) {
  const audit = await services.audits.find(auditId, engagementId)
  return viewOf(await services.evidence.start(audit, masked, user))
}

/** Sends a pack of one of the two kinds. */
async function send(
  services: Services,
  { id, engagementId, user, masked }: { id: number; engagementId: number; user: User; masked: boolean },
  response: Parameters<typeof download>[0],
): Promise<void> {
  const pack = await services.evidence.find(id, engagementId)
  if (pack.masked !== masked)
    throw new Problem(422, masked ? 'This pack holds secrets.' : 'The secrets in this pack are masked.')
  const bytes = await services.evidence.bytes(pack)
  await services.activity.add({
    userId: user.id,
    engagementId,
    action: 'evidence downloaded',
    detail: { pack: pack.id, audit: pack.auditId, masked },
  })
  download(response, `evidence-${pack.id}.zip`, 'application/zip', Buffer.from(bytes))
}

export const evidenceRoutes = [
  route(listPacks, async ({ services, caller, engagementId }) => {
    const [packs, key] = await Promise.all([
      services.evidence.list(engagementId),
      services.evidence.keys.publicKey({ engagementId }),
    ])
    const own = await services.evidence.keys.publicKey({ userId: caller.user.id })
    const snapshots = new Map(
      (
        await services.database.getRepository(Snapshots).findBy({ id: In(packs.map(({ snapshotId }) => snapshotId)) })
      ).map((snapshot) => [snapshot.id, snapshot]),
    )
    const view = (pack: EvidencePack) => {
      const snapshot = snapshots.get(pack.snapshotId)
      return {
        id: pack.id,
        audit: pack.auditId,
        snapshot: { id: pack.snapshotId, title: snapshot?.title ?? '', takenAt: snapshot?.takenAt.toISOString() ?? '' },
        masked: pack.masked,
        root: pack.root,
        files: pack.files,
        size: pack.size,
        notReproduced: pack.notReproduced,
        madeBy: pack.madeByName,
        madeAt: pack.madeAt.toISOString(),
        countersigned: pack.countersignatures.map((one) => ({
          by: one.by,
          at: one.at,
          fingerprint: fingerprintOf(one.key.public),
        })),
        mayCountersign:
          pack.madeBy !== caller.user.id && !pack.countersignatures.some(({ key: { public: one } }) => one === own),
      }
    }
    return { key: key === null ? null : { public: key, fingerprint: fingerprintOf(key) }, packs: packs.map(view) }
  }),
  route(makePack, async ({ services, caller, engagementId, body }) =>
    begin(services, engagementId, body.audit, true, caller.user),
  ),
  route(makeRealPack, async ({ services, caller, engagementId, body }) =>
    begin(services, engagementId, body.audit, false, caller.user),
  ),
  route(downloadPack, async ({ services, caller, engagementId, params, response }) => {
    await send(services, { id: params.pack, engagementId, user: caller.user, masked: true }, response)
    return undefined
  }),
  route(downloadRealPack, async ({ services, caller, engagementId, params, response }) => {
    await send(services, { id: params.pack, engagementId, user: caller.user, masked: false }, response)
    return undefined
  }),
  route(countersignPack, async ({ services, caller, engagementId, params }) => {
    await services.evidence.countersign(await services.evidence.find(params.pack, engagementId), caller.user)
    return undefined
  }),
]

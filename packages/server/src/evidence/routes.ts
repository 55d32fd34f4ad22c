import {
  countersignPack,
  downloadPack,
  downloadRealPack,
  downloadTimeRequest,
  listPacks,
  makePack,
  makeRealPack,
  stampPack,
  uploadTimeAnswer,
} from '@jurybox/api/evidence'
import { In } from 'typeorm'
import type { User } from '../auth/entity.ts'
import { Problem } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { oneFile } from '../http/one-file.ts'
import { route } from '../http/route.ts'
import { viewOf } from '../jobs/board.ts'
import type { Services } from '../services.ts'
import { Snapshots } from '../snapshots/entity.ts'
import type { EvidencePack } from './entity.ts'
import { fingerprintOf } from './keys.ts'
import { askAuthority } from './time-stamps.ts'

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
    const view = async (pack: EvidencePack) => {
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
        stamped: await services.evidence.stamps.of(pack),
        countersigned: pack.countersignatures.map((one) => ({
          by: one.by,
          at: one.at,
          fingerprint: fingerprintOf(one.key.public),
        })),
        mayCountersign:
          pack.madeBy !== caller.user.id && !pack.countersignatures.some(({ key: { public: one } }) => one === own),
      }
    }
    return {
      key: key === null ? null : { public: key, fingerprint: fingerprintOf(key) },
      hasTimeAuthority: services.settings.timeAuthority !== null,
      packs: await Promise.all(packs.map(view)),
    }
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
  route(stampPack, async ({ services, caller, engagementId, params }) => {
    const { timeAuthority } = services.settings
    if (timeAuthority === null)
      throw new Problem(422, 'This installation has no time-stamp authority (JURYBOX_TIME_AUTHORITY).')
    const pack = await services.evidence.find(params.pack, engagementId)
    const answer = await askAuthority(timeAuthority, await services.evidence.stamps.request(pack))
    await services.evidence.stamps.keep(pack, answer, caller.user)
    return undefined
  }),
  route(downloadTimeRequest, async ({ services, engagementId, params, response }) => {
    const pack = await services.evidence.find(params.pack, engagementId)
    const request = await services.evidence.stamps.request(pack)
    download(response, `evidence-${pack.id}.tsq`, 'application/timestamp-query', request)
    return undefined
  }),
  route(uploadTimeAnswer, async ({ services, caller, engagementId, params, request }) => {
    const { buffer } = oneFile(request)
    const pack = await services.evidence.find(params.pack, engagementId)
    await services.evidence.stamps.keep(pack, buffer, caller.user)
    return undefined
  }),
  route(countersignPack, async ({ services, caller, engagementId, params }) => {
    await services.evidence.countersign(await services.evidence.find(params.pack, engagementId), caller.user)
    return undefined
  }),
]

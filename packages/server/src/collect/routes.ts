import {
  addCredential,
  deleteConnection,
  deleteCredential,
  deleteHostKey,
  listConnections,
  listCredentials,
  runProbe,
  setConnectRanges,
  setConnections,
  startCollection,
  testConnection,
} from '@jurybox/api/collecting'
import { STEPS, STEP_TITLES } from '@jurybox/collector'
import { Engagements } from '../engagements/entity.ts'
import { DeviceConnections } from './entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { viewOf } from '../jobs/board.ts'
import { forgetKey } from './service.ts'

export const collectRoutes = [
  route(listCredentials, async ({ services, engagementId }) => services.collecting.credentials.list(engagementId)),
  route(addCredential, async ({ services, caller, engagementId, body }) => {
    const { credentials } = services.collecting
    if ((await credentials.list(engagementId)).some(({ title }) => title === body.title))
      throw new Problem(422, `The credential "${body.title}" already exists. Delete it first, or choose another title.`)
    const { privileged, privateKey, snmp, ...given } = body
    const id = await credentials.add(engagementId, caller.user.id, {
      ...given,
      ...(privileged ? { privileged } : {}),
      ...(privateKey ? { privateKey } : {}),
      ...(snmp ? { snmp } : {}),
    })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'credential added',
      detail: { title: body.title, user: body.user },
    })
    return { id }
  }),
  route(deleteCredential, async ({ services, caller, engagementId, params }) => {
    const id = params.credential
    const title = (await services.collecting.credentials.list(engagementId)).find((one) => one.id === id)?.title
    if (!(await services.collecting.credentials.remove(engagementId, id))) throw notFound('credential')
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'credential deleted',
      detail: { id, title },
    })
    return undefined
  }),
  route(listConnections, async ({ services, engagementId }) => ({
    steps: STEPS.map((step) => ({ step, title: STEP_TITLES[step] })),
    dialects: services.collecting.dialects,
    connectRanges: (await services.database.getRepository(Engagements).findOneByOrFail({ id: engagementId }))
      .connectRanges,
    devices: (await services.collecting.connections(engagementId)).map(
      ({ engagementId: _, facts: __, ...reach }) => reach,
    ),
  })),
  route(setConnections, async ({ services, caller, engagementId, body }) => {
    const { dialects } = services.collecting
    const odd = body.devices.find(({ dialect }) => !dialects.includes(dialect))
    if (odd)
      throw new Problem(
        422,
        `“${odd.device}”: no command set for dialect “${odd.dialect}” (available: ${dialects.join(', ')}).`,
      )
    const rows = services.database.getRepository(DeviceConnections)
    const before = new Map((await services.collecting.connections(engagementId)).map((reach) => [reach.device, reach]))
    await rows.save(
      body.devices.map((given) => {
        const known = before.get(given.device)
        // At another address there may be another device: its host key is unknown.
        const same = known?.address === given.address && known.port === given.port
        return rows.create({
          ...given,
          engagementId,
          hostKey: same ? known.hostKey : null,
          credentialId: known?.credentialId ?? null,
        })
      }),
    )
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'connections set',
      detail: { devices: body.devices.map(({ device, address, port }) => `${device} ${address}:${port}`) },
    })
    return undefined
  }),
  route(setConnectRanges, async ({ services, caller, engagementId, body: { ranges } }) => {
    await services.database.getRepository(Engagements).update({ id: engagementId }, { connectRanges: ranges })
    await services.activity.add({ userId: caller.user.id, engagementId, action: 'scan ranges set', detail: { ranges } })
    return { ranges }
  }),
  route(testConnection, async ({ services, engagementId, params, gone }) =>
    services.collecting.test(engagementId, params.name, gone),
  ),
  route(deleteConnection, async ({ services, caller, engagementId, params }) => {
    const device = params.name
    if (
      ((await services.database.getRepository(DeviceConnections).delete({ engagementId, device })).affected ?? 0) === 0
    )
      throw notFound('device')
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'connection removed',
      detail: { device },
    })
    return undefined
  }),
  route(deleteHostKey, async ({ services, caller, engagementId, params }) => {
    const device = params.name
    if (!(await services.database.getRepository(DeviceConnections).existsBy({ engagementId, device })))
      throw notFound('device')
    await forgetKey(services, engagementId, [device])
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'host key deleted',
      detail: { device },
    })
    return undefined
  }),
  route(runProbe, async ({ services, caller, engagementId, body: { device, probe, target } }) =>
    viewOf(await services.collecting.probe(engagementId, caller.user.id, device, probe, target)),
  ),
  route(startCollection, async ({ services, caller, engagementId, body }) => {
    const job = await services.collecting.start(engagementId, caller.user.id, body.devices, body.title)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'collection started',
      detail: { job: job.id, devices: body.devices ?? 'all' },
    })
    return viewOf(job)
  }),
]

import { listModelNames, setModelNames } from '@jurybox/api/model-names'
import { isObjectId } from '@jurybox/core/estate'
import { grouped } from '@jurybox/core/syntax'
import { Engagements } from '../engagements/entity.ts'
import { route } from '../http/route.ts'

export const modelNameRoutes = [
  route(listModelNames, async ({ services, engagementId, query }) => {
    const { modelNames } = await services.database.getRepository(Engagements).findOneByOrFail({ id: engagementId })
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    const running = snapshot ? [...(await services.estate.running(snapshot)).values()] : []
    const unnamed = grouped(
      running.filter(({ model }) => model !== null && isObjectId(model)),
      ({ model }) => model ?? '',
    )
    return {
      names: modelNames,
      unnamed: [...unnamed].map(([objectId, devices]) => ({ objectId, devices: devices.map(({ name }) => name) })),
    }
  }),
  route(setModelNames, async ({ services, caller, engagementId, body: { names } }) => {
    await services.database.getRepository(Engagements).update({ id: engagementId }, { modelNames: names })
    services.estate.changed(engagementId)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'model names set',
      detail: { names: names.map(({ objectId, name }) => `${objectId} = ${name}`) },
    })
    return { names }
  }),
]

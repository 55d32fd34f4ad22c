import {
  applyLabelsFromFacts,
  defineLabel,
  deleteLabel,
  deleteSite,
  exportDevices,
  importDeviceList,
  listLabels,
  listSites,
  previewLabelsFromFacts,
  setLabel,
  setSite,
} from '@jurybox/api/labels'
import { readDevices, writeDevices } from '@jurybox/core/estate'
import { Devices } from '../estate/entity.ts'
import { Sites } from '../estate/entity.ts'
import { download } from '../http/download.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { labelsOf, setFacts } from './service.ts'

/** Devices as lists state them. */
async function statedDevices({ database }: Services, engagementId: number) {
  const rows = await database.getRepository(Devices).find({ where: { engagementId }, order: { name: 'ASC' } })
  return rows.map(({ name, dialect, facts }) => ({
    name,
    dialect,
    facts: { ...(facts as { site?: string }), labels: labelsOf(facts) },
  }))
}

export const labelRoutes = [
  route(listLabels, async ({ services, engagementId }) => {
    const defined = await services.labels.defined(engagementId)
    const counts = new Map<string, number>()
    for (const { facts } of await statedDevices(services, engagementId))
      for (const name of Object.keys(facts.labels)) counts.set(name, (counts.get(name) ?? 0) + 1)
    const others = [...counts.keys()].filter((name) => !defined.some((one) => one.name === name)).sort()
    return {
      defined: defined.map((label) => ({ ...label, devices: counts.get(label.name) ?? 0 })),
      undefined: others.map((name) => ({ name, devices: counts.get(name) ?? 0 })),
    }
  }),
  route(defineLabel, async ({ services, caller, engagementId, body }) => {
    await services.labels.define(engagementId, caller.user, body)
    return undefined
  }),
  route(deleteLabel, async ({ services, caller, engagementId, params }) => {
    const devices = await services.labels.undefine(engagementId, caller.user, params.label)
    if (devices === null) throw notFound('label')
    return { devices }
  }),
  route(setLabel, async ({ services, caller, engagementId, body: { label, value, devices } }) => ({
    came: await services.labels.set(engagementId, caller.user, label, value, devices),
  })),
  route(previewLabelsFromFacts, async ({ services, engagementId }) => services.labels.fromFacts(engagementId)),
  route(applyLabelsFromFacts, async ({ services, caller, engagementId }) => {
    const set = await services.labels.applyRules(engagementId)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'labels set from facts',
      detail: { set },
    })
    return { set }
  }),
  route(exportDevices, async ({ services, engagementId, response }) => {
    const devices = await statedDevices(services, engagementId)
    const labels = [
      ...new Set([
        ...(await services.labels.defined(engagementId)).map(({ name }) => name),
        ...devices.flatMap(({ facts }) => Object.keys(facts.labels)),
      ]),
    ].sort()
    download(response, 'devices.csv', 'text/csv; charset=utf-8', writeDevices(devices, labels))
    return undefined
  }),
  route(importDeviceList, async ({ services, caller, engagementId, body: { text, apply } }) => {
    const list = readDevices(
      text,
      await statedDevices(services, engagementId),
      await services.labels.defined(engagementId),
    )
    if (!apply) return { ...list, applied: false }
    if (list.labels.length + list.facts.length === 0) throw new Problem(422, 'The list contains no changes.')
    await setFacts(services, engagementId, list.facts)
    await services.labels.apply(engagementId, caller.user, 'list', list.labels)
    services.estate.changed(engagementId)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'device list imported',
      detail: { labels: list.labels.length, facts: list.facts.length, refused: list.refused.length },
    })
    return { ...list, applied: true }
  }),
  route(listSites, async ({ services, engagementId }) => {
    const rows = await services.database.getRepository(Sites).find({ where: { engagementId }, order: { name: 'ASC' } })
    const counts = new Map<string, number>()
    for (const { facts } of await statedDevices(services, engagementId))
      if (facts.site !== undefined) counts.set(facts.site, (counts.get(facts.site) ?? 0) + 1)
    const others = [...counts.keys()].filter((name) => !rows.some((row) => row.name === name))
    return [
      ...rows.map(({ name, title, around }) => ({ name, title, around })),
      ...others.sort().map((name) => ({ name, title: name, around: null })),
    ].map((site) => ({ ...site, devices: counts.get(site.name) ?? 0 }))
  }),
  route(setSite, async ({ services, caller, engagementId, body }) => {
    const rows = services.database.getRepository(Sites)
    const around = new Map((await rows.findBy({ engagementId })).map((site) => [site.name, site.around]))
    for (let at = body.around, steps = 0; at !== null && steps <= around.size; at = around.get(at) ?? null, steps++)
      if (at === body.name)
        throw new Problem(
          422,
          `“${body.name}” cannot be inside “${body.around}”, because “${body.around}” is inside “${body.name}”.`,
        )
    await rows.save(rows.create({ engagementId, ...body }))
    services.estate.changed(engagementId)
    await services.activity.add({ userId: caller.user.id, engagementId, action: 'site set', detail: body })
    return undefined
  }),
  route(deleteSite, async ({ services, caller, engagementId, params }) => {
    const name = params.site
    if (((await services.database.getRepository(Sites).delete({ engagementId, name })).affected ?? 0) === 0)
      throw notFound('site')
    await services.database.getRepository(Sites).update({ engagementId, around: name }, { around: null })
    services.estate.changed(engagementId)
    await services.activity.add({ userId: caller.user.id, engagementId, action: 'site deleted', detail: { name } })
    return undefined
  }),
]

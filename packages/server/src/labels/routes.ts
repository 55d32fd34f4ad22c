import { labelSchema, readDevices, writeDevices } from '@jurybox/core/estate'
import { z } from 'zod'
import { Devices } from '../db/entities.ts'
import { Sites } from '../db/estate-entities.ts'
import { download } from '../http/download.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { lineOf } from '../http/text.ts'
import type { Services } from '../services.ts'
import { labelsOf, setFacts } from './service.ts'

const devicesSchema = z.array(z.string().max(160)).min(1).max(5000)

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
  route({
    method: 'get',
    path: '/engagements/:engagement/labels',
    access: 'read',
    summary:
      'The labels that are defined, those that devices have without a definition, and how many devices have each',
    handle: async ({ services, engagementId }) => {
      const defined = await services.labels.defined(engagementId)
      const counts = new Map<string, number>()
      for (const { facts } of await statedDevices(services, engagementId))
        for (const name of Object.keys(facts.labels)) counts.set(name, (counts.get(name) ?? 0) + 1)
      const others = [...counts.keys()].filter((name) => !defined.some((one) => one.name === name)).sort()
      return {
        defined: defined.map((label) => ({ ...label, devices: counts.get(label.name) ?? 0 })),
        undefined: others.map((name) => ({ name, devices: counts.get(name) ?? 0 })),
      }
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/labels',
    access: 'describe',
    summary: 'Defines a label, or defines it anew',
    body: labelSchema,
    handle: async ({ services, caller, engagementId, body }) => {
      await services.labels.define(engagementId, caller.user, body)
      return undefined
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/labels/:label',
    access: 'describe',
    summary: 'Takes a label and its values away',
    handle: async ({ services, caller, engagementId, params }) => {
      const devices = await services.labels.undefine(engagementId, caller.user, params['label'] ?? '')
      if (devices === null) throw notFound('label')
      return { devices }
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/labels/set',
    access: 'describe',
    large: true,
    summary: 'Sets one label of many devices; says what came of each',
    body: z.strictObject({
      label: z.string().max(60),
      value: z.union([z.string().max(500), z.number(), z.boolean()]).nullable(),
      devices: devicesSchema,
    }),
    handle: async ({ services, caller, engagementId, body: { label, value, devices } }) => ({
      came: await services.labels.set(engagementId, caller.user, label, value, devices),
    }),
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/labels/from-facts',
    access: 'read',
    summary: 'What labels that are set from facts would change now',
    handle: async ({ services, engagementId }) => services.labels.fromFacts(engagementId),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/labels/from-facts',
    access: 'describe',
    summary: 'Sets the labels that are set from facts',
    handle: async ({ services, caller, engagementId }) => {
      const set = await services.labels.applyRules(engagementId)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'labels set from facts',
        detail: { set },
      })
      return { set }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/devices.csv',
    access: 'read',
    summary: 'Devices with their facts and labels as CSV',
    handle: async ({ services, engagementId, response }) => {
      const devices = await statedDevices(services, engagementId)
      const labels = [
        ...new Set([
          ...(await services.labels.defined(engagementId)).map(({ name }) => name),
          ...devices.flatMap(({ facts }) => Object.keys(facts.labels)),
        ]),
      ].sort()
      download(response, 'devices.csv', 'text/csv; charset=utf-8', writeDevices(devices, labels))
      return undefined
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/devices-list',
    access: 'describe',
    large: true,
    summary: 'What a list of devices would change, and the lines that are wrong; changes it where `apply` says so',
    body: z.strictObject({ text: z.string().min(1).max(900_000), apply: z.boolean() }),
    handle: async ({ services, caller, engagementId, body: { text, apply } }) => {
      const list = readDevices(
        text,
        await statedDevices(services, engagementId),
        await services.labels.defined(engagementId),
      )
      if (!apply) return { ...list, applied: false }
      if (list.labels.length + list.facts.length === 0) throw new Problem(422, 'The list changes nothing.')
      await setFacts(services, engagementId, list.facts)
      await services.labels.apply(engagementId, caller.user, 'list', list.labels)
      services.estate.changed(engagementId)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'list of devices taken in',
        detail: { labels: list.labels.length, facts: list.facts.length, refused: list.refused.length },
      })
      return { ...list, applied: true }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/sites',
    access: 'read',
    summary: 'Sites, with the site around each; those that only devices name as well',
    handle: async ({ services, engagementId }) => {
      const rows = await services.database
        .getRepository(Sites)
        .find({ where: { engagementId }, order: { name: 'ASC' } })
      const counts = new Map<string, number>()
      for (const { facts } of await statedDevices(services, engagementId))
        if (facts.site !== undefined) counts.set(facts.site, (counts.get(facts.site) ?? 0) + 1)
      const others = [...counts.keys()].filter((name) => !rows.some((row) => row.name === name))
      return [
        ...rows.map(({ name, title, around }) => ({ name, title, around })),
        ...others.sort().map((name) => ({ name, title: name, around: null })),
      ].map((site) => ({ ...site, devices: counts.get(site.name) ?? 0 }))
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/sites',
    access: 'describe',
    summary: 'Says what a site is called and which site is around it',
    body: z.strictObject({ name: lineOf(120), title: lineOf(160), around: lineOf(120).nullable() }),
    handle: async ({ services, caller, engagementId, body }) => {
      const rows = services.database.getRepository(Sites)
      const around = new Map((await rows.findBy({ engagementId })).map((site) => [site.name, site.around]))
      for (let at = body.around, steps = 0; at !== null && steps <= around.size; at = around.get(at) ?? null, steps++)
        if (at === body.name)
          throw new Problem(422, `“${body.name}” cannot be in “${body.around}”: that is in “${body.name}” itself.`)
      await rows.save(rows.create({ engagementId, ...body }))
      services.estate.changed(engagementId)
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'site set', detail: body })
      return undefined
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/sites/:site',
    access: 'describe',
    summary: 'Forgets what is said of a site; devices stay where they are',
    handle: async ({ services, caller, engagementId, params }) => {
      const name = params['site'] ?? ''
      if (((await services.database.getRepository(Sites).delete({ engagementId, name })).affected ?? 0) === 0)
        throw notFound('site')
      await services.database.getRepository(Sites).update({ engagementId, around: name }, { around: null })
      services.estate.changed(engagementId)
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'site forgotten', detail: { name } })
      return undefined
    },
  }),
]

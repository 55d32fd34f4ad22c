import { PROBES } from '@jurybox/core/dialects'
import { STEPS, STEP_TITLES } from '@jurybox/collector'
import { z } from 'zod'
import { Engagements, DeviceConnections } from '../db/entities.ts'
import { Problem, notFound } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import { lineOf } from '../http/text.ts'
import { viewOf } from '../jobs/board.ts'
import { isPrefix } from './ranges.ts'
import { forgetKey } from './service.ts'

const reachSchema = z.strictObject({
  device: z.string().regex(/^[\w.-]{1,160}$/, 'a name of letters, digits, dots, dashes and underscores'),
  dialect: z.string(),
  address: z
    .string()
    .trim()
    .min(1)
    .max(255)
    .regex(/^[\w.:-]+$/, 'a name or an address'),
  port: z.int().min(1).max(65535).default(22),
  old: z.boolean().default(false),
  netconfPort: z.int().min(1).max(65535).nullable().default(null),
  snmpPort: z.int().min(1).max(65535).nullable().default(null),
})

export const collectRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/credentials',
    access: 'read',
    summary: 'Who may log in to devices; never with a secret',
    handle: async ({ services, engagementId }) => services.collecting.credentials.list(engagementId),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/credentials',
    access: 'manage',
    summary: 'Keeps a credential sealed; nobody reads it again',
    body: z.strictObject({
      title: lineOf(120),
      user: lineOf(120),
      password: z.string().min(1).max(1000),
      privileged: z.string().max(1000).optional(),
      privateKey: z.string().max(20_000).optional(),
      snmp: z
        .strictObject({
          user: z.string().min(1).max(32),
          auth: z.string().min(8).max(1000),
          privacy: z.string().min(8).max(1000),
        })
        .optional(),
    }),
    handle: async ({ services, caller, engagementId, body }) => {
      const { credentials } = services.collecting
      if ((await credentials.list(engagementId)).some(({ title }) => title === body.title))
        throw new Problem(
          422,
          `There is a credential "${body.title}" already: remove it first, or choose another title.`,
        )
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
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/credentials/:credential',
    access: 'manage',
    summary: 'Takes a credential out of the vault',
    handle: async ({ services, caller, engagementId, params }) => {
      const id = idIn(params, 'credential')
      if (!(await services.collecting.credentials.remove(engagementId, id))) throw notFound('credential')
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'credential removed',
        detail: { id },
      })
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/reach',
    access: 'read',
    summary: 'How devices are reached, and the steps of a collection',
    handle: async ({ services, engagementId }) => ({
      steps: STEPS.map((step) => ({ step, title: STEP_TITLES[step] })),
      dialects: services.collecting.dialects,
      connectRanges: (await services.database.getRepository(Engagements).findOneByOrFail({ id: engagementId }))
        .connectRanges,
      devices: (await services.collecting.connections(engagementId)).map(({ engagementId: _, ...reach }) => reach),
    }),
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/reach',
    access: 'manage',
    large: true,
    summary: 'Says how devices are reached; those that are there already are changed',
    body: z.strictObject({ devices: z.array(reachSchema).min(1).max(5000) }),
    handle: async ({ services, caller, engagementId, body }) => {
      const { dialects } = services.collecting
      const odd = body.devices.find(({ dialect }) => !dialects.includes(dialect))
      if (odd)
        throw new Problem(
          422,
          `“${odd.device}”: there are no commands for the dialect “${odd.dialect}” (there are ${dialects.join(', ')}).`,
        )
      const rows = services.database.getRepository(DeviceConnections)
      const before = new Map(
        (await services.collecting.connections(engagementId)).map((reach) => [reach.device, reach]),
      )
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
        action: 'reach set',
        detail: { devices: body.devices.map(({ device, address, port }) => `${device} ${address}:${port}`) },
      })
      return undefined
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/connect-ranges',
    access: 'manage',
    summary: 'Prefixes in which a collection may try by TCP connects what answers on a management address',
    body: z.strictObject({
      ranges: z.array(z.string().trim().refine(isPrefix, 'a prefix, such as 10.40.0.0/16')).max(100),
    }),
    handle: async ({ services, caller, engagementId, body: { ranges } }) => {
      await services.database.getRepository(Engagements).update({ id: engagementId }, { connectRanges: ranges })
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'connect ranges set',
        detail: { ranges },
      })
      return { ranges }
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/reach/:device',
    access: 'manage',
    summary: 'A device is not collected from any more; what was collected stays',
    handle: async ({ services, caller, engagementId, params }) => {
      const device = params['device'] ?? ''
      if (
        ((await services.database.getRepository(DeviceConnections).delete({ engagementId, device })).affected ?? 0) ===
        0
      )
        throw notFound('device')
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'reach removed', detail: { device } })
      return undefined
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/reach/:device/forget-key',
    access: 'manage',
    summary: 'The host key of a device may be another from now on; the next one seen is pinned',
    handle: async ({ services, caller, engagementId, params }) => {
      const device = params['device'] ?? ''
      if (!(await services.database.getRepository(DeviceConnections).existsBy({ engagementId, device })))
        throw notFound('device')
      await forgetKey(services, engagementId, [device])
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'host key forgotten',
        detail: { device },
      })
      return undefined
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/probes',
    access: 'collect',
    summary: 'Asks a device about another (ping, name lookup, path); what it answers is kept as a record',
    body: z.strictObject({
      device: z.string(),
      probe: z.enum(PROBES),
      target: z
        .string()
        .trim()
        .regex(/^[A-Za-z0-9][\w.:-]{0,252}$/, 'a name or an address'),
    }),
    handle: async ({ services, caller, engagementId, body: { device, probe, target } }) =>
      viewOf(await services.collecting.probe(engagementId, caller.user.id, device, probe, target)),
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/collections',
    access: 'collect',
    large: true,
    summary: 'Collects from devices and freezes a snapshot; names who is missing and why',
    body: z.strictObject({
      devices: z.array(z.string()).min(1).max(5000).nullable().default(null),
      title: lineOf(160),
    }),
    handle: async ({ services, caller, engagementId, body }) => {
      const job = await services.collecting.start(engagementId, caller.user.id, body.devices, body.title)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'collection started',
        detail: { job: job.id, devices: body.devices ?? 'all' },
      })
      return viewOf(job)
    },
  }),
]

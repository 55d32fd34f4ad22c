import { endpoint } from './endpoint.ts'
import { z } from 'zod'

export const installationView = z.strictObject({
  build: z.string(),
  key: z.strictObject({
    source: z.enum(['file', 'environment']),
    change: z.union([
      z.strictObject({ state: z.enum(['none', 'failed', 'running']) }),
      z.strictObject({ state: z.literal('done'), sealed: z.number() }),
    ]),
  }),
  freeDiskMb: z.number(),
  longestBlockMs: z.number(),
})
export type InstallationView = z.infer<typeof installationView>

/** Build, key, free disk space and load of the installation. */
export const getInstallation = endpoint({
  method: 'get',
  path: '/installation',
  access: 'administrator',
  summary: 'Build, key, free disk space and load of the installation',
  response: installationView,
})

/** Replaces the master key and re-encrypts what it protects, while the server runs. */
export const changeKey = endpoint({
  method: 'post',
  path: '/installation/key',
  access: 'administrator',
  summary: 'Replaces the master key and re-encrypts what it protects, while the server runs',
  fresh: true,
  response: z.union([
    z.strictObject({ state: z.literal('none') }),
    z.strictObject({ state: z.literal('running') }),
    z.strictObject({ state: z.literal('done'), sealed: z.number() }),
    z.strictObject({ state: z.literal('failed') }),
  ]),
})

import { z } from 'zod'
import { fullName, signInName } from './sessions.ts'
import { activityFilter, activityPage, activityView } from './activity.ts'
import { endpoint } from './endpoint.ts'

export const accountView = z.strictObject({
  id: z.number(),
  name: z.string(),
  fullName: z.string(),
  isAdmin: z.boolean(),
  mayOpen: z.boolean(),
  disabled: z.boolean(),
  mustChange: z.boolean(),
  hasSecondFactor: z.boolean(),
  createdAt: z.string(),
  signedInAt: z.string().nullable(),
  engagements: z.number(),
})
export type AccountView = z.infer<typeof accountView>

/** All accounts, and how many engagements each is a member of. */
export const listAccounts = endpoint({
  method: 'get',
  path: '/accounts',
  access: 'administrator',
  summary: 'All accounts, and how many engagements each is a member of',
  response: z.array(accountView),
})

/** Creates an account and returns its one-time password, which is shown only once. */
export const createAccount = endpoint({
  method: 'post',
  path: '/accounts',
  access: 'administrator',
  summary: 'Creates an account and returns its one-time password, which is shown only once',
  fresh: true,
  body: z.strictObject({
    name: signInName,
    fullName,
    isAdmin: z.boolean().default(false),
    mayOpen: z.boolean().default(false),
  }),
  response: z.strictObject({ id: z.number(), password: z.string() }),
})

/** Changes the rights of an account, disables or enables it. */
export const changeAccount = endpoint({
  method: 'put',
  path: '/accounts/:account',
  access: 'administrator',
  summary: 'Changes the rights of an account, disables or enables it',
  fresh: true,
  body: z.strictObject({ isAdmin: z.boolean(), mayOpen: z.boolean(), disabled: z.boolean() }),
})

/** Gives an account a one-time password, removes its second factor and ends its sessions. */
export const resetAccount = endpoint({
  method: 'post',
  path: '/accounts/:account/reset',
  access: 'administrator',
  summary: 'Gives an account a one-time password, removes its second factor and ends its sessions',
  fresh: true,
  response: z.strictObject({ password: z.string() }),
})

/** Deletes an account that was never used. */
export const deleteAccount = endpoint({
  method: 'delete',
  path: '/accounts/:account',
  access: 'administrator',
  summary: 'Deletes an account that was never used',
  fresh: true,
})

/** Audit log of the installation, refused sign-ins included, newest first. */
export const listInstallationActivity = endpoint({
  method: 'get',
  path: '/activity',
  access: 'administrator',
  summary: 'Audit log of the installation, refused sign-ins included, newest first',
  query: activityPage,
  response: activityView,
})

/** Audit log of the installation as CSV, with the hash of each entry. */
export const exportInstallationActivity = endpoint({
  method: 'get',
  path: '/activity.csv',
  access: 'administrator',
  summary: 'Audit log of the installation as CSV, with the hash of each entry',
  query: activityFilter,
  file: 'text/csv',
})

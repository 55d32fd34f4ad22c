import { z } from 'zod'
import { lineOf, lineOrNone } from './text.ts'
import { roleSchema } from './roles.ts'
import { endpoint } from './endpoint.ts'

/** Length after NIST SP 800-63B-4, section 3.1.1.2, where a password may stand alone. */
export const PASSWORD_LENGTH = { least: 15, most: 200 } as const

export const signInName = z
  .string()
  .trim()
  .regex(/^[a-z][a-z0-9._-]{1,40}$/, 'a sign-in name of 2 to 41 lower-case letters, digits, dots or dashes')

export const fullName = lineOf(120)

export const password = z.string().max(PASSWORD_LENGTH.most)

/** A code of the second factor, or a recovery code. */
export const code = z.string().trim().max(40)

export const credentials = z.strictObject({ name: z.string().max(100), password, code: code.optional() })

export const sessionView = z.strictObject({
  user: z.strictObject({ id: z.number(), name: z.string(), fullName: z.string() }),
  isAdmin: z.boolean(),
  mayOpen: z.boolean(),
  /** The password was given by someone else. */
  mustChange: z.boolean(),
  /** Whether the identity was confirmed within the last quarter of an hour. */
  isFresh: z.boolean(),
  hasSecondFactor: z.boolean(),
  csrf: z.string(),
  engagements: z.array(z.strictObject({ id: z.number(), title: z.string(), client: z.string(), role: roleSchema })),
})
export type SessionView = z.infer<typeof sessionView>

export const sessionRow = z.strictObject({
  id: z.string(),
  address: z.string(),
  agent: z.string(),
  createdAt: z.string(),
  seenAt: z.string(),
  isThis: z.boolean(),
})
export type SessionRow = z.infer<typeof sessionRow>

/** Whether the first user still has to be created. */
export const getStanding = endpoint({
  method: 'get',
  path: '/standing',
  access: 'everyone',
  summary: 'Whether the first user still has to be created',
  response: z.strictObject({ firstUserNeeded: z.boolean(), build: z.string() }),
})

/** Creates the first user with the one-time code that the start command prints. */
export const createFirstUser = endpoint({
  method: 'post',
  path: '/first-user',
  access: 'everyone',
  summary: 'Creates the first user with the one-time code that the start command prints',
  guessable: true,
  body: z.strictObject({
    code: z.string().max(100),
    user: z.strictObject({ name: signInName, fullName, password }),
    engagement: z.strictObject({ title: lineOf(160), client: lineOrNone(160) }),
  }),
  response: z.strictObject({
    csrf: z.string(),
    user: z.strictObject({ id: z.number(), name: z.string(), fullName: z.string() }),
  }),
})

/** Opens a session. */
export const openSession = endpoint({
  method: 'post',
  path: '/sign-in',
  access: 'everyone',
  summary: 'Opens a session',
  guessable: true,
  body: credentials,
  response: z.strictObject({
    csrf: z.string(),
    user: z.strictObject({ id: z.number(), name: z.string(), fullName: z.string() }),
  }),
})

/** Closes the session. */
export const closeSession = endpoint({
  method: 'post',
  path: '/sign-out',
  access: 'signed-in',
  summary: 'Closes the session',
})

/** The signed-in user and their engagements. */
export const getSession = endpoint({
  method: 'get',
  path: '/session',
  access: 'signed-in',
  summary: 'The signed-in user and their engagements',
  response: sessionView,
})

/** Changes one’s own password and ends every other session of the account. */
export const changePassword = endpoint({
  method: 'put',
  path: '/password',
  access: 'signed-in',
  summary: 'Changes one’s own password and ends every other session of the account',
  guessable: true,
  body: z.strictObject({ current: password, next: password, code: code.optional() }),
})

/** Confirms the identity of the signed-in user before a dangerous action. */
export const confirmIdentity = endpoint({
  method: 'post',
  path: '/session/confirm',
  access: 'signed-in',
  summary: 'Confirms the identity of the signed-in user before a dangerous action',
  guessable: true,
  body: z.strictObject({ password, code: code.optional() }),
})

/** The sessions of one’s own account. */
export const listSessions = endpoint({
  method: 'get',
  path: '/sessions',
  access: 'signed-in',
  summary: 'The sessions of one’s own account',
  response: z.array(sessionRow),
})

/** Ends every other session of one’s own account. */
export const endOtherSessions = endpoint({
  method: 'delete',
  path: '/sessions',
  access: 'signed-in',
  summary: 'Ends every other session of one’s own account',
})

/** Returns a secret for time-based codes (TOTP, RFC 6238); it counts once a code was given. */
export const beginSecondFactor = endpoint({
  method: 'post',
  path: '/second-factor/begin',
  access: 'signed-in',
  summary: 'Returns a secret for time-based codes (TOTP, RFC 6238); it counts once a code was given',
  response: z.strictObject({ secret: z.string(), uri: z.string() }),
})

/** Turns the second factor on and returns the recovery codes, which are shown only once. */
export const turnOnSecondFactor = endpoint({
  method: 'post',
  path: '/second-factor',
  access: 'signed-in',
  summary: 'Turns the second factor on and returns the recovery codes, which are shown only once',
  fresh: true,
  guessable: true,
  body: z.strictObject({ code }),
  response: z.strictObject({ codes: z.array(z.string()) }),
})

/** Turns the second factor off. */
export const turnOffSecondFactor = endpoint({
  method: 'delete',
  path: '/second-factor',
  access: 'signed-in',
  summary: 'Turns the second factor off',
  fresh: true,
})

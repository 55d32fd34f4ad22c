import { timingSafeEqual } from 'node:crypto'
import { z } from 'zod'
import { Engagements, Memberships, Users, type User } from '../db/entities.ts'
import { COOKIE } from '../http/app.ts'
import { Problem } from '../http/problem.ts'
import { route, type Context } from '../http/route.ts'
import { NOBODY, hashPassword, passwordMatches } from './passwords.ts'

export const newUser = z.strictObject({
  name: z.string().trim().regex(/^[a-z][a-z0-9._-]{1,40}$/, 'a sign-in name of 2 to 41 lower-case letters, digits, dots or dashes'),
  fullName: z.string().trim().min(1).max(120),
  password: z.string().min(12, 'at least 12 characters').max(200),
})

const credentials = z.strictObject({ name: z.string().max(100), password: z.string().max(200) })

async function signIn(context: Pick<Context<unknown, unknown>, 'services' | 'response'>, user: User): Promise<{ csrf: string; user: { id: number; name: string; fullName: string } }> {
  const { token, session } = await context.services.sessions.open(user)
  context.response.cookie(COOKIE, token, { httpOnly: true, sameSite: 'strict', path: '/', maxAge: 24 * 3_600_000 })
  return { csrf: session.csrf, user: { id: user.id, name: user.name, fullName: user.fullName } }
}

export const authRoutes = [
  route({
    method: 'get',
    path: '/standing',
    access: 'everyone',
    summary: 'Whether the first user still has to be created',
    handle: async ({ services }) => ({ firstUserNeeded: services.setupCode !== null && (await services.database.getRepository(Users).count()) === 0, build: services.build }),
  }),
  route({
    method: 'post',
    path: '/first-user',
    access: 'everyone',
    guessable: true,
    summary: 'Creates the first user with the one-time code that the start command prints',
    body: z.strictObject({ code: z.string().max(100), user: newUser, engagement: z.strictObject({ title: z.string().trim().min(1).max(160), client: z.string().trim().max(160) }) }),
    handle: async ({ services, response, body }) => {
      const expected = Buffer.from(services.setupCode ?? '')
      const given = Buffer.from(body.code.trim())
      if (expected.length === 0 || expected.length !== given.length || !timingSafeEqual(expected, given)) throw new Problem(403, 'The code is not the one that the start command printed, or it has been used.')
      services.setupCode = null
      const user = await services.createUser(body.user)
      await services.createEngagement(body.engagement, user)
      await services.activity.add({ userId: user.id, engagementId: null, action: 'first user created', detail: { name: user.name } })
      return signIn({ services, response }, user)
    },
  }),
  route({
    method: 'post',
    path: '/sign-in',
    access: 'everyone',
    guessable: true,
    summary: 'Opens a session',
    body: credentials,
    handle: async ({ services, response, body }) => {
      const user = await services.database.getRepository(Users).findOneBy({ name: body.name.trim() })
      const matches = await passwordMatches(body.password, user?.passwordHash ?? NOBODY)
      await services.activity.add({ userId: user?.id ?? null, engagementId: null, action: user && matches ? 'signed in' : 'sign-in refused', detail: { name: body.name.slice(0, 41) } })
      if (!user || !matches) throw new Problem(401, 'Name or password is wrong.')
      return signIn({ services, response }, user)
    },
  }),
  route({
    method: 'post',
    path: '/sign-out',
    access: 'signed-in',
    summary: 'Closes the session',
    handle: async ({ services, response, caller }) => {
      await services.sessions.close(caller.token)
      response.clearCookie(COOKIE, { httpOnly: true, sameSite: 'strict', path: '/' })
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/session',
    access: 'signed-in',
    summary: 'Who is signed in, and the engagements they take part in',
    handle: async ({ services, caller }) => {
      const memberships = await services.database.getRepository(Memberships).findBy({ userId: caller.user.id })
      const engagements = await services.database.getRepository(Engagements).find({ order: { id: 'ASC' } })
      return {
        user: { id: caller.user.id, name: caller.user.name, fullName: caller.user.fullName },
        csrf: caller.session.csrf,
        engagements: memberships.flatMap(({ engagementId, role }) => {
          const found = engagements.find(({ id }) => id === engagementId)
          return found ? [{ id: found.id, title: found.title, client: found.client, role }] : []
        }),
      }
    },
  }),
  route({
    method: 'put',
    path: '/password',
    access: 'signed-in',
    guessable: true,
    summary: 'Changes the own password',
    body: z.strictObject({ current: z.string().max(200), next: newUser.shape.password }),
    handle: async ({ services, caller, body }) => {
      if (!(await passwordMatches(body.current, caller.user.passwordHash))) throw new Problem(403, 'The current password is wrong.')
      await services.database.getRepository(Users).update({ id: caller.user.id }, { passwordHash: await hashPassword(body.next) })
      await services.activity.add({ userId: caller.user.id, engagementId: null, action: 'password changed', detail: {} })
      return undefined
    },
  }),
]

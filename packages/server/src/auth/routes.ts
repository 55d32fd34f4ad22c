import {
  beginSecondFactor,
  changePassword,
  confirmIdentity,
  createFirstUser,
  endOtherSessions,
  getSession,
  getStanding,
  listSessions,
  openSession,
  closeSession,
  turnOffSecondFactor,
  turnOnSecondFactor,
} from '@jurybox/api/sessions'
import { timingSafeEqual } from 'node:crypto'
import { Engagements, Memberships } from '../engagements/entity.ts'
import { Users, type User } from './entity.ts'
import { COOKIE, isFresh, isSecure } from '../http/app.ts'
import { Problem } from '../http/problem.ts'
import { route, type Context } from '../http/route.ts'
import { NOBODY, hashPassword, passwordFault, passwordMatches } from './passwords.ts'

function refuseWeak(next: string, about: readonly string[]): void {
  const fault = passwordFault(next, about)
  if (fault !== null) throw new Problem(400, fault)
}

/** @throws Problem where the password or the code of the second factor is wrong; each try counts */
async function proveIdentity(
  { services, request, caller }: Pick<Context, 'services' | 'request' | 'caller'>,
  given: { readonly password: string; readonly code?: string | undefined },
): Promise<void> {
  const { user } = caller
  const address = request.ip ?? ''
  await services.guesses.require(user.name, address)
  const isRight =
    (await passwordMatches(given.password, user.passwordHash)) &&
    (await services.secondFactor.proves(user, given.code ?? ''))
  if (isRight) return services.guesses.right(user.name, address)
  await services.guesses.wrong(user.name, address)
  throw new Problem(403, user.totp === null ? 'The password is wrong.' : 'The password or the code is wrong.')
}

async function startSession(
  context: Pick<Context, 'services' | 'response' | 'request'>,
  user: User,
): Promise<{ csrf: string; user: { id: number; name: string; fullName: string } }> {
  const { token, session } = await context.services.sessions.open(user, {
    address: context.request.ip ?? '',
    agent: context.request.get('user-agent') ?? '',
  })
  context.response.cookie(COOKIE, token, {
    httpOnly: true,
    sameSite: 'strict',
    path: '/',
    secure: isSecure(context.services),
    maxAge: 24 * 3_600_000,
  })
  return { csrf: session.csrf, user: { id: user.id, name: user.name, fullName: user.fullName } }
}

export const authRoutes = [
  route(getStanding, async ({ services }) => ({
    firstUserNeeded: services.setupCode !== null && (await services.database.getRepository(Users).count()) === 0,
    build: services.build,
  })),
  route(createFirstUser, async ({ services, request, response, body }) => {
    const expected = Buffer.from(services.setupCode ?? '')
    const given = Buffer.from(body.code.trim())
    if (expected.length === 0 || expected.length !== given.length || !timingSafeEqual(expected, given))
      throw new Problem(403, 'The code is wrong or has been used. The start command prints it.')
    refuseWeak(body.user.password, [body.user.name, body.user.fullName])
    services.setupCode = null
    const user = await services.createUser({ ...body.user, isAdmin: true, mayOpen: true })
    await services.createEngagement(body.engagement, user)
    await services.activity.add({
      userId: user.id,
      engagementId: null,
      action: 'first user created',
      detail: { name: user.name },
    })
    return startSession({ services, request, response }, user)
  }),
  route(openSession, async ({ services, request, response, body }) => {
    const name = body.name.trim()
    const address = request.ip ?? ''
    await services.guesses.require(name, address)
    const user = await services.database.getRepository(Users).findOneBy({ name })
    const matches = await passwordMatches(body.password, user?.passwordHash ?? NOBODY)
    const isRight = user !== null && matches && !user.disabled
    // The second factor is only mentioned after a correct password.
    if (isRight && user.totp !== null && body.code === undefined)
      throw new Problem(401, 'Enter the code of your second factor.', { code: 'second-factor-needed' })
    const proves = isRight && (await services.secondFactor.proves(user, body.code ?? ''))
    await services.activity.add({
      userId: user?.id ?? null,
      engagementId: null,
      action: proves ? 'signed in' : 'sign-in refused',
      detail: { name: name.slice(0, 41), address },
    })
    if (!proves) {
      await services.guesses.wrong(name, address)
      throw new Problem(
        401,
        isRight ? 'The code is wrong or has been used.' : 'Name or password is wrong.',
        isRight ? { code: 'second-factor-needed' } : {},
      )
    }
    await services.guesses.right(name, address)
    return startSession({ services, request, response }, user)
  }),
  route(closeSession, async ({ services, response, caller }) => {
    await services.sessions.close(caller.token, caller.user.id)
    response.clearCookie(COOKIE, { httpOnly: true, sameSite: 'strict', path: '/' })
    return undefined
  }),
  route(getSession, async ({ services, caller }) => {
    const memberships = await services.database.getRepository(Memberships).findBy({ userId: caller.user.id })
    const engagements = await services.database.getRepository(Engagements).find({ order: { id: 'ASC' } })
    return {
      user: { id: caller.user.id, name: caller.user.name, fullName: caller.user.fullName },
      isAdmin: caller.user.isAdmin,
      mayOpen: caller.user.isAdmin || caller.user.mayOpen,
      mustChange: caller.user.mustChange,
      isFresh: isFresh(caller.session),
      hasSecondFactor: caller.user.totp !== null,
      csrf: caller.session.csrf,
      engagements: memberships.flatMap(({ engagementId, role }) => {
        const found = engagements.find(({ id }) => id === engagementId)
        return found ? [{ id: found.id, title: found.title, client: found.client, role }] : []
      }),
    }
  }),
  route(changePassword, async ({ services, request, caller, body }) => {
    await proveIdentity({ services, request, caller }, { password: body.current, code: body.code })
    if (body.next === body.current) throw new Problem(400, 'The new password must differ from the old one.')
    refuseWeak(body.next, [caller.user.name, caller.user.fullName])
    await services.database
      .getRepository(Users)
      .update({ id: caller.user.id }, { passwordHash: await hashPassword(body.next), mustChange: false })
    await services.sessions.closeAll(caller.user.id, caller.token)
    await services.activity.add({ userId: caller.user.id, engagementId: null, action: 'password changed', detail: {} })
    return undefined
  }),
  route(confirmIdentity, async ({ services, request, caller, body }) => {
    await proveIdentity({ services, request, caller }, body)
    await services.sessions.prove(caller.token)
    return undefined
  }),
  route(listSessions, async ({ services, caller }) => services.sessions.list(caller.user.id, caller.token)),
  route(endOtherSessions, async ({ services, caller }) => {
    await services.sessions.closeAll(caller.user.id, caller.token)
    await services.activity.add({
      userId: caller.user.id,
      engagementId: null,
      action: 'other sessions ended',
      detail: {},
    })
    return undefined
  }),
  route(beginSecondFactor, async ({ services, caller }) => {
    if (caller.user.totp !== null) throw new Problem(409, 'A second factor is already set up. Turn it off first.')
    return services.secondFactor.begin(caller.user)
  }),
  route(turnOnSecondFactor, async ({ services, caller, body }) => {
    const codes = await services.secondFactor.confirm(caller.user, body.code)
    await services.sessions.closeAll(caller.user.id, caller.token)
    await services.activity.add({
      userId: caller.user.id,
      engagementId: null,
      action: 'second factor turned on',
      detail: {},
    })
    return { codes }
  }),
  route(turnOffSecondFactor, async ({ services, caller }) => {
    await services.secondFactor.remove(caller.user.id)
    await services.activity.add({
      userId: caller.user.id,
      engagementId: null,
      action: 'second factor turned off',
      detail: {},
    })
    return undefined
  }),
]

import { In, IsNull } from 'typeorm'
import { z } from 'zod'
import { Activities, Memberships, Users, type User } from '../db/entities.ts'
import { Problem } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { hashPassword, oneTimePassword } from './passwords.ts'
import { fullName, signInName } from './routes.ts'

async function accountOf({ database }: Services, id: number): Promise<User> {
  const user = await database.getRepository(Users).findOneBy({ id })
  if (!user) throw new Problem(404, 'There is no such account.')
  return user
}

/** @throws Problem where nobody would be left to look after the installation */
async function keepAdministrator({ database }: Services, user: User): Promise<void> {
  const others = (await database.getRepository(Users).findBy({ isAdmin: true, disabled: false })).filter(
    ({ id }) => id !== user.id,
  )
  if (user.isAdmin && others.length === 0)
    throw new Problem(409, 'An installation keeps at least one administrator: name another one first.')
}

/** The life of accounts, for those who look after the installation. */
export const accountRoutes = [
  route({
    method: 'get',
    path: '/accounts',
    access: 'administrator',
    summary: 'All accounts, and how many engagements each is a member of',
    handle: async ({ services }) => {
      const memberships = await services.database.getRepository(Memberships).find()
      const users = await services.database.getRepository(Users).find({ order: { name: 'ASC' } })
      return users.map(
        ({ id, name, fullName: full, isAdmin, mayOpen, disabled, mustChange, signedInAt, createdAt, totp }) => ({
          id,
          name,
          isAdmin,
          mayOpen,
          disabled,
          mustChange,
          fullName: full,
          createdAt: createdAt.toISOString(),
          signedInAt: signedInAt?.toISOString() ?? null,
          hasSecondFactor: totp !== null,
          engagements: memberships.filter(({ userId }) => userId === id).length,
        }),
      )
    },
  }),
  route({
    method: 'post',
    path: '/accounts',
    access: 'administrator',
    fresh: true,
    summary: 'Creates an account; returns its one-time password, which is shown this once',
    body: z.strictObject({
      name: signInName,
      fullName,
      isAdmin: z.boolean().default(false),
      mayOpen: z.boolean().default(false),
    }),
    handle: async ({ services, caller, body }) => {
      if (await services.database.getRepository(Users).existsBy({ name: body.name }))
        throw new Problem(409, `There is an account “${body.name}” already.`)
      const password = oneTimePassword()
      const { id } = await services.createUser({ ...body, password, mustChange: true })
      await services.activity.add({
        userId: caller.user.id,
        engagementId: null,
        action: 'account created',
        detail: { ...body },
      })
      return { id, password }
    },
  }),
  route({
    method: 'put',
    path: '/accounts/:account',
    access: 'administrator',
    fresh: true,
    summary: 'Changes the rights of an account, disables or enables it',
    body: z.strictObject({ isAdmin: z.boolean(), mayOpen: z.boolean(), disabled: z.boolean() }),
    handle: async ({ services, caller, params, body }) => {
      const user = await accountOf(services, idIn(params, 'account'))
      if (body.disabled || !body.isAdmin) await keepAdministrator(services, user)
      await services.database.getRepository(Users).update({ id: user.id }, body)
      if (body.disabled) await services.sessions.closeAll(user.id, null)
      await services.activity.add({
        userId: caller.user.id,
        engagementId: null,
        action: 'account changed',
        detail: { name: user.name, ...body },
      })
      return undefined
    },
  }),
  route({
    method: 'post',
    path: '/accounts/:account/reset',
    access: 'administrator',
    fresh: true,
    summary: 'Gives an account a one-time password, turns its second factor off and ends its sessions',
    handle: async ({ services, caller, params }) => {
      const user = await accountOf(services, idIn(params, 'account'))
      const password = oneTimePassword()
      await services.secondFactor.remove(user.id)
      await services.database
        .getRepository(Users)
        .update({ id: user.id }, { passwordHash: await hashPassword(password), mustChange: true })
      await services.sessions.closeAll(user.id, null)
      await services.activity.add({
        userId: caller.user.id,
        engagementId: null,
        action: 'account reset',
        detail: { name: user.name },
      })
      return { password }
    },
  }),
  route({
    method: 'delete',
    path: '/accounts/:account',
    access: 'administrator',
    fresh: true,
    summary: 'Deletes an account that was never used; one that was is disabled instead, since what it did names it',
    handle: async ({ services, caller, params }) => {
      const user = await accountOf(services, idIn(params, 'account'))
      await keepAdministrator(services, user)
      if (user.signedInAt !== null)
        throw new Problem(409, 'This account has been used, and what was done with it names it. Disable it instead.')
      await services.database.transaction(async (manager) => {
        await manager.delete(Memberships, { userId: user.id })
        await manager.delete(Users, { id: user.id })
      })
      await services.activity.add({
        userId: caller.user.id,
        engagementId: null,
        action: 'account deleted',
        detail: { name: user.name },
      })
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/activity',
    access: 'administrator',
    summary: 'What was done outside engagements, refused sign-ins included, newest first',
    query: z.object({
      limit: z.coerce.number().int().min(1).max(500).default(100),
      offset: z.coerce.number().int().min(0).max(1_000_000_000).default(0),
    }),
    handle: async ({ services, query }) => {
      const entries = await services.database
        .getRepository(Activities)
        .find({ where: { engagementId: IsNull() }, order: { id: 'DESC' }, take: query.limit, skip: query.offset })
      const users = await services.database
        .getRepository(Users)
        .findBy({ id: In(entries.flatMap(({ userId }) => userId ?? [])) })
      return {
        firstBreak: await services.activity.firstBreak(),
        total: await services.database.getRepository(Activities).countBy({ engagementId: IsNull() }),
        entries: entries.map(({ id, at, userId, action, detail, hash }) => ({
          id,
          at: at.toISOString(),
          user: users.find((user) => user.id === userId)?.fullName ?? null,
          action,
          detail: JSON.parse(detail) as unknown,
          hash,
        })),
      }
    },
  }),
]

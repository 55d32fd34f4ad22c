import { changeAccount, createAccount, deleteAccount, listAccounts, resetAccount } from '@jurybox/api/accounts'
import { Memberships } from '../engagements/entity.ts'
import { Users, type User } from './entity.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { hashPassword, oneTimePassword } from './passwords.ts'

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
    throw new Problem(409, 'At least one administrator is required. Make another account an administrator first.')
}

/** The life of accounts, for those who look after the installation. */
export const accountRoutes = [
  route(listAccounts, async ({ services }) => {
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
  }),
  route(createAccount, async ({ services, caller, body }) => {
    if (await services.database.getRepository(Users).existsBy({ name: body.name }))
      throw new Problem(409, `The account “${body.name}” already exists.`)
    const password = oneTimePassword()
    const { id } = await services.createUser({ ...body, password, mustChange: true })
    await services.activity.add({
      userId: caller.user.id,
      engagementId: null,
      action: 'account created',
      detail: { ...body },
    })
    return { id, password }
  }),
  route(changeAccount, async ({ services, caller, params, body }) => {
    const user = await accountOf(services, params.account)
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
  }),
  route(resetAccount, async ({ services, caller, params }) => {
    const user = await accountOf(services, params.account)
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
  }),
  route(deleteAccount, async ({ services, caller, params }) => {
    const user = await accountOf(services, params.account)
    await keepAdministrator(services, user)
    if (user.signedInAt !== null)
      throw new Problem(409, 'This account has been used and is part of the audit log. Disable it instead.')
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
  }),
]

import { compileScope } from '@jurybox/core/rules'
import { z } from 'zod'
import { Groups, type SavedGroup } from '../db/estate-entities.ts'
import { Problem, notFound } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import { lineOf } from '../http/text.ts'
import type { Services } from '../services.ts'

const groupSchema = z.strictObject({
  title: lineOf(80),
  kind: z.enum(['filter', 'search']),
  text: z.string().trim().min(1).max(1000),
  counted: z.boolean().default(false),
})
const asOf = z.object({ snapshot: z.coerce.number().int().positive().optional() })

/** @throws Problem that says what is wrong with a filter or a search */
async function checked(
  services: Services,
  engagementId: number,
  { kind, text }: Pick<SavedGroup, 'kind' | 'text'>,
): Promise<void> {
  if (kind === 'search') {
    const snapshot = await services.snapshots.latest(engagementId)
    if (snapshot) await services.estate.find(snapshot, text, 0)
    return
  }
  try {
    compileScope(text)
  } catch (error) {
    throw new Problem(422, error instanceof Error ? error.message : String(error))
  }
}

export const groupRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/groups',
    access: 'read',
    summary: 'Saved groups with the devices that are in them as of a snapshot',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const groups = await services.database
        .getRepository(Groups)
        .find({ where: { engagementId }, order: { title: 'ASC' } })
      const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
      const members = snapshot ? await services.estate.members(snapshot, groups) : new Map()
      return groups.map(({ id, title, kind, text, counted }) => ({
        id,
        title,
        kind,
        text,
        counted,
        ...(members.get(title) ?? { inside: [], undecided: [] }),
      }))
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/groups/try',
    access: 'read',
    summary: 'Who would be in a group, who would not, and of whom it cannot be said',
    query: asOf.extend({ kind: z.enum(['filter', 'search']), text: z.string().trim().min(1).max(1000) }),
    handle: async ({ services, engagementId, query: { kind, text, snapshot: id } }) => {
      await checked(services, engagementId, { kind, text })
      const snapshot = await services.snapshots.asOf(engagementId, id)
      if (!snapshot) return { inside: [], undecided: [], outside: [] }
      const members = (await services.estate.members(snapshot, [{ title: '', kind, text }])).get('') ?? {
        inside: [],
        undecided: [],
      }
      const said = new Set([...members.inside, ...members.undecided.map(({ device }) => device)])
      return {
        ...members,
        outside: (await services.estate.devices(snapshot)).map(({ name }) => name).filter((name) => !said.has(name)),
      }
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/groups',
    access: 'describe',
    summary: 'Saves a group: a filter, or a search',
    body: groupSchema,
    handle: async ({ services, caller, engagementId, body }) => {
      await checked(services, engagementId, body)
      const rows = services.database.getRepository(Groups)
      if (await rows.existsBy({ engagementId, title: body.title }))
        throw new Problem(422, `There is a group “${body.title}” already.`)
      const { id } = await rows.save(
        rows.create({ engagementId, ...body, createdBy: caller.user.id, createdAt: new Date() }),
      )
      services.estate.changed(engagementId)
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'group saved', detail: body })
      return { id }
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/groups/:group',
    access: 'describe',
    summary: 'Counts a group on the overview, or no longer',
    body: z.strictObject({ counted: z.boolean() }),
    handle: async ({ services, engagementId, params, body }) => {
      const rows = services.database.getRepository(Groups)
      if (!(await rows.existsBy({ id: idIn(params, 'group'), engagementId }))) throw notFound('group')
      await rows.update({ id: idIn(params, 'group'), engagementId }, body)
      return undefined
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/groups/:group',
    access: 'describe',
    summary: 'Forgets a group; rules whose scope names it then find nobody in it',
    handle: async ({ services, caller, engagementId, params }) => {
      const rows = services.database.getRepository(Groups)
      const group = await rows.findOneBy({ id: idIn(params, 'group'), engagementId })
      if (!group) throw notFound('group')
      await rows.delete({ id: group.id })
      services.estate.changed(engagementId)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'group forgotten',
        detail: { title: group.title },
      })
      return undefined
    },
  }),
]

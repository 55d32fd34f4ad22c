import { addGroup, countGroup, deleteGroup, listGroups, tryGroup } from '@jurybox/api/groups'
import { compileScope } from '@jurybox/core/rules'
import { Groups, type SavedGroup } from './entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

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
  route(listGroups, async ({ services, engagementId, query }) => {
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
  }),
  route(tryGroup, async ({ services, engagementId, query: { kind, text, snapshot: id } }) => {
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
  }),
  route(addGroup, async ({ services, caller, engagementId, body }) => {
    await checked(services, engagementId, body)
    const rows = services.database.getRepository(Groups)
    if (await rows.existsBy({ engagementId, title: body.title }))
      throw new Problem(422, `The group “${body.title}” already exists.`)
    const { id } = await rows.save(
      rows.create({ engagementId, ...body, createdBy: caller.user.id, createdAt: new Date() }),
    )
    services.estate.changed(engagementId)
    await services.activity.add({ userId: caller.user.id, engagementId, action: 'group saved', detail: body })
    return { id }
  }),
  route(countGroup, async ({ services, engagementId, params, body }) => {
    const rows = services.database.getRepository(Groups)
    if (!(await rows.existsBy({ id: params.group, engagementId }))) throw notFound('group')
    await rows.update({ id: params.group, engagementId }, body)
    return undefined
  }),
  route(deleteGroup, async ({ services, caller, engagementId, params }) => {
    const rows = services.database.getRepository(Groups)
    const group = await rows.findOneBy({ id: params.group, engagementId })
    if (!group) throw notFound('group')
    await rows.delete({ id: group.id })
    services.estate.changed(engagementId)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'group deleted',
      detail: { title: group.title },
    })
    return undefined
  }),
]

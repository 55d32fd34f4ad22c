import { deleteView, listViews, saveView } from '@jurybox/api/views'
import { In } from 'typeorm'
import { Users } from '../auth/entity.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { SavedViews, type SavedView } from './entity.ts'

const viewOf = ({ id, title, query }: SavedView, by: string) => ({ id, title, query, by })

export const viewRoutes = [
  route(listViews, async ({ services, engagementId, query: { sheet } }) => {
    const rows = await services.database
      .getRepository(SavedViews)
      .find({ where: { engagementId, sheet }, order: { title: 'ASC' } })
    const people = await services.database
      .getRepository(Users)
      .findBy({ id: In(rows.map(({ createdBy }) => createdBy)) })
    return rows.map((row) => viewOf(row, people.find(({ id }) => id === row.createdBy)?.fullName ?? ''))
  }),
  route(saveView, async ({ services, caller, engagementId, body: { sheet, title, query } }) => {
    const rows = services.database.getRepository(SavedViews)
    const before = await rows.findOneBy({ engagementId, sheet, title })
    const saved = await rows.save(
      rows.create({ ...before, engagementId, sheet, title, query, createdBy: caller.user.id, createdAt: new Date() }),
    )
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'view saved',
      detail: { sheet, title },
    })
    return viewOf(saved, caller.user.fullName)
  }),
  route(deleteView, async ({ services, caller, engagementId, params }) => {
    const rows = services.database.getRepository(SavedViews)
    const view = await rows.findOneBy({ id: params.view, engagementId })
    if (!view) throw notFound('view')
    await rows.delete({ id: view.id })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'view deleted',
      detail: { sheet: view.sheet, title: view.title },
    })
    return undefined
  }),
]

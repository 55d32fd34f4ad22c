import { addToken, dataTable, listTokens, readData, revokeToken } from '@jurybox/api/data'
import { csvOf } from '@jurybox/core/syntax'
import { download } from '../http/download.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { ApiToken } from './entity.ts'

function viewOf({ id, title, begins, tables, createdByName, createdAt, expiresAt, usedAt }: ApiToken) {
  return {
    ...{ id, title, begins, tables, by: createdByName },
    createdAt: createdAt.toISOString(),
    expiresAt: expiresAt.toISOString(),
    usedAt: usedAt?.toISOString() ?? null,
  }
}

type Cell = string | number | null | Date
const cellOf = (value: Cell): string | number => (value instanceof Date ? value.toISOString() : (value ?? ''))

export const dataRoutes = [
  route(readData, async ({ services, engagementId, params, query, response }) => {
    const table = dataTable.safeParse(params.table)
    if (!table.success) throw notFound('table')
    const limit = query.audit === undefined || table.data === 'devices' ? '' : ' AND audit_id = ?'
    const rows: Record<string, Cell>[] = await services.database.query(
      `SELECT * FROM export_${table.data} WHERE engagement_id = ?${limit}`,
      limit === '' ? [engagementId] : [engagementId, query.audit],
    )
    if (query.format === 'json') {
      response.json(rows)
      return undefined
    }
    const columns: { name: string }[] = await services.database.query(
      `SELECT column_name AS name FROM information_schema.columns
        WHERE table_schema = DATABASE() AND table_name = ? ORDER BY ordinal_position`,
      [`export_${table.data}`],
    )
    const names = columns.map(({ name }) => name)
    download(
      response,
      `${table.data}.csv`,
      'text/csv; charset=utf-8',
      csvOf(
        names,
        rows.map((row) => names.map((name) => cellOf(row[name] ?? null))),
      ),
    )
    return undefined
  }),
  route(listTokens, async ({ services, engagementId }) => (await services.tokens.list(engagementId)).map(viewOf)),
  route(addToken, async ({ services, caller, engagementId, body }) => {
    const { token, row } = await services.tokens.make(engagementId, body, caller.user)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'token made',
      detail: { title: row.title, tables: row.tables, until: row.expiresAt.toISOString() },
    })
    return { token, view: viewOf(row) }
  }),
  route(revokeToken, async ({ services, caller, engagementId, params }) => {
    const row = await services.tokens.revoke(engagementId, params.token)
    if (!row) throw notFound('token')
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'token revoked',
      detail: { title: row.title },
    })
    return undefined
  }),
]

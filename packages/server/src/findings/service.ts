import type { FindingView } from '@jurybox/api/findings'
import { findingKey } from '@jurybox/core/exchange'
import { may } from '@jurybox/api/roles'
import { In, type DataSource } from 'typeorm'
import type { ActivityLog } from '../activity/activity.ts'
import { Memberships } from '../engagements/entity.ts'
import { Users, type User } from '../auth/entity.ts'
import { Verdicts, type Audit, type StoredVerdict } from '../audits/entity.ts'
import { Problem } from '../http/problem.ts'
import { Findings, type FindingRow } from './entity.ts'

/** What names a finding from audit to audit. */
type Named = Pick<FindingRow, 'benchmark' | 'rule' | 'device'>

/** What is changed of findings; what is left out stays. */
export interface FindingChange {
  readonly owner?: number | null | undefined
  readonly due?: string | null | undefined
  readonly comment?: string | undefined
  readonly done?: boolean | undefined
}

/** The day as it is in UTC: what is due on it is not overdue before it ends. */
export const today = (now = Date.now()): string => new Date(now).toISOString().slice(0, 10)

const NOBODY: FindingView = { owner: null, due: null, overdue: false, comment: '', done: null }

/** What people say of findings: who sees to them, until when, what is done. */
export class FindingService {
  constructor(
    readonly database: DataSource,
    readonly activity: ActivityLog,
  ) {}

  /** Of all findings of an engagement on which somebody said something, by {@link findingKey}. */
  async of(engagementId: number): Promise<ReadonlyMap<string, FindingView>> {
    const rows = await this.database.getRepository(Findings).findBy({ engagementId })
    return this.#viewed(rows)
  }

  /** What is said of one; nothing yet where nobody did. */
  async one(engagementId: number, { benchmark, rule, device }: Named): Promise<FindingView> {
    const row = await this.database.getRepository(Findings).findOneBy({ engagementId, benchmark, rule, device })
    return row ? ((await this.#viewed([row])).get(findingKey(row)) ?? NOBODY) : NOBODY
  }

  /**
   * Changes findings of an audit, all of them or none.
   * @param verdicts ids of verdicts of the audit
   * @returns what is said of each now, in the order of the ids
   * @throws Problem where an id is none of this audit, or the owner may not change findings
   */
  async update(
    audit: Audit,
    verdicts: readonly number[],
    change: FindingChange,
    by: User,
  ): Promise<(FindingView & { verdict: number })[]> {
    const { engagementId } = audit
    const named = await this.verdictsOf(audit, verdicts)
    if (change.owner) await this.#requireOwner(engagementId, change.owner)
    const rows = await this.database.transaction(async (manager) => {
      const before = new Map(
        (
          await manager.find(Findings, {
            where: { engagementId, rule: In([...new Set(named.map(({ rule }) => rule))]) },
            lock: { mode: 'pessimistic_write' },
          })
        ).map((row) => [findingKey(row), row]),
      )
      const after = named.map((one) => changed(before.get(findingKey(one)), { ...one, engagementId }, change, by))
      await manager.upsert(Findings, after, ['engagementId', 'benchmark', 'rule', 'device'])
      return after
    })
    await this.#log(engagementId, by, named, change)
    const views = await this.#viewed(rows)
    return named.map((one) => ({ ...(views.get(findingKey(one)) ?? NOBODY), verdict: one.id }))
  }

  /** Verdicts of an audit by their ids, in their order. @throws Problem where one is none of this audit */
  async verdictsOf(
    audit: Audit,
    ids: readonly number[],
  ): Promise<Pick<StoredVerdict, 'id' | 'benchmark' | 'rule' | 'device' | 'outcome'>[]> {
    const rows = await this.database
      .getRepository(Verdicts)
      .find({
        where: { auditId: audit.id, id: In([...ids]) },
        select: { id: true, benchmark: true, rule: true, device: true, outcome: true },
      })
    const found = new Map(rows.map((row) => [row.id, row]))
    return ids.map((id) => {
      const row = found.get(id)
      if (!row) throw new Problem(422, `Audit ${audit.id} has no verdict ${id}.`)
      return row
    })
  }

  async #requireOwner(engagementId: number, userId: number): Promise<void> {
    const membership = await this.database.getRepository(Memberships).findOneBy({ engagementId, userId })
    if (!membership) throw new Problem(422, 'The owner must be a member of this engagement.')
    if (!may(membership.role, 'remediate'))
      throw new Problem(422, 'The owner is a reader and cannot change findings. Choose another member.')
  }

  async #log(engagementId: number, by: User, named: readonly Named[], change: FindingChange): Promise<void> {
    const add = (action: string, detail: Readonly<Record<string, unknown>>): Promise<void> =>
      this.activity.add({
        userId: by.id,
        engagementId,
        action,
        detail: { ...detail, findings: named.map(({ rule, device }) => ({ rule, device })).slice(0, 50) },
      })
    const count = named.length
    if (change.done !== undefined) await add(change.done ? 'remediation done' : 'remediation reopened', { count })
    if (change.owner !== undefined) await add('finding assigned', { count, owner: await this.#nameOf(change.owner) })
    if (change.due !== undefined) await add('due date set', { count, due: change.due })
  }

  async #nameOf(userId: number | null): Promise<string | null> {
    if (userId === null) return null
    return (await this.database.getRepository(Users).findOneBy({ id: userId }))?.fullName ?? null
  }

  async #viewed(rows: readonly FindingRow[]): Promise<Map<string, FindingView>> {
    const ids = [...new Set(rows.flatMap(({ ownerId }) => ownerId ?? []))]
    const users = ids.length === 0 ? [] : await this.database.getRepository(Users).findBy({ id: In(ids) })
    const names = new Map(users.map(({ id, fullName }) => [id, fullName]))
    const day = today()
    return new Map(
      rows.map((row) => [
        findingKey(row),
        {
          owner: row.ownerId === null ? null : { id: row.ownerId, name: names.get(row.ownerId) ?? '' },
          due: row.dueOn,
          overdue: row.dueOn !== null && row.doneAt === null && row.dueOn < day,
          comment: row.comment,
          done: row.doneAt && { by: row.doneByName, at: row.doneAt.toISOString() },
        },
      ]),
    )
  }
}

/** A row as it is after a change. The first who called it done stays, whoever says so again. */
function changed(
  before: FindingRow | undefined,
  { engagementId, benchmark, rule, device }: Named & { engagementId: number },
  { owner, due, comment, done }: FindingChange,
  by: User,
): FindingRow {
  const row: FindingRow = before ?? {
    engagementId,
    benchmark,
    rule,
    device,
    comment: '',
    ownerId: null,
    dueOn: null,
    doneBy: null,
    doneByName: '',
    doneAt: null,
  }
  const isNews = done !== undefined && done !== (row.doneAt !== null)
  return {
    ...row,
    comment: comment ?? row.comment,
    ownerId: owner === undefined ? row.ownerId : owner,
    dueOn: due === undefined ? row.dueOn : due,
    ...(isNews
      ? { doneBy: done ? by.id : null, doneByName: done ? by.fullName : '', doneAt: done ? new Date() : null }
      : {}),
  }
}

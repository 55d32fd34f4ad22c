import { ACTIVITY_COLUMNS, type ActivityColumn, type ActivityFilter } from '@jurybox/api/activity'
import { LessThan, MoreThanOrEqual, type DataSource, type SelectQueryBuilder } from 'typeorm'
import { Activities, type ActivityEntry } from './entity.ts'
import type { LogAnchor } from './anchor.ts'
import { likeOf } from '../db/like.ts'
import { sha256 } from '../vault/vault.ts'

/** What the text of a column is looked for in. */
const TEXTS: Readonly<Record<ActivityColumn, string>> = {
  at: "DATE_FORMAT(a.at, '%Y-%m-%d %H:%i')",
  user: 'person.fullName',
  action: 'a.action',
  words: "CONCAT(a.action, ' ', a.detail)",
}
const ORDERS: Readonly<Record<Exclude<ActivityColumn, 'at'>, string>> = {
  user: 'person.fullName',
  action: 'a.action',
  words: 'a.detail',
}

export interface NewActivity {
  readonly userId: number | null
  readonly engagementId: number | null
  readonly action: string
  readonly detail: Readonly<Record<string, unknown>>
}

const FIRST = '0'.repeat(64)
const UNREADABLE = sha256('the head of the audit log could not be read')

function hashOf(entry: Omit<ActivityEntry, 'id' | 'hash'>): string {
  return sha256(
    JSON.stringify([
      entry.previous,
      entry.at.toISOString(),
      entry.userId,
      entry.engagementId,
      entry.action,
      entry.detail,
    ]),
  )
}

/** Who did what: append-only (the database refuses anything else), each entry bound to the one before by its hash. */
export class ActivityLog {
  constructor(
    readonly database: DataSource,
    readonly anchor: LogAnchor,
  ) {}

  /** Says so in the log where its anchor is gone: the entries before can then not be vouched for. */
  async open(): Promise<void> {
    if (this.anchor.isThere || (await this.database.getRepository(Activities).count()) === 0) return
    await this.add({ userId: null, engagementId: null, action: 'audit log head was missing', detail: {} })
  }

  /** Entries are chained one after the other; this process is the only writer of its private database. */
  #tail: Promise<void> = Promise.resolve()

  add(deed: NewActivity): Promise<void> {
    const added = this.#tail.then(() => this.#append(deed))
    // A failed entry is its caller's matter; the next one must not wait for it for ever.
    this.#tail = added.catch(() => undefined)
    return added
  }

  async #append(deed: NewActivity): Promise<void> {
    const entries = this.database.getRepository(Activities)
    const [last] = await entries.find({ order: { id: 'DESC' }, take: 1, select: { id: true, hash: true } })
    const entry = {
      at: new Date(),
      userId: deed.userId,
      engagementId: deed.engagementId,
      action: deed.action,
      detail: JSON.stringify(deed.detail),
      previous: (await this.#lost()) ?? last?.hash ?? FIRST,
    }
    const hash = hashOf(entry)
    const { identifiers } = await entries.insert({ ...entry, hash })
    this.anchor.write({ id: Number(identifiers[0]?.['id']), hash })
  }

  /** What the next entry follows where the head was cut off or forged, so that the gap shows for ever; else null. */
  async #lost(): Promise<string | null> {
    if (!this.anchor.isThere) return null
    const head = this.anchor.readOrNull()
    if (head === null) return UNREADABLE
    return (await this.database.getRepository(Activities).existsBy(head)) ? null : head.hash
  }

  /**
   * Id of the first entry that is missing or does not follow from the one before it; null where the chain is whole.
   * @param from id of the first entry that is looked at: what is before it is taken as it stands
   */
  async firstBreak(from = 0): Promise<number | null> {
    const head = this.anchor.isThere ? this.anchor.readOrNull() : null
    let isHeadMet = !this.anchor.isThere
    const entries = this.database.getRepository(Activities)
    const [before] = await entries.find({ where: { id: LessThan(from) }, order: { id: 'DESC' }, take: 1 })
    let previous = before?.hash ?? FIRST
    let last: number | null = before?.id ?? null
    for (const entry of await entries.find({ where: { id: MoreThanOrEqual(from) }, order: { id: 'ASC' } })) {
      if (entry.previous !== previous || entry.hash !== hashOf(entry)) return entry.id
      previous = entry.hash
      last = entry.id
      if (entry.id === head?.id && entry.hash === head.hash) isHeadMet = true
    }
    return isHeadMet ? null : (head?.id ?? last)
  }

  /** Entries of an engagement, or with null of the installation, the newest first where nothing else is asked for. */
  asked(engagementId: number | null, asked: ActivityFilter): SelectQueryBuilder<ActivityEntry> {
    const found = this.database
      .getRepository(Activities)
      .createQueryBuilder('a')
      .leftJoinAndMapOne('a.user', 'users', 'person', 'person.id = a.userId')
    if (engagementId === null) found.where('a.engagementId IS NULL')
    else found.where('a.engagementId = :engagementId', { engagementId })
    for (const column of ACTIVITY_COLUMNS) {
      const text = asked[`f.${column}`]
      if (text) found.andWhere(`LOWER(${TEXTS[column]}) LIKE :f_${column}`, { [`f_${column}`]: likeOf(text) })
    }
    const column = (asked.sort?.replace('-', '') ?? 'at') as ActivityColumn
    const order = asked.sort === undefined || asked.sort.startsWith('-') ? 'DESC' : 'ASC'
    return (column === 'at' ? found : found.orderBy(ORDERS[column], order)).addOrderBy(
      'a.id',
      column === 'at' ? order : 'DESC',
    )
  }
}

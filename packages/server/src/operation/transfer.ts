import { randomUUID } from 'node:crypto'
import { open } from 'node:fs/promises'
import type { DataSource, EntityManager } from 'typeorm'
import { z } from 'zod'
import { verdictPlace } from '../audits/sealed-verdicts.ts'
import { sha256, type Vault } from '../vault/vault.ts'
import { BackupFault, FrameWriter, VERSION, framesIn } from './frames.ts'

const FORMAT = 'jurybox-engagement'

type Cell = string | number | boolean | null | Buffer
type Row = Record<string, Cell>

/** How the rows of a table belong to an engagement, and what they refer to. */
interface Table {
  readonly name: string
  /** Which rows: a condition with one `?` for the engagement. */
  readonly of: string
  /** Whether `id` is given by the database. */
  readonly numbered?: true
  /** Columns that hold the `id` of a row of another table. */
  readonly refs?: Readonly<Record<string, string>>
  /** Columns that hold the `id` of an account. */
  readonly people?: readonly string[]
  /** Columns that are sealed, and the place of each. */
  readonly sealed?: Readonly<Record<string, (row: Row) => string>>
  /** Whether a row may be there already, being the same for everybody. */
  readonly shared?: string
}

const OWN = 'engagement_id = ?'
const IN_SNAPSHOTS = 'snapshot_id IN (SELECT id FROM snapshots WHERE engagement_id = ?)'
const IN_AUDITS =
  'SELECT judgement_id FROM audit_judgements WHERE audit_id IN (SELECT id FROM audits WHERE engagement_id = ?)'
const OF_ENGAGEMENT = { engagement_id: 'engagements' }

/**
 * Parents first. What belongs to an installation stays there: members, credentials, how devices are reached, schedules,
 * alerts, and the audit log.
 */
const TABLES: readonly Table[] = [
  { name: 'engagements', of: 'id = ?', numbered: true, sealed: { mask_key: () => 'mask key' } },
  {
    name: 'benchmark_versions',
    of: 'hash IN (SELECT hash FROM own_benchmarks WHERE engagement_id = ?)',
    shared: 'hash',
  },
  {
    name: 'contents',
    of: 'sha256 IN (SELECT r.sha256 FROM records r JOIN devices d ON d.id = r.device_id WHERE d.engagement_id = ?)',
    shared: 'sha256',
    sealed: { body: ({ sha256: hash }) => String(hash) },
  },
  { name: 'devices', of: OWN, numbered: true, refs: OF_ENGAGEMENT },
  { name: 'snapshots', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['created_by'] },
  {
    name: 'records',
    of: 'device_id IN (SELECT id FROM devices WHERE engagement_id = ?)',
    numbered: true,
    refs: { device_id: 'devices' },
    people: ['brought_by'],
  },
  { name: 'snapshot_records', of: IN_SNAPSHOTS, refs: { snapshot_id: 'snapshots', record_id: 'records' } },
  { name: 'snapshot_tags', of: IN_SNAPSHOTS, refs: { snapshot_id: 'snapshots' }, people: ['set_by'] },
  {
    name: 'jobs',
    of: 'id IN (SELECT job_id FROM audits WHERE engagement_id = ?)',
    numbered: true,
    refs: OF_ENGAGEMENT,
    people: ['created_by'],
  },
  {
    name: 'audits',
    of: OWN,
    numbered: true,
    refs: { ...OF_ENGAGEMENT, snapshot_id: 'snapshots', job_id: 'jobs' },
    people: ['created_by'],
  },
  { name: 'judgements', of: `id IN (${IN_AUDITS})`, numbered: true },
  {
    name: 'audit_judgements',
    of: 'audit_id IN (SELECT id FROM audits WHERE engagement_id = ?)',
    refs: { audit_id: 'audits', judgement_id: 'judgements', device_id: 'devices' },
  },
  {
    name: 'verdicts',
    of: `judgement_id IN (${IN_AUDITS})`,
    numbered: true,
    refs: { judgement_id: 'judgements' },
    sealed: {
      sealed: ({ judgement_id: id, benchmark, rule }) => verdictPlace(Number(id), String(benchmark), String(rule)),
    },
  },
  { name: 'fittings', of: OWN, refs: OF_ENGAGEMENT, people: ['set_by'] },
  { name: 'own_benchmarks', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['created_by'] },
  { name: 'own_frameworks', of: OWN, refs: OF_ENGAGEMENT, people: ['created_by'] },
  { name: 'labels', of: OWN, refs: OF_ENGAGEMENT, people: ['created_by'] },
  {
    name: 'label_changes',
    of: OWN,
    numbered: true,
    refs: { ...OF_ENGAGEMENT, device_id: 'devices' },
    people: ['set_by'],
  },
  { name: 'sites', of: OWN, refs: OF_ENGAGEMENT },
  { name: 'saved_groups', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['created_by'] },
  { name: 'approvals', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['created_by'] },
  { name: 'attestations', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['answered_by', 'reviewed_by'] },
  { name: 'answer_requests', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['asked_of', 'asked_by'] },
  { name: 'saved_reports', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['created_by'] },
  { name: 'saved_views', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['created_by'] },
  { name: 'waivers', of: OWN, numbered: true, refs: OF_ENGAGEMENT, people: ['created_by'] },
  { name: 'findings', of: OWN, refs: OF_ENGAGEMENT, people: ['done_by', 'owner_id'] },
  { name: 'retentions', of: OWN, refs: OF_ENGAGEMENT, people: ['set_by'] },
  { name: 'change_files', of: OWN, refs: OF_ENGAGEMENT, people: ['set_by'] },
  { name: 'change_messages', of: OWN, numbered: true, refs: OF_ENGAGEMENT },
  {
    name: 'approved_states',
    of: OWN,
    numbered: true,
    refs: { ...OF_ENGAGEMENT, device_id: 'devices', snapshot_id: 'snapshots' },
    people: ['approved_by'],
  },
  {
    name: 'change_windows',
    of: OWN,
    numbered: true,
    refs: { ...OF_ENGAGEMENT, before_id: 'snapshots', after_id: 'snapshots' },
    people: ['created_by'],
  },
  { name: 'traffic_files', of: OWN, refs: OF_ENGAGEMENT, people: ['set_by'] },
  { name: 'traffic_confirmations', of: OWN, refs: OF_ENGAGEMENT, people: ['confirmed_by'] },
  { name: 'traffic_outcomes', of: IN_SNAPSHOTS, refs: { snapshot_id: 'snapshots' } },
]

const cellSchema = z.union([
  z.string(),
  z.number(),
  z.boolean(),
  z.null(),
  z.strictObject({ base64: z.string() }),
  z.strictObject({ time: z.iso.datetime() }),
])
const rowSchema = z.strictObject({ table: z.string(), row: z.record(z.string(), cellSchema) })
const endSchema = z.strictObject({
  people: z.record(z.string(), z.string()),
  rows: z.record(z.string(), z.int().nonnegative()),
})

/** How many rows of each table. */
export type TransferCounts = Readonly<Record<string, number>>

/** Writes an engagement, sealed with a key of its own. @throws BackupFault where there is none of that number */
export async function exportEngagement(
  database: DataSource,
  vault: Vault,
  engagementId: number,
  transfer: Vault,
  file: string,
  build: string,
): Promise<TransferCounts> {
  const out = await open(file, 'wx', 0o600)
  try {
    const frames = new FrameWriter(out, transfer)
    const rows: Record<string, number> = {}
    const people: Record<string, string> = {}
    // One moment for all tables.
    await database.transaction('REPEATABLE READ', async (manager) => {
      const migrations = (
        await manager.query<{ name: string }[]>('SELECT name FROM migrations ORDER BY timestamp')
      ).map(({ name }) => name)
      await frames.head({
        format: FORMAT,
        version: VERSION,
        id: randomUUID(),
        madeAt: new Date().toISOString(),
        build,
        migrations,
      })
      for (const table of TABLES) {
        const ids = await manager.query<Row[]>(`SELECT * FROM \`${table.name}\` WHERE ${table.of}`, [engagementId])
        if (table.name === 'engagements' && ids.length === 0)
          throw new BackupFault(`There is no engagement ${engagementId}`)
        for (const row of ids) {
          const clear = { ...row }
          for (const [column, place] of Object.entries(table.sealed ?? {}))
            if (Buffer.isBuffer(row[column])) clear[column] = vault.unseal(row[column], place(row))
          await frames.add({
            table: table.name,
            row: Object.fromEntries(Object.entries(clear).map(([name, cell]) => [name, written(cell)])),
          })
        }
        rows[table.name] = ids.length
      }
      for (const { id, name } of await manager.query<{ id: number; name: string }[]>('SELECT id, name FROM users'))
        people[String(id)] = name
    })
    await frames.add({ people, rows })
    await out.sync()
    return rows
  } finally {
    await out.close()
  }
}

/**
 * Makes an engagement of an exported one: all of it or nothing. Who did something is the account of the same sign-in
 * name, or else the new lead.
 * @param lead sign-in name of an account here
 * @throws BackupFault
 */
export async function importEngagement(
  database: DataSource,
  vault: Vault,
  transfer: Vault,
  file: string,
  lead: string,
): Promise<{ engagementId: number; rows: TransferCounts }> {
  const input = await open(file, 'r')
  try {
    return await database.transaction(async (manager) => {
      const accounts = new Map(
        (await manager.query<{ id: number; name: string }[]>('SELECT id, name FROM users')).map(({ id, name }) => [
          name,
          id,
        ]),
      )
      const leadId = accounts.get(lead)
      if (leadId === undefined) throw new BackupFault(`There is no account “${lead}” here to lead the engagement`)
      const known = new Set(
        (await manager.query<{ name: string }[]>('SELECT name FROM migrations')).map(({ name }) => name),
      )
      const { people } = await endOf(file, transfer)
      const writer = new RowWriter(manager, vault, (id) => accounts.get(people[String(id)] ?? '') ?? leadId)
      let end: z.infer<typeof endSchema> | null = null
      for await (const { head, body } of framesIn(input, file, FORMAT, transfer)) {
        const newer = head.migrations.filter((name) => !known.has(name))
        if (newer.length > 0 || head.migrations.length < known.size)
          throw new BackupFault(`${file}: made by another version of Jury Box; export and import with the same one`)
        if (body === null) continue
        const row = rowSchema.safeParse(body)
        if (row.success) await writer.write(row.data.table, row.data.row)
        else end = endSchema.parse(body)
      }
      if (!end) throw new BackupFault(`${file}: truncated`)
      for (const [table, count] of Object.entries(end.rows))
        if ((writer.counts[table] ?? 0) !== count)
          throw new BackupFault(`${file}: ${table} holds ${writer.counts[table] ?? 0} of ${count} rows`)
      await writer.finish()
      const engagementId = writer.newId('engagements')
      await manager.query('INSERT INTO memberships (engagement_id, user_id, role) VALUES (?, ?, ?)', [
        engagementId,
        leadId,
        'lead',
      ])
      return { engagementId, rows: end.rows }
    })
  } finally {
    await input.close()
  }
}

/** The last frame, which names the people of the others. */
async function endOf(file: string, transfer: Vault): Promise<z.infer<typeof endSchema>> {
  const input = await open(file, 'r')
  try {
    let last: unknown = null
    for await (const { body } of framesIn(input, file, FORMAT, transfer)) last = body
    const end = endSchema.safeParse(last)
    if (!end.success) throw new BackupFault(`${file}: truncated`)
    return end.data
  } finally {
    await input.close()
  }
}

/** Writes rows under new numbers. */
class RowWriter {
  readonly counts: Record<string, number> = {}
  /** By table: what each number became. */
  readonly #ids = new Map<string, Map<number, number>>()

  constructor(
    readonly manager: EntityManager,
    readonly vault: Vault,
    readonly accountOf: (id: number) => number,
  ) {}

  newId(table: string): number {
    return [...(this.#ids.get(table)?.values() ?? [])][0] ?? 0
  }

  async write(name: string, stated: z.infer<typeof rowSchema>['row']): Promise<void> {
    const table = TABLES.find((one) => one.name === name)
    if (!table) throw new BackupFault(`a table has the name ${JSON.stringify(name)}`)
    for (const column of Object.keys(stated))
      if (!/^[a-z_0-9]{1,64}$/.test(column)) throw new BackupFault(`a column has the name ${JSON.stringify(column)}`)
    this.counts[name] = (this.counts[name] ?? 0) + 1
    const row: Row = Object.fromEntries(Object.entries(stated).map(([column, cell]) => [column, readCell(cell)]))
    const old = Number(row['id'])
    if (table.numbered) delete row['id']
    for (const [column, parent] of Object.entries(table.refs ?? {}))
      if (row[column] !== null) row[column] = this.#moved(parent, Number(row[column]))
    for (const column of table.people ?? []) if (row[column] !== null) row[column] = this.accountOf(Number(row[column]))
    if (name === 'audit_judgements')
      for (const column of ['records', 'before_records'])
        row[column] = JSON.stringify(
          (JSON.parse(String(row[column])) as number[]).map((id) => this.#moved('records', id)),
        )
    if (name === 'jobs')
      row['params'] = JSON.stringify(this.#paramsOf(JSON.parse(String(row['params'])) as Record<string, unknown>))
    if (table.shared !== undefined && (await this.#isThere(name, table.shared, row))) return
    if (name === 'contents' && Buffer.isBuffer(row['body']) && sha256(row['body']) !== row['sha256'])
      throw new BackupFault(`the content ${String(row['sha256'])} does not match its hash`)
    for (const [column, place] of Object.entries(table.sealed ?? {}))
      if (Buffer.isBuffer(row[column])) row[column] = this.vault.seal(row[column], place(row))
    const columns = Object.keys(row)
    const { insertId } = await this.manager.query<{ insertId: number }>(
      `INSERT INTO \`${name}\` (${columns.map((column) => `\`${column}\``).join(', ')})
        VALUES (${columns.map(() => '?').join(', ')})`,
      Object.values(row),
    )
    if (!table.numbered) return
    const ids = this.#ids.get(name) ?? new Map<number, number>()
    this.#ids.set(name, ids.set(old, insertId))
  }

  /** What jobs say of audits, which came after them. */
  async finish(): Promise<void> {
    for (const audit of this.#ids.get('audits')?.values() ?? []) {
      await this.manager.query(
        "UPDATE jobs SET params = JSON_SET(params, '$.auditId', ?) WHERE id = (SELECT job_id FROM audits WHERE id = ?)",
        [audit, audit],
      )
    }
  }

  #paramsOf({ snapshotId, ...params }: Record<string, unknown>): Record<string, unknown> {
    return typeof snapshotId === 'number' ? { ...params, snapshotId: this.#moved('snapshots', snapshotId) } : params
  }

  #moved(table: string, id: number): number {
    const moved = this.#ids.get(table)?.get(id)
    if (moved === undefined) throw new BackupFault(`a row refers to ${table} ${id}, which is not in the file`)
    return moved
  }

  async #isThere(table: string, key: string, row: Row): Promise<boolean> {
    const found = await this.manager.query<unknown[]>(`SELECT 1 FROM \`${table}\` WHERE \`${key}\` = ?`, [row[key]])
    return found.length > 0
  }
}

function written(cell: unknown): unknown {
  if (Buffer.isBuffer(cell)) return { base64: cell.toString('base64') }
  if (cell instanceof Date) return { time: cell.toISOString() }
  return cell
}

function readCell(cell: z.infer<typeof cellSchema>): Cell {
  if (cell === null || typeof cell !== 'object') return cell
  return 'base64' in cell ? Buffer.from(cell.base64, 'base64') : cell.time.replace('T', ' ').replace('Z', '')
}

import { createHash, randomUUID, type Hash } from 'node:crypto'
import { open } from 'node:fs/promises'
import type { Connection, RowDataPacket } from 'mysql2'
import { createConnection } from 'mysql2'
import type { DataSource } from 'typeorm'
import { z } from 'zod'
import type { DatabaseAccess } from '../db/mariadb.ts'
import { Contents } from '../snapshots/entity.ts'
import { sha256, type Vault } from '../vault/vault.ts'
import { BackupFault, FrameWriter, VERSION, framesIn, type BackupHead } from './frames.ts'

/**
 * A backup is a file of frames, each four bytes of length (big-endian) and that many bytes sealed by the vault: first
 * the head, then rows of tables, and the manifest last, without which a file was cut short. See docs/formats/backup.md.
 */
const FORMAT = 'jurybox-backup'
/** Text of rows that go into one frame. */
const FRAME_BYTES = 4 * 1024 * 1024

const cellSchema = z.union([z.string(), z.number(), z.null(), z.object({ base64: z.string() })])
type Cell = z.infer<typeof cellSchema>
const rowsSchema = z.object({ table: z.string(), columns: z.array(z.string()), rows: z.array(z.array(cellSchema)) })

const manifestSchema = z.object({
  tables: z.array(z.object({ name: z.string(), rows: z.int().nonnegative(), sha256: z.string() })),
})
export type BackupManifest = z.infer<typeof manifestSchema>

/** Of these a restored installation has its own. */
const OWN_TABLES: ReadonlySet<string> = new Set(['migrations', 'sessions', 'digests'])

/**
 * Writes all tables as they are at one moment, while others go on working with them.
 * @returns the manifest
 */
export async function writeBackup(
  access: DatabaseAccess,
  vault: Vault,
  file: string,
  build: string,
): Promise<BackupManifest> {
  const connection = connect(access)
  const out = await open(file, 'wx', 0o600)
  try {
    const ask = asking(connection)
    await ask('SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ')
    await ask('START TRANSACTION WITH CONSISTENT SNAPSHOT')
    const id = randomUUID()
    const migrations = (await ask('SELECT name FROM migrations ORDER BY timestamp')).map(([name]) => String(name))
    const frames = new FrameWriter(out, vault)
    await frames.head({ format: FORMAT, version: VERSION, id, madeAt: new Date().toISOString(), build, migrations })
    const manifest: BackupManifest = { tables: [] }
    for (const name of await tablesOf(ask)) {
      const { columns, key } = await shapeOf(ask, name)
      const hash = createHash('sha256')
      let rows = 0
      for await (const some of rowsOf(connection, name, columns, key)) {
        rows += some.length
        for (const row of some) hashRow(hash, row)
        await frames.add({ table: name, columns, rows: some })
      }
      manifest.tables.push({ name, rows, sha256: hash.digest('hex') })
    }
    await frames.add(manifest)
    await out.sync()
    await ask('COMMIT')
    return manifest
  } finally {
    await out.close()
    connection.destroy()
  }
}

/** The head of a backup. @throws BackupFault */
export async function headOf(file: string, vault: Vault): Promise<BackupHead> {
  const input = await open(file, 'r')
  try {
    for await (const frame of framesIn(input, file, FORMAT, vault)) return frame.head
    throw new BackupFault(`${file}: empty`)
  } finally {
    await input.close()
  }
}

/**
 * Fills the empty tables of a database whose schema is that of the backup, and compares what is there then with the
 * manifest.
 * @throws BackupFault where the file is damaged, or what was written is not what the backup holds
 */
export async function restoreBackup(access: DatabaseAccess, vault: Vault, file: string): Promise<BackupManifest> {
  const connection = connect(access)
  const input = await open(file, 'r')
  try {
    const ask = asking(connection)
    await ask('SET FOREIGN_KEY_CHECKS = 0')
    let manifest: BackupManifest | null = null
    for await (const { body } of framesIn(input, file, FORMAT, vault)) {
      if (body === null) continue
      if (manifest) throw new BackupFault(`${file}: unexpected data after the manifest`)
      const rows = rowsSchema.safeParse(body)
      if (rows.success) await insert(ask, rows.data)
      else manifest = manifestSchema.parse(body)
    }
    if (!manifest) throw new BackupFault(`${file}: truncated (no manifest)`)
    for (const { name, rows, sha256: expected } of manifest.tables) {
      const found = await hashOf(ask, connection, name)
      if (found.rows !== rows || found.sha256 !== expected)
        throw new BackupFault(`${file}: the table ${name} was not restored as it was (${found.rows} of ${rows} rows)`)
    }
    return manifest
  } finally {
    await input.close()
    connection.destroy()
  }
}

/**
 * Opens every content and compares it with the hash that it is kept under. @returns how many there are @throws
 * BackupFault
 */
export async function verifyContents(database: DataSource, vault: Vault): Promise<number> {
  const contents = database.getRepository(Contents)
  const hashes = await contents.find({ select: { sha256: true } })
  for (const { sha256: expected } of hashes) {
    const { body } = await contents.findOneByOrFail({ sha256: expected })
    if (sha256(vault.unseal(body, expected)) !== expected)
      throw new BackupFault(`the content ${expected} does not match its hash`)
  }
  return hashes.length
}

type CompiledCondition = (sql: string, values?: readonly unknown[]) => Promise<Cell[][]>

function connect({ host, port, username, password, database }: DatabaseAccess): Connection {
  // Numbers and times as the database writes them: what is read is what is written again.
  return createConnection({
    host,
    port,
    user: username,
    password,
    database,
    charset: 'utf8mb4',
    dateStrings: true,
    supportBigNumbers: true,
    bigNumberStrings: true,
    rowsAsArray: true,
    multipleStatements: false,
  })
}

function asking(connection: Connection): CompiledCondition {
  return async (sql, values = []) => {
    const [rows] = await connection.promise().query<RowDataPacket[]>(sql, [...values])
    return Array.isArray(rows) ? (rows as unknown as Cell[][]) : []
  }
}

async function tablesOf(ask: CompiledCondition): Promise<string[]> {
  return (await ask("SHOW FULL TABLES WHERE Table_type = 'BASE TABLE'"))
    .map(([name]) => String(name))
    .filter((name) => !OWN_TABLES.has(name))
    .sort()
}

/** @returns names of the columns, and of those by which rows have one order */
async function shapeOf(ask: CompiledCondition, table: string): Promise<{ columns: string[]; key: string[] }> {
  const described = (await ask(`SHOW COLUMNS FROM \`${table}\``)).map(([name, , , key]) => ({
    name: String(name),
    isKey: key === 'PRI',
  }))
  const columns = described.map(({ name }) => name)
  const key = described.filter(({ isKey }) => isKey).map(({ name }) => name)
  return { columns, key: key.length > 0 ? key : columns }
}

async function* rowsOf(
  connection: Connection,
  table: string,
  columns: readonly string[],
  key: readonly string[],
): AsyncGenerator<Cell[][]> {
  const names = (list: readonly string[]): string => list.map((name) => `\`${name}\``).join(', ')
  const stream = connection
    .query(`SELECT ${names(columns)} FROM \`${table}\` ORDER BY ${names(key)}`)
    .stream({ highWaterMark: 20 })
  let some: Cell[][] = []
  let bytes = 0
  for await (const raw of stream as AsyncIterable<readonly unknown[]>) {
    const row = raw.map(cellOf)
    some.push(row)
    bytes += row.reduce<number>((sum, cell) => sum + sizeOf(cell), 0)
    if (bytes < FRAME_BYTES) continue
    yield some
    some = []
    bytes = 0
  }
  if (some.length > 0) yield some
}

function cellOf(value: unknown): Cell {
  if (Buffer.isBuffer(value)) return { base64: value.toString('base64') }
  if (value === null || typeof value === 'string' || typeof value === 'number') return value
  return String(value)
}

function sizeOf(cell: Cell): number {
  if (typeof cell === 'string') return cell.length
  return cell !== null && typeof cell === 'object' ? cell.base64.length : 8
}

function hashRow(hash: Hash, row: readonly Cell[]): void {
  hash.update(JSON.stringify(row)).update('\n')
}

async function hashOf(
  ask: CompiledCondition,
  connection: Connection,
  table: string,
): Promise<{ rows: number; sha256: string }> {
  const { columns, key } = await shapeOf(ask, table)
  const hash = createHash('sha256')
  let rows = 0
  for await (const some of rowsOf(connection, table, columns, key)) {
    rows += some.length
    for (const row of some) hashRow(hash, row)
  }
  return { rows, sha256: hash.digest('hex') }
}

async function insert(ask: CompiledCondition, { table, columns, rows }: z.infer<typeof rowsSchema>): Promise<void> {
  for (const name of [table, ...columns])
    if (!/^[a-z_0-9]{1,64}$/.test(name)) throw new BackupFault(`a table or column has the name ${JSON.stringify(name)}`)
  const names = columns.map((name) => `\`${name}\``).join(', ')
  const values = (row: readonly Cell[]): unknown[] =>
    row.map((cell) => (cell !== null && typeof cell === 'object' ? Buffer.from(cell.base64, 'base64') : cell))
  // One row may be large: each goes by itself, in one transaction for the frame.
  await ask('START TRANSACTION')
  for (const row of rows)
    await ask(`INSERT INTO \`${table}\` (${names}) VALUES (${columns.map(() => '?').join(', ')})`, values(row))
  await ask('COMMIT')
}

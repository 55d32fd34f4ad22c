import { DataSource } from 'typeorm'
import { ENTITIES } from './entities.ts'
import { Initial1764000000000 } from './migrations/1-initial.ts'
import { Judging1764100000000 } from './migrations/2-judging.ts'
import { Judgements1764200000000 } from './migrations/3-judgements.ts'
import { Tidying1764300000000 } from './migrations/4-tidying.ts'
import { Collecting1764400000000 } from './migrations/5-collecting.ts'
import { Schedules1764500000000 } from './migrations/6-schedules.ts'
import { Estates1764600000000 } from './migrations/7-estates.ts'
import { Alerts1764700000000 } from './migrations/8-alerts.ts'
import { Archive1764800000000 } from './migrations/9-archive.ts'
import { Ways1764900000000 } from './migrations/10-ways.ts'
import { Estate1765000000000 } from './migrations/11-estate.ts'
import { Traffic1765100000000 } from './migrations/12-traffic.ts'
import { Confirmations1765200000000 } from './migrations/13-confirmations.ts'
import { Readings1765300000000 } from './migrations/14-readings.ts'
import { Accounts1765400000000 } from './migrations/15-accounts.ts'
import { SealedVerdicts1765500000000 } from './migrations/16-sealed-verdicts.ts'
import { PlainOutcomes1796000000000 } from './migrations/17-plain-outcomes.ts'
import { Findings1796100000000 } from './migrations/18-findings.ts'
import { ModelNames1796200000000 } from './migrations/19-model-names.ts'
import { Changes1796300000000 } from './migrations/20-changes.ts'
import { Evidence1796400000000 } from './migrations/21-evidence.ts'
import { Reports1796500000000 } from './migrations/22-reports.ts'
import { Data1796600000000 } from './migrations/23-data.ts'
import { READER, type DatabaseAccess, type PrivateMariaDb } from './mariadb.ts'

export const MIGRATIONS = [
  Initial1764000000000,
  Judging1764100000000,
  Judgements1764200000000,
  Tidying1764300000000,
  Collecting1764400000000,
  Schedules1764500000000,
  Estates1764600000000,
  Alerts1764700000000,
  Archive1764800000000,
  Ways1764900000000,
  Estate1765000000000,
  Traffic1765100000000,
  Confirmations1765200000000,
  Readings1765300000000,
  Accounts1765400000000,
  SealedVerdicts1765500000000,
  PlainOutcomes1796000000000,
  Findings1796100000000,
  ModelNames1796200000000,
  Changes1796300000000,
  Evidence1796400000000,
  Reports1796500000000,
  Data1796600000000,
]

/** Connects and brings the schema up to date; the schema changes by migrations only. */
export async function openDatabase(access: DatabaseAccess, migrations = MIGRATIONS): Promise<DataSource> {
  const source = sourceOf(access, migrations)
  await source.initialize()
  await refuseNewer(source, migrations)
  await source.runMigrations({ transaction: 'each' })
  return source
}

function sourceOf(access: DatabaseAccess, migrations: typeof MIGRATIONS): DataSource {
  return new DataSource({
    type: 'mariadb',
    ...access,
    charset: 'utf8mb4',
    timezone: 'Z',
    entities: ENTITIES,
    migrations,
    synchronize: false,
    extra: { connectionLimit: 12 },
  })
}

/** Tables to which entries are added, and of which none is ever changed. */
const APPENDED: ReadonlySet<string> = new Set(['activity'])

/** Brings the schema up to date as its owner, and connects with the account that works with rows alone. */
export async function openForWork({
  access,
  appAccess,
  readerIsOn,
}: Pick<PrivateMariaDb, 'access' | 'appAccess' | 'readerIsOn'>): Promise<DataSource> {
  const owner = await openDatabase(access)
  try {
    const tables = await owner.query<{ name: string }[]>(
      "SELECT table_name AS name FROM information_schema.tables WHERE table_schema = 'jurybox'",
    )
    for (const { name } of tables) {
      const rights = APPENDED.has(name) ? 'SELECT, INSERT' : 'SELECT, INSERT, UPDATE, DELETE'
      await owner.query(`GRANT ${rights} ON jurybox.\`${name}\` TO '${appAccess.username}'@'127.0.0.1'`)
      if (readerIsOn && name.startsWith('export_'))
        await owner.query(`GRANT SELECT ON jurybox.\`${name}\` TO '${READER}'@'127.0.0.1'`)
    }
  } finally {
    await owner.destroy()
  }
  const source = sourceOf(appAccess, [])
  return source.initialize()
}

/** Data that were written by a newer version: this one does not know what they mean, and touches nothing. */
async function refuseNewer(source: DataSource, migrations: typeof MIGRATIONS): Promise<void> {
  const [table] = await source.query<unknown[]>("SHOW TABLES LIKE 'migrations'")
  if (!table) return
  const known = new Set(migrations.map(({ name }) => name))
  const done = await source.query<{ name: string }[]>('SELECT name FROM migrations ORDER BY timestamp')
  const unknown = done.map(({ name }) => name).filter((name) => !known.has(name))
  if (unknown.length === 0) return
  await source.destroy()
  throw new Error(
    `The data were written by a newer version of Jury Box (it has ${unknown.join(', ')}). Start that ` +
      'version, or restore a backup of this one. Nothing was changed.',
  )
}

import { DataSource } from 'typeorm'
import { ENTITIES } from './entities.ts'
import { Initial1764000000000 } from './migrations/1-initial.ts'
import { Judging1764100000000 } from './migrations/2-judging.ts'
import type { DatabaseAccess } from './mariadb.ts'

/** Connects and brings the schema up to date; the schema changes by migrations only. */
export async function openDatabase(access: DatabaseAccess): Promise<DataSource> {
  const source = new DataSource({
    type: 'mariadb',
    ...access,
    charset: 'utf8mb4',
    timezone: 'Z',
    entities: ENTITIES,
    migrations: [Initial1764000000000, Judging1764100000000],
    synchronize: false,
    extra: { connectionLimit: 12 },
  })
  await source.initialize()
  await source.runMigrations({ transaction: 'each' })
  return source
}

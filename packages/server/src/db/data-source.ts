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
import type { DatabaseAccess } from './mariadb.ts'

export const MIGRATIONS = [
  Initial1764000000000, Judging1764100000000, Judgements1764200000000, Tidying1764300000000, Collecting1764400000000,
  Schedules1764500000000, Estates1764600000000, Alerts1764700000000, Archive1764800000000, Ways1764900000000,
  Estate1765000000000, Traffic1765100000000, Confirmations1765200000000, Readings1765300000000,
]

/** Connects and brings the schema up to date; the schema changes by migrations only. */
export async function openDatabase(access: DatabaseAccess, migrations = MIGRATIONS): Promise<DataSource> {
  const source = new DataSource({
    type: 'mariadb',
    ...access,
    charset: 'utf8mb4',
    timezone: 'Z',
    entities: ENTITIES,
    migrations,
    synchronize: false,
    extra: { connectionLimit: 12 },
  })
  await source.initialize()
  await source.runMigrations({ transaction: 'each' })
  return source
}

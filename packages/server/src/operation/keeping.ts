/** Backup and restore of a whole data folder, from the command line. */
import { randomBytes } from 'node:crypto'
import { existsSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { buildId } from '@jurybox/content'
import type { DataSource } from 'typeorm'
import { MIGRATIONS, openDatabase } from '../db/data-source.ts'
import { LogAnchor } from '../activity/anchor.ts'
import { Activities } from '../activity/entity.ts'
import { PrivateMariaDb, type DatabaseAccess } from '../db/mariadb.ts'
import { Vault, givenKey, keyOf } from '../vault/vault.ts'
import { headOf, restoreBackup, verifyContents, writeBackup, type BackupManifest } from './backup.ts'
import { BackupFault } from './frames.ts'
import { FolderInUse, claimFolder, ownerOf } from './folder.ts'
import { exportEngagement, importEngagement, type TransferCounts } from './transfer.ts'

/** What is done to a data folder while no server works on it. */
export async function offline<T>(
  dataFolder: string,
  command: string,
  work: (mariadb: PrivateMariaDb) => Promise<T>,
): Promise<T> {
  const release = claimFolder(dataFolder, command)
  try {
    const mariadb = await PrivateMariaDb.start(dataFolder)
    try {
      return await work(mariadb)
    } finally {
      await mariadb.stop()
    }
  } finally {
    release()
  }
}

/** What is done to a database while a server of this machine may work on it as well. */
async function beside<T>(
  dataFolder: string,
  command: string,
  work: (access: DatabaseAccess) => Promise<T>,
): Promise<T> {
  const owner = ownerOf(dataFolder)
  if (owner && owner.host !== hostname()) throw new FolderInUse(dataFolder, owner)
  if (owner) return work(PrivateMariaDb.accessOf(dataFolder))
  return offline(dataFolder, command, ({ access }) => work(access))
}

/** Writes a backup of a data folder, also while a server of this machine works on it. */
export async function backUp(
  dataFolder: string,
  file: string,
  environment: NodeJS.ProcessEnv,
): Promise<BackupManifest> {
  if (existsSync(file)) throw new BackupFault(`${file} already exists. Choose another name`)
  if (!existsSync(join(dataFolder, 'mariadb'))) throw new BackupFault(`There is no data in ${dataFolder}`)
  const vault = Vault.open(dataFolder, environment, false)
  try {
    return await beside(dataFolder, 'backup', (access) => writeBackup(access, vault, file, buildId()))
  } catch (error) {
    rmSync(file, { force: true })
    throw error
  }
}

/**
 * Makes a data folder of a backup, and compares every table and every content with its hash.
 * @throws BackupFault where the folder is not empty, or the backup cannot be used; the folder is then as it was
 */
export async function restore(
  dataFolder: string,
  file: string,
  environment: NodeJS.ProcessEnv,
): Promise<{ manifest: BackupManifest; contents: number }> {
  if (existsSync(dataFolder) && readdirSync(dataFolder).length > 0)
    throw new BackupFault(`${dataFolder} is not empty: a backup is restored into a new folder`)
  const key = givenKey(environment)
  if (!key) throw new BackupFault('Provide the key of the backed-up installation in JURYBOX_KEY or JURYBOX_KEY_COMMAND')
  const vault = new Vault(key)
  const head = await headOf(file, vault)
  const known = new Set(MIGRATIONS.map(({ name }) => name))
  const newer = head.migrations.filter((name) => !known.has(name))
  if (newer.length > 0)
    throw new BackupFault(`${file}: made by a newer version of Jury Box (it has ${newer.join(', ')})`)
  try {
    return await offline(dataFolder, 'restore', async (mariadb) => {
      const then = await openDatabase(
        mariadb.access,
        MIGRATIONS.filter(({ name }) => head.migrations.includes(name)),
      )
      await then.destroy()
      const manifest = await restoreBackup(PrivateMariaDb.accessOf(dataFolder), vault, file)
      const now = await openDatabase(mariadb.access)
      const contents = await verifyContents(now, vault)
      const [last] = await now.getRepository(Activities).find({ order: { id: 'DESC' }, take: 1 })
      if (last) new LogAnchor(dataFolder, vault).write(last)
      await now.destroy()
      writeFileSync(join(dataFolder, 'key'), `${key.toString('hex')}\n`, { mode: 0o600 })
      return { manifest, contents }
    })
  } catch (error) {
    for (const name of existsSync(dataFolder) ? readdirSync(dataFolder) : [])
      rmSync(join(dataFolder, name), { recursive: true, force: true })
    throw error
  }
}

/**
 * Writes one engagement into a file, for another installation.
 * @returns the key that the file is sealed with: the one given in JURYBOX_TRANSFER_KEY, or a new one
 */
export async function exportOne(
  dataFolder: string,
  engagementId: number,
  file: string,
  environment: NodeJS.ProcessEnv,
): Promise<{ key: string; rows: TransferCounts }> {
  if (existsSync(file)) throw new BackupFault(`${file} already exists. Choose another name`)
  const given = environment['JURYBOX_TRANSFER_KEY']
  const key = given === undefined ? randomBytes(32) : keyOf(given, 'JURYBOX_TRANSFER_KEY')
  try {
    const rows = await withDatabase(dataFolder, 'export', environment, (database, vault) =>
      exportEngagement(database, vault, engagementId, new Vault(key), file, buildId()),
    )
    return { key: key.toString('hex'), rows }
  } catch (error) {
    rmSync(file, { force: true })
    throw error
  }
}

/** Makes an engagement of an exported file. @param lead sign-in name of who leads it here */
export async function importOne(
  dataFolder: string,
  file: string,
  lead: string,
  environment: NodeJS.ProcessEnv,
): Promise<{ engagementId: number; rows: TransferCounts }> {
  const given = environment['JURYBOX_TRANSFER_KEY']
  if (given === undefined) throw new BackupFault('Provide the key printed by the export in JURYBOX_TRANSFER_KEY')
  const transfer = new Vault(keyOf(given, 'JURYBOX_TRANSFER_KEY'))
  return withDatabase(dataFolder, 'import', environment, (database, vault) =>
    importEngagement(database, vault, transfer, file, lead),
  )
}

async function withDatabase<T>(
  dataFolder: string,
  command: string,
  environment: NodeJS.ProcessEnv,
  work: (database: DataSource, vault: Vault) => Promise<T>,
): Promise<T> {
  return beside(dataFolder, command, async (access) => {
    const database = await openDatabase(access)
    try {
      return await work(database, Vault.open(dataFolder, environment, false))
    } finally {
      await database.destroy()
    }
  })
}

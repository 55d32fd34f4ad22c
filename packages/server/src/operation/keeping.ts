/** Backup and restore of a whole data folder, from the command line. */
import { existsSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { buildId } from '@jurybox/content'
import { MIGRATIONS, openDatabase } from '../db/data-source.ts'
import { LogAnchor } from '../activity/anchor.ts'
import { Activities } from '../db/entities.ts'
import { PrivateMariaDb } from '../db/mariadb.ts'
import { Vault, givenKey } from '../vault/vault.ts'
import { BackupFault, headOf, restoreBackup, verifyContents, writeBackup, type BackupManifest } from './backup.ts'
import { FolderTaken, claimFolder, ownerOf } from './folder.ts'

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

/** Writes a backup of a data folder, also while a server of this machine works on it. */
export async function backUp(
  dataFolder: string,
  file: string,
  environment: NodeJS.ProcessEnv,
): Promise<BackupManifest> {
  if (existsSync(file)) throw new BackupFault(`${file} is there already: choose another name`)
  if (!existsSync(join(dataFolder, 'mariadb'))) throw new BackupFault(`There is no data in ${dataFolder}`)
  const vault = Vault.open(dataFolder, environment, false)
  const owner = ownerOf(dataFolder)
  if (owner && owner.host !== hostname()) throw new FolderTaken(dataFolder, owner)
  try {
    if (owner) return await writeBackup(PrivateMariaDb.accessOf(dataFolder), vault, file, buildId())
    return await offline(dataFolder, 'backup', () =>
      writeBackup(PrivateMariaDb.accessOf(dataFolder), vault, file, buildId()),
    )
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
  if (!key)
    throw new BackupFault(
      'Give the key of the installation that the backup was made of in JURYBOX_KEY or JURYBOX_KEY_COMMAND',
    )
  const vault = new Vault(key)
  const head = await headOf(file, vault)
  const known = new Set(MIGRATIONS.map(({ name }) => name))
  const newer = head.migrations.filter((name) => !known.has(name))
  if (newer.length > 0)
    throw new BackupFault(`${file}: made by a newer version of Jury Box (it knows ${newer.join(', ')})`)
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

import { randomBytes } from 'node:crypto'
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { DataSource } from 'typeorm'
import { placeOf } from '../collect/credentials.ts'
import { Alerts } from '../db/alert-entities.ts'
import { Contents, Credentials, Engagements } from '../db/entities.ts'
import { placeOf as alertPlace } from '../alerts/channels.ts'
import { Vault } from './vault.ts'


/** Whether a key opens what is stored; where nothing is, any does. */
export async function opens(database: DataSource, vault: Vault): Promise<boolean> {
  const engagement = await database.getRepository(Engagements).findOne({ where: {}, order: { id: 'ASC' } })
  if (!engagement) return true
  try {
    vault.unseal(engagement.maskKey, 'mask key')
    return true
  } catch {
    // Not this key: that is the answer.
    return false
  }
}

/**
 * The vault with the key that opens what is stored. A change of keys that was cut short is brought to its end.
 * @throws Error where no key that is there opens it
 */
export async function fittingVault(database: DataSource, dataFolder: string, environment: NodeJS.ProcessEnv): Promise<Vault> {
  const vault = Vault.open(dataFolder, environment)
  if (await opens(database, vault)) return vault
  const next = join(dataFolder, 'key.next')
  if (existsSync(next)) {
    const other = new Vault(Buffer.from(readFileSync(next, 'utf8').trim(), 'hex'))
    if (await opens(database, other)) {
      renameSync(next, join(dataFolder, 'key'))
      return other
    }
  }
  throw new Error(`The key does not open what is stored. Give the key that it was sealed with: in JURYBOX_KEY, or in the file ${join(dataFolder, 'key')}. Nothing was changed.`)
}

/** Seals everything with another key, all or nothing. @returns how many things were sealed anew */
export async function sealAnew(database: DataSource, from: Vault, to: Vault): Promise<number> {
  return database.transaction(async (manager) => {
    let count = 0
    // What was read of devices is read again.
    await manager.query('DELETE FROM digests')
    const hashes = (await manager.find(Contents, { select: { sha256: true } })).map(({ sha256 }) => sha256)
    // One at a time: together they may be more than memory holds.
    for (const sha256 of hashes) {
      const { body } = await manager.findOneByOrFail(Contents, { sha256 })
      await manager.update(Contents, { sha256 }, { body: to.seal(from.unseal(body, sha256), sha256) })
      count++
    }
    for (const { id, maskKey } of await manager.find(Engagements)) {
      await manager.update(Engagements, { id }, { maskKey: to.seal(from.unseal(maskKey, 'mask key'), 'mask key') })
      count++
    }
    for (const { id, engagementId, title, secret } of await manager.find(Credentials)) {
      const place = placeOf(engagementId, title)
      await manager.update(Credentials, { id }, { secret: to.seal(from.unseal(secret, place), place) })
      count++
    }
    for (const { id, engagementId, secret } of await manager.find(Alerts)) {
      if (secret === null) continue
      const place = alertPlace(engagementId)
      await manager.update(Alerts, { id }, { secret: to.seal(from.unseal(secret, place), place) })
      count++
    }
    return count
  })
}

/**
 * A new key in place of the one in the data folder. The new one is written first and takes its name last, so that a cut at any
 * moment leaves one of the two fitting.
 * @throws Error where the key comes from the environment: whoever keeps it there has to change it there
 */
export async function rotateKey(database: DataSource, dataFolder: string, environment: NodeJS.ProcessEnv): Promise<number> {
  if (environment['JURYBOX_KEY'] !== undefined && environment['JURYBOX_NEW_KEY'] === undefined) throw new Error('The key comes from JURYBOX_KEY: give the new one in JURYBOX_NEW_KEY (64 hexadecimal digits), and put it in place of the old one afterwards')
  const from = await fittingVault(database, dataFolder, environment)
  const given = environment['JURYBOX_NEW_KEY']
  if (given !== undefined && !/^[\da-f]{64}$/i.test(given)) throw new Error('JURYBOX_NEW_KEY must hold 64 hexadecimal digits')
  const key = given ?? randomBytes(32).toString('hex')
  const next = join(dataFolder, 'key.next')
  if (given === undefined) writeFileSync(next, `${key}\n`, { mode: 0o600 })
  const count = await sealAnew(database, from, new Vault(Buffer.from(key, 'hex')))
  if (given === undefined) renameSync(next, join(dataFolder, 'key'))
  return count
}

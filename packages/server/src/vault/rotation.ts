import { randomBytes } from 'node:crypto'
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { DataSource } from 'typeorm'
import { LogAnchor } from '../activity/anchor.ts'
import { placeOf as alertPlace } from '../alerts/channels.ts'
import { verdictPlace } from '../audits/sealed-verdicts.ts'
import { secondFactorPlace } from '../auth/second-factor.ts'
import { placeOf } from '../collect/credentials.ts'
import { Alerts } from '../alerts/entity.ts'
import { Contents } from '../snapshots/entity.ts'
import { Credentials } from '../collect/entity.ts'
import { SigningKeys } from '../evidence/entity.ts'
import { signingPlace } from '../evidence/keys.ts'
import { Engagements } from '../engagements/entity.ts'
import { Users } from '../auth/entity.ts'
import { Vault, givenKey, keyOf } from './vault.ts'

const nextFile = (dataFolder: string): string => join(dataFolder, 'key.next')

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
export async function fittingVault(
  database: DataSource,
  dataFolder: string,
  environment: NodeJS.ProcessEnv,
): Promise<Vault> {
  const isFresh = (await database.getRepository(Users).count()) === 0
  const next = nextFile(dataFolder)
  if (givenKey(environment) === null && existsSync(next)) {
    const vault = await halfway(Vault.keyIn(dataFolder), keyOf(readFileSync(next, 'utf8'), next), database, dataFolder)
    if (vault) renameSync(next, join(dataFolder, 'key'))
    if (vault) return vault
  }
  const given = environment['JURYBOX_NEW_KEY']
  if (given !== undefined) {
    const vault = await halfway(givenKey(environment), keyOf(given, 'JURYBOX_NEW_KEY'), database, dataFolder)
    if (vault) return vault
  }
  const vault = Vault.open(dataFolder, environment, isFresh)
  if (await opens(database, vault)) return vault
  throw new Error(
    'The key does not decrypt the stored data. Provide the right key in JURYBOX_KEY, or in the file ' +
      `${join(dataFolder, 'key')}. Nothing was changed.`,
  )
}

/** Between two keys: what is sealed with either is sealed with the newer. Null where neither opens what is stored. */
async function halfway(
  older: Buffer | null,
  next: Buffer,
  database: DataSource,
  dataFolder: string,
): Promise<Vault | null> {
  const vault = new Vault(next, older)
  if (!(await opens(database, vault))) return null
  await resealAll(database, vault)
  new LogAnchor(dataFolder, vault).reseal()
  vault.settle()
  return vault
}

/**
 * Seals everything with the key that a vault seals with now. May be cut short and begun again, and runs beside other
 * work: a row that was changed meanwhile keeps what it was changed to.
 * @returns how many things were sealed
 */
export async function resealAll(database: DataSource, vault: Vault): Promise<number> {
  let count = 0
  const again = async (
    table: string,
    column: string,
    key: string,
    id: string | number,
    sealed: Buffer,
    place: string,
  ): Promise<void> => {
    const body = vault.seal(vault.unseal(sealed, place), place)
    await database.query(`UPDATE ${table} SET ${column} = ? WHERE ${key} = ? AND ${column} = ?`, [body, id, sealed])
    count++
  }
  const { manager } = database
  // What was read of devices is read again.
  await manager.query('DELETE FROM digests')
  const hashes = (await manager.find(Contents, { select: { sha256: true } })).map(({ sha256 }) => sha256)
  // One at a time: together they may be more than memory holds.
  for (const sha256 of hashes) {
    const content = await manager.findOneBy(Contents, { sha256 })
    if (content) await again('contents', 'body', 'sha256', sha256, content.body, sha256)
  }
  for (const { id, engagementId, title, secret } of await manager.find(Credentials))
    await again('credentials', 'secret', 'id', id, secret, placeOf(engagementId, title))
  for (const { id, totp } of await manager.find(Users))
    if (totp) await again('users', 'totp', 'id', id, totp, secondFactorPlace(id))
  for (const { id, engagementId, secret } of await manager.find(Alerts))
    if (secret) await again('alerts', 'secret', 'id', id, secret, alertPlace(engagementId))
  for (const key of await manager.find(SigningKeys))
    await again('signing_keys', 'private_key', 'id', key.id, key.privateKey, signingPlace(key))
  // In parts: there may be hundreds of thousands.
  for (let after = 0; ;) {
    const rows = await database.query<
      { id: number; judgement_id: number; benchmark: string; rule: string; sealed: Buffer }[]
    >(
      `SELECT id, judgement_id, benchmark, rule, sealed
        FROM verdicts
        WHERE id > ? AND sealed IS NOT NULL
        ORDER BY id LIMIT 500`,
      [after],
    )
    if (rows.length === 0) break
    for (const { id, judgement_id: judgementId, benchmark, rule, sealed } of rows)
      await again('verdicts', 'sealed', 'id', id, sealed, verdictPlace(judgementId, benchmark, rule))
    after = rows.at(-1)?.id ?? after
  }
  // Last: by these a start finds out which key is the one.
  for (const { id, maskKey } of await manager.find(Engagements))
    await again('engagements', 'mask_key', 'id', id, maskKey, 'mask key')
  return count
}

/**
 * Puts a new key in place of the one that a vault has, also while the server runs. The new one is written down first,
 * so that a cut at any moment leaves both at hand.
 * @throws Error where the key comes from the environment and no new one does: whoever keeps it has to change it there
 */
export async function rotateKey(
  database: DataSource,
  vault: Vault,
  dataFolder: string,
  environment: NodeJS.ProcessEnv,
): Promise<number> {
  const isGiven = givenKey(environment) !== null
  const given = environment['JURYBOX_NEW_KEY']
  if (isGiven && given === undefined)
    throw new Error(
      'The key comes from the environment: give the new one in JURYBOX_NEW_KEY (64 hexadecimal digits), ' +
        'and put it in place of the old one afterwards',
    )
  // A change that an outage cut short goes on with the key that it began with.
  if (!vault.isChanging) {
    const key = given === undefined ? randomBytes(32) : keyOf(given, 'JURYBOX_NEW_KEY')
    if (given === undefined)
      writeFileSync(nextFile(dataFolder), `${key.toString('hex')}\n`, { mode: 0o600, flush: true })
    vault.change(key)
  }
  const count = await resealAll(database, vault)
  new LogAnchor(dataFolder, vault).reseal()
  if (given === undefined) renameSync(nextFile(dataFolder), join(dataFolder, 'key'))
  vault.settle()
  return count
}

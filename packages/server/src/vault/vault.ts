import { spawnSync } from 'node:child_process'
import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync, gzipSync } from 'node:zlib'

/**
 * Seals what is stored: compressed, then AES-256-GCM (NIST SP 800-38D) with a fresh 96-bit nonce each time. Layout: one
 * byte of version, 12 bytes of nonce, 16 bytes of tag, the ciphertext.
 */
export class Vault {
  #key: Buffer
  /** During a change of keys: what is not sealed anew yet opens with this one. */
  #older: Buffer | null

  /** @param key 32 bytes; seals, and opens @param older 32 bytes; opens what the key does not */
  constructor(key: Buffer, older: Buffer | null = null) {
    for (const { length } of [key, ...(older ? [older] : [])])
      if (length !== 32) throw new Error(`The vault key must hold 32 bytes, not ${length}`)
    this.#key = key
    this.#older = older
  }

  /** From now on seals with another key; what is sealed with the one so far still opens. */
  change(next: Buffer): void {
    if (this.#older) throw new Error('A key change is already running')
    this.#older = this.#key
    this.#key = next
  }

  get isChanging(): boolean {
    return this.#older !== null
  }

  /** Everything is sealed with the new key. */
  settle(): void {
    this.#older = null
  }

  /**
   * The key from JURYBOX_KEY (64 hexadecimal digits), from what JURYBOX_KEY_COMMAND prints, or from a file in the data
   * folder. The file is made where there is none and nothing is sealed yet.
   * @throws Error where there is no key for what is sealed, or one that is none
   */
  static open(dataFolder: string, environment: NodeJS.ProcessEnv, isFresh: boolean): Vault {
    const given = givenKey(environment)
    if (given !== null) return new Vault(given)
    const file = join(dataFolder, 'key')
    if (!existsSync(file)) {
      if (!isFresh)
        throw new Error(
          `The key file ${file} is missing, and the stored data cannot be decrypted without it. Restore it, ` +
            'or provide the key in JURYBOX_KEY. Nothing was changed.',
        )
      writeFileSync(file, `${randomBytes(32).toString('hex')}\n`, { mode: 0o600, flag: 'wx' })
    }
    return new Vault(keyOf(readFileSync(file, 'utf8'), file))
  }

  /** The key in the file of a data folder; null where there is none. */
  static keyIn(dataFolder: string): Buffer | null {
    const file = join(dataFolder, 'key')
    return existsSync(file) ? keyOf(readFileSync(file, 'utf8'), file) : null
  }

  /** @param context what the bytes belong to; they open only in the same place */
  seal(bytes: Uint8Array, context: string): Buffer {
    return this.sealPacked(packed(bytes), context)
  }

  /** The same of bytes that were compressed elsewhere. @param bytes as `packed` gives them */
  sealPacked(bytes: Uint8Array, context: string): Buffer {
    const nonce = randomBytes(12)
    const cipher = createCipheriv('aes-256-gcm', this.#key, nonce)
    cipher.setAAD(Buffer.from(context))
    const body = cipher.update(bytes)
    cipher.final()
    return Buffer.concat([VERSION, nonce, cipher.getAuthTag(), body])
  }

  /** @throws Error where the bytes were changed, belong elsewhere, or were sealed with another key */
  unseal(sealed: Buffer, context: string): Buffer {
    if (sealed[0] !== 1) throw new Error('Encrypted content of an unknown version')
    try {
      return gunzipSync(opened(sealed, context, this.#key))
    } catch (error) {
      if (!this.#older) throw error
      return gunzipSync(opened(sealed, context, this.#older))
    }
  }
}

const VERSION = Buffer.of(1)

/** Compressed as what is sealed is. Small content with small tables, which are made anew each time. */
export function packed(bytes: Uint8Array): Buffer {
  return gzipSync(bytes, bytes.length < SMALL ? { windowBits: 12, memLevel: 5 } : {})
}

const SMALL = 8192

function opened(sealed: Buffer, context: string, key: Buffer): Buffer {
  const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(1, 13))
  decipher.setAAD(Buffer.from(context))
  decipher.setAuthTag(sealed.subarray(13, 29))
  return Buffer.concat([decipher.update(sealed.subarray(29)), decipher.final()])
}

/** Seconds that the command which prints the key may take. */
const COMMAND_SECONDS = 30

/** The key that the environment gives, itself or through a command; null where it gives none. */
export function givenKey(environment: NodeJS.ProcessEnv): Buffer | null {
  const { JURYBOX_KEY: key, JURYBOX_KEY_COMMAND: command } = environment
  if (key !== undefined) return keyOf(key, 'JURYBOX_KEY')
  if (command === undefined) return null
  const { status, stdout, error } = spawnSync('/bin/sh', ['-c', command], {
    encoding: 'utf8',
    timeout: COMMAND_SECONDS * 1000,
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  if (error || status !== 0)
    throw new Error(`JURYBOX_KEY_COMMAND ended with ${error ? error.message : `exit ${status}`}; no key was read`)
  return keyOf(stdout, 'the output of JURYBOX_KEY_COMMAND')
}

/** @throws Error that says where, and never what */
export function keyOf(text: string, where: string): Buffer {
  const digits = text.trim()
  if (!/^[\da-f]{64}$/i.test(digits)) throw new Error(`${where} must hold 64 hexadecimal digits`)
  return Buffer.from(digits, 'hex')
}

export function sha256(data: string | Uint8Array): string {
  return createHash('sha256').update(data).digest('hex')
}

import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync, gzipSync } from 'node:zlib'

/**
 * Seals what is stored: compressed, then AES-256-GCM (NIST SP 800-38D) with a fresh 96-bit nonce each time.
 * Layout: one byte of version, 12 bytes of nonce, 16 bytes of tag, the ciphertext.
 */
export class Vault {
  readonly #key: Buffer

  /** @param key 32 bytes */
  constructor(key: Buffer) {
    if (key.length !== 32) throw new Error(`The vault key must hold 32 bytes, not ${key.length}`)
    this.#key = key
  }

  /** Key from JURYBOX_KEY (64 hexadecimal digits), else from a file in the data folder, made when there is none. */
  static open(dataFolder: string, environment: NodeJS.ProcessEnv): Vault {
    const given = environment['JURYBOX_KEY']
    if (given !== undefined) {
      if (!/^[\da-f]{64}$/i.test(given)) throw new Error('JURYBOX_KEY must hold 64 hexadecimal digits')
      return new Vault(Buffer.from(given, 'hex'))
    }
    const file = join(dataFolder, 'key')
    if (!existsSync(file)) writeFileSync(file, `${randomBytes(32).toString('hex')}\n`, { mode: 0o600, flag: 'wx' })
    return new Vault(Buffer.from(readFileSync(file, 'utf8').trim(), 'hex'))
  }

  /** @param context what the bytes belong to; they open only in the same place */
  seal(bytes: Uint8Array, context: string): Buffer {
    const nonce = randomBytes(12)
    const cipher = createCipheriv('aes-256-gcm', this.#key, nonce)
    cipher.setAAD(Buffer.from(context))
    const body = Buffer.concat([cipher.update(gzipSync(bytes)), cipher.final()])
    return Buffer.concat([Buffer.of(1), nonce, cipher.getAuthTag(), body])
  }

  /** @throws Error where the bytes were changed, belong elsewhere, or were sealed with another key */
  unseal(sealed: Buffer, context: string): Buffer {
    if (sealed[0] !== 1) throw new Error('Sealed content of an unknown version')
    const decipher = createDecipheriv('aes-256-gcm', this.#key, sealed.subarray(1, 13))
    decipher.setAAD(Buffer.from(context))
    decipher.setAuthTag(sealed.subarray(13, 29))
    return gunzipSync(Buffer.concat([decipher.update(sealed.subarray(29)), decipher.final()]))
  }
}

export function sha256(data: string | Uint8Array): string {
  return createHash('sha256').update(data).digest('hex')
}

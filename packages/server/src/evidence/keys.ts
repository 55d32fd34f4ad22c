import { createPrivateKey, generateKeyPairSync, sign } from 'node:crypto'
import { keyFingerprint } from '@jurybox/core/evidence'
import type { DataSource } from 'typeorm'
import type { Vault } from '../vault/vault.ts'
import { SigningKeys, type SigningKey } from './entity.ts'

/** A key that signs; its private part never leaves this place. */
export interface Signer {
  /** 32 bytes in base64. */
  readonly publicKey: string
  readonly sign: (message: Uint8Array) => Uint8Array
}

type Owner = { readonly engagementId: number } | { readonly userId: number }

/** How a public key is told to people. @param publicKey as it is stored, in base64 */
export function fingerprintOf(publicKey: string): string {
  return keyFingerprint(new Uint8Array(Buffer.from(publicKey, 'base64')))
}

/** Where the private part of a key opens, and nowhere else. */
export function signingPlace({ engagementId, userId }: Pick<SigningKey, 'engagementId' | 'userId'>): string {
  return engagementId === null ? `signing key of user ${userId ?? ''}` : `signing key of engagement ${engagementId}`
}

/** The Ed25519 keys (RFC 8032) of engagements, and of people who countersign. */
export class SigningKeyRing {
  constructor(
    readonly database: DataSource,
    readonly vault: Vault,
  ) {}

  /** The public part; null where nothing was signed yet. */
  async publicKey(owner: Owner): Promise<string | null> {
    return (await this.#rows.findOneBy(owner))?.publicKey ?? null
  }

  /** Makes a key where its owner has none. */
  async signer(owner: Owner): Promise<Signer> {
    const row = (await this.#rows.findOneBy(owner)) ?? (await this.#made(owner))
    const key = createPrivateKey({
      key: this.vault.unseal(row.privateKey, signingPlace(row)),
      format: 'der',
      type: 'pkcs8',
    })
    return { publicKey: row.publicKey, sign: (message) => new Uint8Array(sign(null, message, key)) }
  }

  async #made(owner: Owner): Promise<SigningKey> {
    const { publicKey, privateKey } = generateKeyPairSync('ed25519')
    const whose = { engagementId: null, userId: null, ...owner }
    const row = {
      ...whose,
      publicKey: publicKey.export({ format: 'der', type: 'spki' }).subarray(12).toString('base64'),
      privateKey: this.vault.seal(privateKey.export({ format: 'der', type: 'pkcs8' }), signingPlace(whose)),
      createdAt: new Date(),
    }
    // Two who sign at once come to the same key: the first one that was written down.
    await this.#rows.createQueryBuilder().insert().values(row).orIgnore().execute()
    return this.#rows.findOneByOrFail(owner)
  }

  get #rows() {
    return this.database.getRepository(SigningKeys)
  }
}

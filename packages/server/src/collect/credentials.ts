import type { Credential } from '@jurybox/collector'
import type { DataSource } from 'typeorm'
import { z } from 'zod'
import { Credentials } from './entity.ts'
import type { Vault } from '../vault/vault.ts'

/** The secret part of a credential, stored encrypted. It is only ever sent to a device. */
const secretSchema = z.strictObject({
  password: z.string(),
  privileged: z.string().optional(),
  privateKey: z.string().optional(),
  snmp: z.strictObject({ user: z.string(), auth: z.string(), privacy: z.string() }).optional(),
})
export type CredentialSecret = z.infer<typeof secretSchema>

export class CredentialStore {
  constructor(
    readonly database: DataSource,
    readonly vault: Vault,
  ) {}

  async add(
    engagementId: number,
    userId: number,
    { title, user, ...secret }: { readonly title: string; readonly user: string } & CredentialSecret,
  ): Promise<number> {
    const sealed = this.vault.seal(Buffer.from(JSON.stringify(secret)), placeOf(engagementId, title))
    const { id } = await this.#rows.save(
      this.#rows.create({
        engagementId,
        title,
        userName: user,
        secret: sealed,
        createdBy: userId,
        createdAt: new Date(),
      }),
    )
    return id
  }

  /** Without their secrets. */
  async list(engagementId: number): Promise<{ id: number; title: string; user: string; createdAt: string }[]> {
    const rows = await this.#rows.find({
      where: { engagementId },
      select: { id: true, title: true, userName: true, createdAt: true },
      order: { id: 'ASC' },
    })
    return rows.map(({ id, title, userName, createdAt }) => ({
      id,
      title,
      user: userName,
      createdAt: createdAt.toISOString(),
    }))
  }

  async remove(engagementId: number, id: number): Promise<boolean> {
    return ((await this.#rows.delete({ engagementId, id })).affected ?? 0) > 0
  }

  /** For a collection that is about to run. */
  async opened(engagementId: number): Promise<Credential[]> {
    const rows = await this.#rows.find({ where: { engagementId }, order: { id: 'ASC' } })
    return rows.map(({ id, title, userName, secret }) => ({
      id: String(id),
      user: userName,
      ...secretSchema.parse(JSON.parse(this.vault.unseal(secret, placeOf(engagementId, title)).toString('utf8'))),
    }))
  }

  get #rows() {
    return this.database.getRepository(Credentials)
  }
}

/** A sealed secret opens in its own place only. */
export function placeOf(engagementId: number, title: string): string {
  return `credential ${engagementId} ${title}`
}

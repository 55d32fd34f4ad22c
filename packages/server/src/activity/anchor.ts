import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { z } from 'zod'
import type { Vault } from '../vault/vault.ts'

const headSchema = z.object({ id: z.int().positive(), hash: z.string() })
export type LogHead = z.infer<typeof headSchema>

const PLACE = 'audit log'

/**
 * The last entry of the audit log, sealed in a file outside the database: a log that was emptied or cut shows by it.
 */
export class LogAnchor {
  readonly file: string

  constructor(
    dataFolder: string,
    readonly vault: Vault,
  ) {
    this.file = join(dataFolder, 'audit-log-head')
  }

  get isThere(): boolean {
    return existsSync(this.file)
  }

  /** @throws Error where the file was changed by anyone else */
  read(): LogHead {
    return headSchema.parse(JSON.parse(this.vault.unseal(readFileSync(this.file), PLACE).toString()))
  }

  /** Null where the file was changed by anyone else. */
  readOrNull(): LogHead | null {
    try {
      return this.read()
    } catch {
      return null
    }
  }

  write({ id, hash }: LogHead): void {
    writeFileSync(`${this.file}.next`, this.vault.seal(Buffer.from(JSON.stringify({ id, hash })), PLACE), {
      mode: 0o600,
    })
    renameSync(`${this.file}.next`, this.file)
  }

  /** With the key that the vault seals with now. */
  reseal(): void {
    if (this.isThere) this.write(this.read())
  }
}

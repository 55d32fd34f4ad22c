import { type FileHandle } from 'node:fs/promises'
import { z } from 'zod'
import type { Vault } from '../vault/vault.ts'

/**
 * A file of frames, each four bytes of length (big-endian) and that many bytes sealed by a vault: first the head, then
 * bodies, the last of which says that nothing is missing. See docs/formats/backup.md.
 */
export const VERSION = 1
/** Larger frames are damage: one row may hold one record, sealed and in base64. */
const LONGEST_FRAME = 256 * 1024 * 1024

const headSchema = z.object({
  format: z.string(),
  version: z.literal(VERSION, `only backup version ${VERSION} is supported`),
  id: z.uuid(),
  madeAt: z.string(),
  build: z.string(),
  /** Names of the migrations that made the schema. */
  migrations: z.array(z.string()),
})
export type BackupHead = z.infer<typeof headSchema>

/** A file that cannot be used; says which and why. */
export class BackupFault extends Error {}

/** Seals frames one after the other: none can be left out, doubled or put elsewhere. */
export class FrameWriter {
  #id = ''
  #at = 0

  constructor(
    readonly out: FileHandle,
    readonly vault: Vault,
  ) {}

  async head(head: BackupHead): Promise<void> {
    await this.#write(Buffer.from(JSON.stringify(head)), 'backup')
    this.#id = head.id
  }

  async add(body: object): Promise<void> {
    await this.#write(Buffer.from(JSON.stringify(body)), `backup ${this.#id} ${++this.#at}`)
  }

  async #write(bytes: Buffer, place: string): Promise<void> {
    const sealed = this.vault.seal(bytes, place)
    const length = Buffer.alloc(4)
    length.writeUInt32BE(sealed.length)
    await this.out.write(Buffer.concat([length, sealed]))
  }
}

export async function* framesIn(
  input: FileHandle,
  file: string,
  format: string,
  vault: Vault,
): AsyncGenerator<{ head: BackupHead; body: unknown }> {
  let head: BackupHead | null = null
  for (let at = 0; ; at++) {
    const length = await read(input, 4, file)
    if (length === null) return
    const size = length.readUInt32BE()
    if (size > LONGEST_FRAME) throw new BackupFault(`${file}: not a backup of Jury Box`)
    const sealed = await read(input, size, file)
    if (sealed === null) throw new BackupFault(`${file}: truncated`)
    const text = unsealed(vault, sealed, head ? `backup ${head.id} ${at}` : 'backup', file)
    if (head) yield { head, body: JSON.parse(text) as unknown }
    else {
      const parsed = headSchema.safeParse(JSON.parse(text))
      if (!parsed.success) throw new BackupFault(`${file}: ${parsed.error.issues[0]?.message}`)
      if (parsed.data.format !== format) throw new BackupFault(`${file}: holds ${parsed.data.format}, not ${format}`)
      head = parsed.data
      yield { head, body: null }
    }
  }
}

function unsealed(vault: Vault, sealed: Buffer, place: string, file: string): string {
  try {
    return vault.unseal(sealed, place).toString('utf8')
  } catch {
    throw new BackupFault(`${file}: damaged, or encrypted with another key. Provide the right key.`)
  }
}

/** Null at the end of the file. */
async function read(input: FileHandle, size: number, file: string): Promise<Buffer | null> {
  const buffer = Buffer.alloc(size)
  let done = 0
  while (done < size) {
    const { bytesRead } = await input.read(buffer, done, size - done)
    if (bytesRead === 0) break
    done += bytesRead
  }
  if (done === 0 && size > 0) return null
  if (done < size) throw new BackupFault(`${file}: truncated`)
  return buffer
}

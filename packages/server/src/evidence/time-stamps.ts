import { randomBytes } from 'node:crypto'
import {
  MANIFEST,
  TIME_STAMP_WORDS,
  readPack,
  readTimestamp,
  timestampRequest,
  type TimeStamp,
} from '@jurybox/core/evidence'
import { IsNull, type DataSource } from 'typeorm'
import type { ActivityLog } from '../activity/activity.ts'
import type { User } from '../auth/entity.ts'
import { Problem } from '../http/problem.ts'
import type { RecordStore } from '../snapshots/records.ts'
import { EvidencePacks, type EvidencePack } from './entity.ts'

/** An answer later than this is none, in milliseconds. */
const PATIENCE = 30_000
/** Most bytes of an answer: a token with its certificates. */
const LONGEST = 64 * 1024

/** The manifest of a pack. @param archive as it is kept */
export function manifestOf(archive: Uint8Array): Uint8Array {
  const manifest = readPack(archive)?.get(MANIFEST)
  if (!manifest) throw new Problem(500, 'The evidence pack is damaged.')
  return manifest
}

/** What is needed of the rest of the server. */
export interface Needs {
  readonly activity: ActivityLog
  readonly database: DataSource
  readonly records: RecordStore
}

/** Time stamps of packs: asked for by the server or by hand, and kept once they hold. */
export class TimeStamps {
  /** By pack. A stamp that is kept never changes, and each is checked against a whole archive. */
  readonly #known = new Map<number, TimeStamp>()

  constructor(readonly services: Needs) {}

  /** What the time stamp of a pack says; null where it has none. */
  async of(pack: EvidencePack): Promise<TimeStamp | null> {
    if (!pack.timeAnswer) return null
    const known = this.#known.get(pack.id) ?? (await this.#holding(pack, pack.timeAnswer))
    this.#known.set(pack.id, known)
    return known
  }

  /** The request for a time stamp, to be taken to an authority; the same until it is answered. */
  async request(pack: EvidencePack): Promise<Buffer> {
    if (pack.timeRequest) return pack.timeRequest
    const request = Buffer.from(timestampRequest(await this.#manifest(pack), randomBytes(16)))
    // Two who ask at once get the same request: the first one that was written down.
    await this.#rows.update({ id: pack.id, timeRequest: IsNull() }, { timeRequest: request })
    return (await this.#rows.findOneByOrFail({ id: pack.id })).timeRequest ?? request
  }

  /** Keeps the answer of an authority. @throws Problem where it does not hold, or there is one already */
  async keep(pack: EvidencePack, answer: Buffer, user: User): Promise<void> {
    if (pack.timeAnswer) throw new Problem(409, 'This pack has a time stamp already.')
    const { at, authority } = await this.#holding(pack, answer)
    const { affected } = await this.#rows.update({ id: pack.id, timeAnswer: IsNull() }, { timeAnswer: answer })
    if (affected === 0) throw new Problem(409, 'This pack has a time stamp already.')
    await this.services.activity.add({
      userId: user.id,
      engagementId: pack.engagementId,
      action: 'evidence time stamped',
      detail: { pack: pack.id, at, authority },
    })
  }

  async #holding(pack: EvidencePack, answer: Uint8Array): Promise<TimeStamp> {
    const read = readTimestamp(answer, await this.#manifest(pack), await this.request(pack))
    if ('fault' in read) throw new Problem(422, `The answer is not taken: ${TIME_STAMP_WORDS[read.fault]}.`)
    return read.stamp
  }

  async #manifest(pack: EvidencePack): Promise<Uint8Array> {
    return manifestOf(await this.services.records.bytes(pack.sha256))
  }

  get #rows() {
    return this.services.database.getRepository(EvidencePacks)
  }
}

/** Asks an authority by HTTP (RFC 3161 §3.4). @throws Problem where it cannot be reached or answers something else */
export async function askAuthority(authority: URL, request: Uint8Array): Promise<Buffer> {
  const failed = (why: string): Problem => new Problem(502, `The time-stamp authority ${authority.host} ${why}.`)
  let response: Response
  try {
    response = await fetch(authority, {
      method: 'POST',
      headers: { 'content-type': 'application/timestamp-query' },
      body: new Uint8Array(request),
      redirect: 'error',
      signal: AbortSignal.timeout(PATIENCE),
    })
  } catch {
    throw failed('could not be reached')
  }
  if (!response.ok) throw failed(`answered ${response.status}`)
  const parts: Uint8Array[] = []
  let length = 0
  for await (const part of response.body ?? []) {
    length += part.length
    if (length > LONGEST) throw failed('answered more than a time stamp')
    parts.push(part)
  }
  return Buffer.concat(parts)
}

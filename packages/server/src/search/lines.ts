import type { RecordStore } from '../snapshots/records.ts'
import type { StoredRecord } from '../db/entities.ts'

/** Records kept ready for search; a record never changes, so a line read once stays right. */
const KEPT = 400

export class LineSearch {
  readonly #ready = new Map<string, string[]>()

  constructor(readonly records: RecordStore) {}

  async lines(record: Pick<StoredRecord, 'id' | 'sha256' | 'dialect'>, engagementId: number): Promise<string[]> {
    const key = `${engagementId} ${record.id}`
    const known = this.#ready.get(key)
    if (known) return known
    const lines = await this.records.maskedLines(record, engagementId)
    if (this.#ready.size >= KEPT) this.#ready.delete(this.#ready.keys().next().value ?? '')
    this.#ready.set(key, lines)
    return lines
  }
}

import { auditDevice, dialectById, maskWithKey, prepare, readBenchmark, readRecord, type Bench, type Verdict } from '@jurybox/core'

/** Runs in a worker thread: reads the records of one device and judges them. */
export interface AuditTask {
  readonly device: string
  readonly dialect: string
  readonly records: readonly { id: string; kind: string; dialect: string; text: string }[]
  readonly choices: readonly { hash: string; text: string; profile: string; values: Record<string, string | number | string[]> }[]
  /** Null: real secrets stay in the commands, for a logged download. */
  readonly maskKey: Uint8Array | null
}

const benches = new Map<string, Bench>()

export default function auditTask({ device, dialect: dialectId, records, choices, maskKey }: AuditTask): Verdict[] {
  const dialect = dialectById(dialectId)
  if (!dialect) return []
  const chosen = choices.map(({ hash, text, profile, values }) => {
    const key = JSON.stringify([hash, profile, values])
    const known = benches.get(key)
    if (known) return known
    const bench = prepare({ benchmark: readBenchmark(text), profile, values })
    if (benches.size > 50) benches.clear()
    benches.set(key, bench)
    return bench
  })
  const read = records.map(({ id, kind, dialect: own, text }) => (own === 'none' ? { id, kind, tree: null, text } : { id, kind, tree: readRecord(text, own) }))
  return auditDevice(device, dialect, read, chosen, maskKey ? maskWithKey(maskKey) : (secret) => secret)
}

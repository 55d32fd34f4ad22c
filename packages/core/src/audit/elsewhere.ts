import type { CitingVerdict, Verdict } from './document.ts'

/** A record of another device than the one that is judged. */
export interface ElsewhereRecord {
  readonly id: string
  /** Lines as people may see them, counted from 1, both ends included. */
  text(from: number, to: number): string
}

/** Devices and kinds of record that verdicts cite besides those of their own device, each once. */
export function elsewhereIn(verdicts: readonly Pick<CitingVerdict, 'exhibits'>[]): { device: string; kind: string }[] {
  const found = new Map<string, { device: string; kind: string }>()
  for (const { exhibits } of verdicts) {
    for (const { device, record } of exhibits)
      if (device !== undefined) found.set(`${device} ${record}`, { device, kind: record })
  }
  return [...found.values()]
}

/**
 * Verdicts name the records of other devices by their kind, since each device is judged by itself. Here they get the id
 * and the text of those records in one snapshot; what the snapshot does not hold is not cited.
 */
export function withElsewhere<V extends Pick<Verdict, 'exhibits'>>(
  verdicts: readonly V[],
  recordOf: (device: string, kind: string) => ElsewhereRecord | null,
): V[] {
  return verdicts.map((verdict) => {
    if (verdict.exhibits.every(({ device }) => device === undefined)) return verdict
    const exhibits = verdict.exhibits.flatMap((exhibit) => {
      if (exhibit.device === undefined) return [exhibit]
      const record = recordOf(exhibit.device, exhibit.record)
      return record ? [{ ...exhibit, record: record.id, text: record.text(exhibit.from, exhibit.to) }] : []
    })
    return { ...verdict, exhibits }
  })
}

import { Problem } from '../http/problem.ts'

/** What a record is called when its content is gone. */
export interface NamedRecord {
  readonly sha256: string
  readonly path: string
  readonly device: string
  readonly takenAt: Date | null
}

/** A content that is not in the database any more, or not as it was sealed. Never to be taken for an empty one. */
export class DamagedContent extends Problem {
  constructor(readonly record: Pick<NamedRecord, 'sha256'> & Partial<NamedRecord>) {
    super(500, damageWords(record), { code: 'record-damaged' })
  }
}

export function damageWords({ path, device, takenAt }: DamagedContent['record']): string {
  const what = path === undefined ? 'A record' : `The record ${path}${device === undefined ? '' : ` of ${device}`}`
  const when = takenAt ? `, taken ${takenAt.toISOString().slice(0, 16).replace('T', ' ')} UTC,` : ''
  return `${what}${when} is missing or damaged in the database. Import it again.`
}

/** The text of a record. @throws DamagedContent */
export function intactText(texts: ReadonlyMap<string, string>, record: DamagedContent['record']): string {
  const text = texts.get(record.sha256)
  if (text === undefined) throw new DamagedContent(record)
  return text
}

import type { Verdict } from '@jurybox/core'
import { countVerdicts, type CitingVerdict, type Counts } from '@jurybox/core/audit'
import { packed } from '../vault/vault.ts'

/** What is kept of a verdict in the clear: what lists are filtered and sorted by. */
export type VerdictHead = Pick<
  Verdict,
  'device' | 'benchmark' | 'rule' | 'outcome' | 'severity' | 'branch' | 'note' | 'references'
>

/** The verdicts of one device, ready to be sealed: made where they were found, so that only bytes change threads. */
export interface PackedVerdicts {
  readonly heads: readonly VerdictHead[]
  readonly counts: Counts
  /** The whole verdicts, their lines not quoted, compressed one by one, one after another. */
  readonly bodies: Uint8Array
  /** Where each of them ends. */
  readonly ends: readonly number[]
}

export function packVerdicts(verdicts: readonly CitingVerdict[]): PackedVerdicts {
  const bodies = verdicts.map((verdict) => packed(Buffer.from(JSON.stringify(verdict))))
  let end = 0
  return {
    heads: verdicts.map(({ device, benchmark, rule, outcome, severity, branch, note, references }) => ({
      device,
      benchmark,
      rule,
      outcome,
      severity,
      branch,
      note,
      references,
    })),
    counts: countVerdicts(verdicts),
    bodies: new Uint8Array(Buffer.concat(bodies)),
    ends: bodies.map(({ length }) => (end += length)),
  }
}

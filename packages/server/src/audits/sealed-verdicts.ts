import { setImmediate } from 'node:timers/promises'
import { citingVerdictSchema, type CitingVerdict } from '@jurybox/core/audit'
import type { DataSource, EntityManager } from 'typeorm'
import type { StoredVerdict } from './entity.ts'
import type { Vault } from '../vault/vault.ts'
import { placed } from './verdict-cache.ts'
import type { PackedVerdicts, VerdictHead } from './packed-verdicts.ts'

/** Verdicts that are opened before others are answered in between. */
const AT_ONCE = 100

export const verdictPlace = (judgementId: number, benchmark: string, rule: string): string =>
  `verdict ${judgementId} ${benchmark} ${rule}`

export type SealedRow = Pick<
  StoredVerdict,
  'judgementId' | 'benchmark' | 'rule' | 'sealed' | 'records' | 'beforeRecords'
>

/** What verdicts quote of configurations, as it is kept: sealed, each in its own place. */
export class SealedVerdicts {
  constructor(
    readonly database: DataSource,
    readonly vault: Vault,
  ) {}

  /** Keeps the verdicts of a judgement. */
  async keep(
    judgementId: number,
    { heads, bodies, ends }: PackedVerdicts,
    placeOf: (verdict: VerdictHead) => number,
    manager: EntityManager,
  ): Promise<void> {
    if (heads.length === 0) return
    const rows = heads.map((head, i) => [
      judgementId,
      head.device,
      head.benchmark,
      head.rule,
      head.outcome,
      head.severity,
      head.branch,
      head.note,
      placeOf(head),
      JSON.stringify(head.references),
      this.vault.sealPacked(
        bodies.subarray(ends[i - 1] ?? 0, ends[i]),
        verdictPlace(judgementId, head.benchmark, head.rule),
      ),
    ])
    // Without an object of the mapper for each of a hundred rows.
    await manager.query(
      'INSERT INTO verdicts (judgement_id, device, benchmark, rule, outcome, severity, branch, note, place, ' +
        'requirements, sealed) VALUES ?',
      [rows],
    )
  }

  /** The whole verdicts of rows, with the records of their audit; their lines are not quoted. */
  async open(rows: readonly SealedRow[]): Promise<CitingVerdict[]> {
    const verdicts: CitingVerdict[] = []
    for (const [i, row] of rows.entries()) {
      if (i > 0 && i % AT_ONCE === 0) await setImmediate()
      const text = this.vault.unseal(row.sealed, verdictPlace(row.judgementId, row.benchmark, row.rule)).toString()
      verdicts.push(placed(citingVerdictSchema.parse(JSON.parse(text)), row.records, row.beforeRecords))
    }
    return verdicts
  }

  /** Seals what older versions kept in clear. May be cut short and begun again. */
  async sealOld(): Promise<void> {
    for (;;) {
      const rows = await this.database.query<
        { id: number; judgement_id: number; benchmark: string; rule: string; body: string }[]
      >('SELECT id, judgement_id, benchmark, rule, body FROM verdicts WHERE body IS NOT NULL LIMIT ?', [AT_ONCE])
      if (rows.length === 0) return
      for (const { id, judgement_id: judgementId, benchmark, rule, body } of rows) {
        const sealed = this.vault.seal(Buffer.from(body), verdictPlace(judgementId, benchmark, rule))
        await this.database.query('UPDATE verdicts SET sealed = ?, body = NULL WHERE id = ?', [sealed, id])
      }
    }
  }
}

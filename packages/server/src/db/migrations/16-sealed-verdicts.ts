import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * What verdicts quote is sealed; what pages sort and filter by stays beside it. Verdicts from before are sealed when
 * the server starts, since this needs the key.
 */
const CHANGES = [
  `ALTER TABLE verdicts ADD COLUMN sealed MEDIUMBLOB NULL, ADD COLUMN requirements TEXT NOT NULL DEFAULT '[]', MODIFY body MEDIUMTEXT NULL`,
  `UPDATE verdicts SET requirements = COALESCE(JSON_EXTRACT(body, '$.references'), '[]')`,
  `CREATE OR REPLACE ALGORITHM = MERGE SQL SECURITY INVOKER VIEW audit_verdicts AS
    SELECT v.id, v.judgement_id, a.audit_id, a.device_id, v.device, v.benchmark, v.rule, v.outcome, v.severity, v.branch, v.note, v.place, v.requirements, v.sealed, a.records, a.before_records
    FROM audit_judgements a JOIN verdicts v ON v.judgement_id = a.judgement_id`,
]

export class SealedVerdicts1765500000000 implements MigrationInterface {
  readonly name = 'SealedVerdicts1765500000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

import type { MigrationInterface, QueryRunner } from 'typeorm'

const OLD_KEY = `SHA2(CONCAT('audit ', audit_id, ' device ', device_id), 256)`

/**
 * Verdicts belong to what a device came to, which any number of audits may name: an audit of what has not changed
 * writes no verdict.
 */
const CHANGES = [
  `DROP TABLE judgements`,
  `CREATE TABLE judgements (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    memo_key CHAR(64) NOT NULL,
    valid_until DATETIME(3) NULL,
    counts TEXT NOT NULL,
    answers LONGBLOB NOT NULL,
    answers_hash CHAR(64) NOT NULL,
    estate_hash CHAR(64) NOT NULL,
    seen MEDIUMTEXT NOT NULL,
    KEY judgement_key (memo_key))`,
  `CREATE TABLE audit_judgements (
    audit_id INT UNSIGNED NOT NULL,
    judgement_id INT UNSIGNED NOT NULL,
    device_id INT UNSIGNED NOT NULL,
    records MEDIUMTEXT NOT NULL,
    before_records MEDIUMTEXT NOT NULL,
    PRIMARY KEY (audit_id, judgement_id),
    KEY judgement_device (audit_id, device_id),
    FOREIGN KEY (audit_id) REFERENCES audits(id) ON DELETE CASCADE,
    FOREIGN KEY (judgement_id) REFERENCES judgements(id),
    FOREIGN KEY (device_id) REFERENCES devices(id))`,
  `ALTER TABLE verdicts ADD COLUMN judgement_id INT UNSIGNED NOT NULL DEFAULT 0, ADD COLUMN place INT UNSIGNED NOT NULL DEFAULT 0`,
  // Audits from before keep their verdicts, each device of each audit with a judgement of its own that no later audit
  // finds.
  `INSERT INTO judgements (memo_key, counts, answers, answers_hash, estate_hash, seen) SELECT DISTINCT ${OLD_KEY}, '{}', '', '', '', '' FROM verdicts`,
  `UPDATE verdicts JOIN judgements ON memo_key = ${OLD_KEY} SET judgement_id = judgements.id, place = verdicts.id`,
  `INSERT INTO audit_judgements (audit_id, judgement_id, device_id, records, before_records) SELECT DISTINCT audit_id, judgement_id, device_id, '[]', '[]' FROM verdicts`,
  `ALTER TABLE verdicts DROP FOREIGN KEY verdicts_ibfk_1, DROP FOREIGN KEY verdicts_ibfk_2, DROP KEY verdict_of, DROP KEY verdict_outcome, DROP COLUMN audit_id, DROP COLUMN device_id,
    ALTER COLUMN judgement_id DROP DEFAULT, ALTER COLUMN place DROP DEFAULT,
    ADD UNIQUE KEY verdict_of (judgement_id, benchmark, rule), ADD FOREIGN KEY (judgement_id) REFERENCES judgements(id) ON DELETE CASCADE`,
  `CREATE ALGORITHM = MERGE SQL SECURITY INVOKER VIEW audit_verdicts AS
    SELECT v.id, a.audit_id, a.device_id, v.device, v.benchmark, v.rule, v.outcome, v.severity, v.branch, v.note, v.place, v.body, a.records, a.before_records
    FROM audit_judgements a JOIN verdicts v ON v.judgement_id = a.judgement_id`,
]

export class Judgements1764200000000 implements MigrationInterface {
  readonly name = 'Judgements1764200000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What has been tidied up device by device, and the scores of audits, which never change. */
const CHANGES = [
  `ALTER TABLE audits ADD COLUMN scores MEDIUMTEXT NULL`,
  `CREATE TABLE tidied (
    engagement_id INT UNSIGNED NOT NULL,
    benchmark VARCHAR(64) NOT NULL,
    rule VARCHAR(64) NOT NULL,
    device VARCHAR(160) NOT NULL,
    note TEXT NOT NULL,
    done_by INT UNSIGNED NULL,
    done_by_name VARCHAR(160) NOT NULL,
    done_at DATETIME(3) NULL,
    PRIMARY KEY (engagement_id, benchmark, rule, device),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
]

export class Tidying1764300000000 implements MigrationInterface {
  readonly name = 'Tidying1764300000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

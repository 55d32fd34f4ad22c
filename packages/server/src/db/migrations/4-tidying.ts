import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * What has been tidied up device by device, files that answers rest on, and the scores of audits, which never change.
 */
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
  `CREATE TABLE evidence (
    engagement_id INT UNSIGNED NOT NULL,
    sha256 CHAR(64) NOT NULL,
    name VARCHAR(255) NOT NULL,
    size INT UNSIGNED NOT NULL,
    brought_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    PRIMARY KEY (engagement_id, sha256),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (sha256) REFERENCES contents(sha256))`,
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

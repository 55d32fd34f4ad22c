import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * A finding has an owner and a date by which it is due, beside its comment and whether it is done. A device that was
 * discovered has its site and role before its first collection. Schedules may name a group; views of tables are shared.
 */
const CHANGES = [
  `RENAME TABLE tidied TO findings`,
  `ALTER TABLE findings
    CHANGE COLUMN note comment TEXT NOT NULL,
    ADD COLUMN owner_id INT UNSIGNED NULL,
    ADD COLUMN due_on CHAR(10) NULL`,
  `ALTER TABLE reach ADD COLUMN facts TEXT NULL`,
  `ALTER TABLE schedules ADD COLUMN group_title VARCHAR(160) NULL`,
  `CREATE TABLE saved_views (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    sheet VARCHAR(40) NOT NULL,
    title VARCHAR(80) NOT NULL,
    query TEXT NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    UNIQUE (engagement_id, sheet, title),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
]

export class Findings1796100000000 implements MigrationInterface {
  readonly name = 'Findings1796100000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

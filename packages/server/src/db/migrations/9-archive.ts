import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What snapshots are called besides their titles, and how long they are kept. */
const CHANGES = [
  `CREATE TABLE snapshot_tags (
    snapshot_id INT UNSIGNED NOT NULL,
    tag VARCHAR(60) NOT NULL,
    set_by INT UNSIGNED NOT NULL,
    set_at DATETIME(3) NOT NULL,
    PRIMARY KEY (snapshot_id, tag),
    FOREIGN KEY (snapshot_id) REFERENCES snapshots(id) ON DELETE CASCADE)`,
  `CREATE TABLE retentions (
    engagement_id INT UNSIGNED PRIMARY KEY,
    days INT UNSIGNED NULL,
    tags TEXT NOT NULL,
    set_by INT UNSIGNED NOT NULL,
    set_at DATETIME(3) NOT NULL,
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
]

export class Archive1764800000000 implements MigrationInterface {
  readonly name = 'Archive1764800000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What is stated of links, what is expected of traffic, and what held in which snapshot. */
const CHANGES = [
  `CREATE TABLE traffic_files (
    engagement_id INT UNSIGNED NOT NULL,
    kind VARCHAR(20) NOT NULL,
    text MEDIUMTEXT NOT NULL,
    set_by INT UNSIGNED NOT NULL,
    set_at DATETIME(3) NOT NULL,
    PRIMARY KEY (engagement_id, kind),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE traffic_outcomes (
    snapshot_id INT UNSIGNED NOT NULL,
    expectation VARCHAR(120) NOT NULL,
    answer_key CHAR(64) NOT NULL,
    stated_hash CHAR(64) NOT NULL,
    outcome VARCHAR(20) NOT NULL,
    PRIMARY KEY (snapshot_id, expectation),
    FOREIGN KEY (snapshot_id) REFERENCES snapshots(id) ON DELETE CASCADE)`,
]

export class Traffic1765100000000 implements MigrationInterface {
  readonly name = 'Traffic1765100000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

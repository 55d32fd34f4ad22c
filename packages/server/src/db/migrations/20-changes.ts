import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * Changes have files of their own (noise, checks, references) whose versions stay, messages of devices that say who
 * changed them, configurations that somebody approved, and windows.
 */
const CHANGES = [
  `ALTER TABLE engagements ADD COLUMN guests MEDIUMTEXT NOT NULL DEFAULT '[]'`,
  `CREATE TABLE change_files (
    engagement_id INT UNSIGNED NOT NULL,
    kind VARCHAR(20) NOT NULL,
    version INT UNSIGNED NOT NULL,
    text MEDIUMTEXT NOT NULL,
    set_by INT UNSIGNED NOT NULL,
    set_by_name VARCHAR(160) NOT NULL,
    set_at DATETIME(3) NOT NULL,
    PRIMARY KEY (engagement_id, kind, version),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE change_messages (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    device VARCHAR(160) NOT NULL,
    at DATETIME(3) NOT NULL,
    author VARCHAR(160) NULL,
    place VARCHAR(160) NULL,
    text TEXT NOT NULL,
    KEY (engagement_id, device, at),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE approved_states (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    device_id INT UNSIGNED NOT NULL,
    settled CHAR(64) NOT NULL,
    snapshot_id INT UNSIGNED NULL,
    reason TEXT NOT NULL,
    approved_by INT UNSIGNED NOT NULL,
    approved_by_name VARCHAR(160) NOT NULL,
    approved_at DATETIME(3) NOT NULL,
    KEY (engagement_id, device_id),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (device_id) REFERENCES devices(id) ON DELETE CASCADE,
    FOREIGN KEY (snapshot_id) REFERENCES snapshots(id) ON DELETE SET NULL)`,
  `CREATE TABLE change_windows (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    title VARCHAR(160) NOT NULL,
    reason TEXT NOT NULL,
    state VARCHAR(20) NOT NULL,
    begins_at DATETIME(3) NOT NULL,
    ends_at DATETIME(3) NOT NULL,
    devices MEDIUMTEXT NOT NULL,
    checks VARCHAR(60) NULL,
    before_id INT UNSIGNED NULL,
    after_id INT UNSIGNED NULL,
    problem TEXT NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_by_name VARCHAR(160) NOT NULL,
    created_at DATETIME(3) NOT NULL,
    changed_at DATETIME(3) NULL,
    KEY (engagement_id, begins_at),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (before_id) REFERENCES snapshots(id) ON DELETE SET NULL,
    FOREIGN KEY (after_id) REFERENCES snapshots(id) ON DELETE SET NULL)`,
]

export class Changes1796300000000 implements MigrationInterface {
  readonly name = 'Changes1796300000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

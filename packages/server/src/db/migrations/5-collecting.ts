import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Who may log in to devices, and how each device is reached. */
const CHANGES = [
  `CREATE TABLE credentials (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    title VARCHAR(120) NOT NULL,
    user_name VARCHAR(120) NOT NULL,
    secret LONGBLOB NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    UNIQUE KEY credential_title (engagement_id, title),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE reach (
    engagement_id INT UNSIGNED NOT NULL,
    device VARCHAR(160) NOT NULL,
    dialect VARCHAR(32) NOT NULL,
    address VARCHAR(255) NOT NULL,
    port INT UNSIGNED NOT NULL,
    old TINYINT(1) NOT NULL,
    host_key VARCHAR(64) NULL,
    credential_id INT UNSIGNED NULL,
    PRIMARY KEY (engagement_id, device),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (credential_id) REFERENCES credentials(id) ON DELETE SET NULL)`,
]

export class Collecting1764400000000 implements MigrationInterface {
  readonly name = 'Collecting1764400000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

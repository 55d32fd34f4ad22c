import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What is done again and again. */
const CHANGES = [
  `CREATE TABLE schedules (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    title VARCHAR(120) NOT NULL,
    does ENUM('collect','audit','both') NOT NULL,
    cron VARCHAR(120) NOT NULL,
    zone VARCHAR(64) NOT NULL,
    devices MEDIUMTEXT NULL,
    benchmarks MEDIUMTEXT NOT NULL,
    paused TINYINT(1) NOT NULL,
    last_at DATETIME(3) NULL,
    last_said TEXT NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
]

export class Schedules1764500000000 implements MigrationInterface {
  readonly name = 'Schedules1764500000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

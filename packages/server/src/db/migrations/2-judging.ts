import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Waivers, attestations, rules of one's own, values for some of the devices, and verdicts that hold until a time. */
const CHANGES = [
  `ALTER TABLE fittings ADD COLUMN overrides MEDIUMTEXT NOT NULL DEFAULT '[]', ADD COLUMN tailoring MEDIUMTEXT NOT NULL DEFAULT '[]'`,
  `ALTER TABLE judgements ADD COLUMN valid_until DATETIME(3) NULL`,
  `CREATE TABLE waivers (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    benchmark VARCHAR(64) NOT NULL,
    rule VARCHAR(64) NOT NULL,
    device VARCHAR(160) NULL,
    subject VARCHAR(255) NULL,
    reason TEXT NOT NULL,
    owner VARCHAR(160) NOT NULL,
    expires DATETIME(3) NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    ended_at DATETIME(3) NULL,
    KEY waiver_of (engagement_id, benchmark, rule),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE attestations (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    benchmark VARCHAR(64) NOT NULL,
    attestation VARCHAR(64) NOT NULL,
    outcome ENUM('pass','fail','notapplicable') NOT NULL,
    note TEXT NOT NULL,
    files MEDIUMTEXT NOT NULL,
    answered_by INT UNSIGNED NOT NULL,
    answered_by_name VARCHAR(160) NOT NULL,
    at DATETIME(3) NOT NULL,
    until DATETIME(3) NOT NULL,
    KEY attestation_of (engagement_id, benchmark, attestation),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE own_benchmarks (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    benchmark VARCHAR(64) NOT NULL,
    number INT UNSIGNED NOT NULL,
    hash CHAR(64) NOT NULL,
    why VARCHAR(400) NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    published_at DATETIME(3) NULL,
    UNIQUE KEY own_number (engagement_id, benchmark, number),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (hash) REFERENCES benchmark_versions(hash))`,
]

export class Judging1764100000000 implements MigrationInterface {
  readonly name = 'Judging1764100000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

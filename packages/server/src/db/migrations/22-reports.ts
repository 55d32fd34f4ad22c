import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * Reports as people put them together, those made after audits, the picture of the client on them, time stamps of
 * packs, answers that are asked for and reviewed, legal holds, and signed heads of the audit log.
 */
const REPORTS = [
  `ALTER TABLE engagements
    ADD COLUMN logo_type VARCHAR(20) NULL,
    ADD COLUMN logo MEDIUMBLOB NULL`,
  `ALTER TABLE evidence_packs
    ADD COLUMN time_request BLOB NULL,
    ADD COLUMN time_answer MEDIUMBLOB NULL`,
  `CREATE TABLE saved_reports (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    title VARCHAR(160) NOT NULL,
    choice TEXT NOT NULL,
    format VARCHAR(20) NOT NULL,
    after_audit BOOLEAN NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    UNIQUE (engagement_id, title),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `ALTER TABLE attestations
    ADD COLUMN review VARCHAR(10) NULL,
    ADD COLUMN review_note TEXT NULL,
    ADD COLUMN reviewed_by INT UNSIGNED NULL,
    ADD COLUMN reviewed_by_name VARCHAR(160) NULL,
    ADD COLUMN reviewed_at DATETIME(3) NULL,
    ADD FOREIGN KEY (reviewed_by) REFERENCES users(id)`,
  `CREATE TABLE answer_requests (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    benchmark VARCHAR(80) NOT NULL,
    attestation VARCHAR(80) NOT NULL,
    asked_of INT UNSIGNED NOT NULL,
    due_on DATE NOT NULL,
    note TEXT NOT NULL,
    asked_by INT UNSIGNED NOT NULL,
    asked_by_name VARCHAR(160) NOT NULL,
    asked_at DATETIME(3) NOT NULL,
    UNIQUE (engagement_id, benchmark, attestation),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (asked_of) REFERENCES users(id),
    FOREIGN KEY (asked_by) REFERENCES users(id))`,
  `ALTER TABLE retentions ADD COLUMN evidence_days INT UNSIGNED NULL`,
  `CREATE TABLE holds (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    snapshot_id INT UNSIGNED NULL,
    reason TEXT NOT NULL,
    set_by INT UNSIGNED NOT NULL,
    set_by_name VARCHAR(160) NOT NULL,
    set_at DATETIME(3) NOT NULL,
    KEY (engagement_id),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (snapshot_id) REFERENCES snapshots(id),
    FOREIGN KEY (set_by) REFERENCES users(id))`,
  `CREATE TABLE log_heads (
    engagement_id INT UNSIGNED NOT NULL,
    day DATE NOT NULL,
    entry INT UNSIGNED NOT NULL,
    hash CHAR(64) NOT NULL,
    signature CHAR(88) NOT NULL,
    PRIMARY KEY (engagement_id, day),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE made_reports (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    audit_id INT UNSIGNED NOT NULL,
    title VARCHAR(160) NOT NULL,
    format VARCHAR(20) NOT NULL,
    sha256 CHAR(64) NOT NULL,
    size INT UNSIGNED NOT NULL,
    made_at DATETIME(3) NOT NULL,
    KEY (engagement_id, id),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (audit_id) REFERENCES audits(id),
    FOREIGN KEY (sha256) REFERENCES contents(sha256))`,
]

export class Reports1796500000000 implements MigrationInterface {
  readonly name = 'Reports1796500000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of REPORTS) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

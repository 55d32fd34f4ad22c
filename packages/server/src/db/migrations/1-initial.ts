import type { MigrationInterface, QueryRunner } from 'typeorm'

const TABLES = [
  `CREATE TABLE users (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(64) NOT NULL UNIQUE,
    full_name VARCHAR(120) NOT NULL,
    password_hash VARCHAR(255) NOT NULL,
    created_at DATETIME(3) NOT NULL)`,
  `CREATE TABLE sessions (
    token_hash CHAR(64) PRIMARY KEY,
    user_id INT UNSIGNED NOT NULL,
    csrf CHAR(43) NOT NULL,
    created_at DATETIME(3) NOT NULL,
    seen_at DATETIME(3) NOT NULL,
    FOREIGN KEY (user_id) REFERENCES users(id) ON DELETE CASCADE)`,
  `CREATE TABLE engagements (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    title VARCHAR(160) NOT NULL,
    client VARCHAR(160) NOT NULL,
    period_from DATE NULL,
    period_to DATE NULL,
    mask_key VARBINARY(255) NOT NULL,
    created_at DATETIME(3) NOT NULL)`,
  `CREATE TABLE memberships (
    engagement_id INT UNSIGNED NOT NULL,
    user_id INT UNSIGNED NOT NULL,
    role ENUM('lead','auditor','engineer','reader') NOT NULL,
    PRIMARY KEY (engagement_id, user_id),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (user_id) REFERENCES users(id))`,
  `CREATE TABLE devices (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    name VARCHAR(160) NOT NULL,
    dialect VARCHAR(32) NOT NULL,
    facts MEDIUMTEXT NOT NULL,
    created_at DATETIME(3) NOT NULL,
    UNIQUE KEY device_name (engagement_id, name),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE contents (
    sha256 CHAR(64) PRIMARY KEY,
    size INT UNSIGNED NOT NULL,
    body LONGBLOB NOT NULL)`,
  `CREATE TABLE records (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    device_id INT UNSIGNED NOT NULL,
    kind VARCHAR(64) NOT NULL,
    path VARCHAR(500) NOT NULL,
    sha256 CHAR(64) NOT NULL,
    dialect VARCHAR(32) NOT NULL,
    line_count INT UNSIGNED NOT NULL,
    unread MEDIUMTEXT NOT NULL,
    faults MEDIUMTEXT NOT NULL,
    taken_at DATETIME(3) NULL,
    time_source ENUM('stated','listing','unknown') NOT NULL,
    brought_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    FOREIGN KEY (device_id) REFERENCES devices(id),
    FOREIGN KEY (sha256) REFERENCES contents(sha256))`,
  `CREATE TABLE snapshots (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    title VARCHAR(160) NOT NULL,
    note TEXT NOT NULL,
    taken_at DATETIME(3) NOT NULL,
    refused MEDIUMTEXT NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    KEY snapshot_time (engagement_id, taken_at),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE snapshot_records (
    snapshot_id INT UNSIGNED NOT NULL,
    record_id INT UNSIGNED NOT NULL,
    carried TINYINT(1) NOT NULL,
    PRIMARY KEY (snapshot_id, record_id),
    FOREIGN KEY (snapshot_id) REFERENCES snapshots(id),
    FOREIGN KEY (record_id) REFERENCES records(id))`,
  `CREATE TABLE benchmark_versions (
    hash CHAR(64) PRIMARY KEY,
    benchmark VARCHAR(64) NOT NULL,
    version VARCHAR(32) NOT NULL,
    text MEDIUMTEXT NOT NULL,
    created_at DATETIME(3) NOT NULL)`,
  `CREATE TABLE fittings (
    engagement_id INT UNSIGNED NOT NULL,
    benchmark VARCHAR(64) NOT NULL,
    profile VARCHAR(64) NOT NULL,
    value_set MEDIUMTEXT NOT NULL,
    set_by INT UNSIGNED NOT NULL,
    set_at DATETIME(3) NOT NULL,
    PRIMARY KEY (engagement_id, benchmark),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE jobs (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    kind VARCHAR(32) NOT NULL,
    state ENUM('running','done','stopped','failed','interrupted') NOT NULL,
    done INT UNSIGNED NOT NULL,
    total INT UNSIGNED NOT NULL,
    message TEXT NOT NULL,
    params MEDIUMTEXT NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    finished_at DATETIME(3) NULL,
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE audits (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    snapshot_id INT UNSIGNED NOT NULL,
    job_id INT UNSIGNED NOT NULL,
    build CHAR(12) NOT NULL,
    choices MEDIUMTEXT NOT NULL,
    counts TEXT NULL,
    computed INT UNSIGNED NOT NULL DEFAULT 0,
    remembered INT UNSIGNED NOT NULL DEFAULT 0,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    finished_at DATETIME(3) NULL,
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (snapshot_id) REFERENCES snapshots(id),
    FOREIGN KEY (job_id) REFERENCES jobs(id))`,
  `CREATE TABLE verdicts (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    audit_id INT UNSIGNED NOT NULL,
    device_id INT UNSIGNED NOT NULL,
    device VARCHAR(160) NOT NULL,
    benchmark VARCHAR(64) NOT NULL,
    rule VARCHAR(64) NOT NULL,
    outcome VARCHAR(16) NOT NULL,
    severity VARCHAR(8) NOT NULL,
    branch VARCHAR(64) NOT NULL,
    note TEXT NOT NULL,
    body MEDIUMTEXT NOT NULL,
    UNIQUE KEY verdict_of (audit_id, device_id, benchmark, rule),
    KEY verdict_outcome (audit_id, outcome),
    FOREIGN KEY (audit_id) REFERENCES audits(id) ON DELETE CASCADE,
    FOREIGN KEY (device_id) REFERENCES devices(id))`,
  `CREATE TABLE judgements (
    memo_key CHAR(64) PRIMARY KEY,
    body LONGBLOB NOT NULL)`,
  `CREATE TABLE activity (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    at DATETIME(3) NOT NULL,
    user_id INT UNSIGNED NULL,
    engagement_id INT UNSIGNED NULL,
    action VARCHAR(64) NOT NULL,
    detail MEDIUMTEXT NOT NULL,
    previous CHAR(64) NOT NULL,
    hash CHAR(64) NOT NULL UNIQUE)`,
  // Append-only, whoever holds the account.
  `CREATE TRIGGER activity_no_update BEFORE UPDATE ON activity FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the activity log is append-only'`,
  `CREATE TRIGGER activity_no_delete BEFORE DELETE ON activity FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the activity log is append-only'`,
]

export class Initial1764000000000 implements MigrationInterface {
  readonly name = 'Initial1764000000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of TABLES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('The first migration has no way back: drop the database instead')
  }
}

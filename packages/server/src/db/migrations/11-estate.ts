import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What people say of devices, what devices are to each other, and what was found of them. */
const CHANGES = [
  `CREATE TABLE labels (
    engagement_id INT UNSIGNED NOT NULL,
    name VARCHAR(60) NOT NULL,
    type ENUM('text','number','date','person','choice','flag') NOT NULL,
    choices TEXT NOT NULL,
    note VARCHAR(500) NOT NULL,
    sets VARCHAR(500) NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    PRIMARY KEY (engagement_id, name),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE label_changes (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    device_id INT UNSIGNED NOT NULL,
    label VARCHAR(60) NOT NULL,
    value TEXT NOT NULL,
    how ENUM('person','list','rule') NOT NULL,
    set_by INT UNSIGNED NULL,
    set_by_name VARCHAR(120) NOT NULL,
    at DATETIME(3) NOT NULL,
    KEY label_of_device (device_id, label),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (device_id) REFERENCES devices(id))`,
  `CREATE TABLE sites (
    engagement_id INT UNSIGNED NOT NULL,
    name VARCHAR(120) NOT NULL,
    title VARCHAR(160) NOT NULL,
    around VARCHAR(120) NULL,
    PRIMARY KEY (engagement_id, name),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE saved_groups (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    title VARCHAR(80) NOT NULL,
    kind ENUM('filter','search') NOT NULL,
    text TEXT NOT NULL,
    counted TINYINT(1) NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    UNIQUE KEY group_title (engagement_id, title),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE approvals (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    kind ENUM('version','exception') NOT NULL,
    body TEXT NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_by_name VARCHAR(120) NOT NULL,
    created_at DATETIME(3) NOT NULL,
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE digests (
    digest_key CHAR(64) PRIMARY KEY,
    sha256 CHAR(64) NOT NULL,
    body LONGBLOB NOT NULL,
    KEY digest_content (sha256),
    FOREIGN KEY (sha256) REFERENCES contents(sha256) ON DELETE CASCADE)`,
  `CREATE TABLE sightings (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    job_id INT UNSIGNED NOT NULL,
    kind ENUM('appeared','known','moved','replaced','duplicate','vanished') NOT NULL,
    device VARCHAR(160) NOT NULL,
    found MEDIUMTEXT NULL,
    why TEXT NOT NULL,
    state ENUM('waiting','taken','left') NOT NULL,
    decided_by_name VARCHAR(120) NOT NULL,
    decided_at DATETIME(3) NULL,
    created_at DATETIME(3) NOT NULL,
    KEY sighting_of (engagement_id, job_id),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (job_id) REFERENCES jobs(id))`,
  `ALTER TABLE engagements ADD COLUMN translations TEXT NOT NULL DEFAULT '[]'`,
  `ALTER TABLE schedules MODIFY COLUMN does ENUM('collect','audit','both','discover') NOT NULL`,
  `ALTER TABLE schedules ADD COLUMN discovery TEXT NULL`,
]

export class Estate1765000000000 implements MigrationInterface {
  readonly name = 'Estate1765000000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

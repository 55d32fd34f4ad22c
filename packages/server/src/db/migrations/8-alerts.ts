import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Who is told of what, what there was to tell, and what became of each delivery. */
const CHANGES = [
  `CREATE TABLE alerts (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    title VARCHAR(120) NOT NULL,
    channel ENUM('mail','webhook','ticket') NOT NULL,
    settings TEXT NOT NULL,
    secret BLOB NULL,
    kinds TEXT NOT NULL,
    severity ENUM('info','low','medium','high') NOT NULL,
    cron VARCHAR(120) NULL,
    zone VARCHAR(64) NOT NULL,
    paused TINYINT(1) NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE alert_events (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    source CHAR(64) NOT NULL,
    kind VARCHAR(20) NOT NULL,
    at DATETIME(3) NOT NULL,
    device VARCHAR(255) NULL,
    subject VARCHAR(255) NULL,
    severity VARCHAR(10) NOT NULL,
    title TEXT NOT NULL,
    detail MEDIUMTEXT NOT NULL,
    UNIQUE KEY event_source (engagement_id, source),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id))`,
  `CREATE TABLE alert_deliveries (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    alert_id INT UNSIGNED NOT NULL,
    state ENUM('waiting','sending','sent','failed','unsure') NOT NULL,
    attempts INT UNSIGNED NOT NULL,
    next_at DATETIME(3) NOT NULL,
    said TEXT NOT NULL,
    created_at DATETIME(3) NOT NULL,
    sent_at DATETIME(3) NULL,
    test TINYINT(1) NOT NULL,
    KEY delivery_due (state, next_at),
    FOREIGN KEY (alert_id) REFERENCES alerts(id) ON DELETE CASCADE)`,
  `CREATE TABLE alert_told (
    alert_id INT UNSIGNED NOT NULL,
    event_id INT UNSIGNED NOT NULL,
    delivery_id INT UNSIGNED NULL,
    PRIMARY KEY (alert_id, event_id),
    FOREIGN KEY (alert_id) REFERENCES alerts(id) ON DELETE CASCADE,
    FOREIGN KEY (event_id) REFERENCES alert_events(id),
    FOREIGN KEY (delivery_id) REFERENCES alert_deliveries(id) ON DELETE CASCADE)`,
]

export class Alerts1764700000000 implements MigrationInterface {
  readonly name = 'Alerts1764700000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

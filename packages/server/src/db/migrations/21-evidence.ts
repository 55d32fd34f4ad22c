import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Evidence is packed and signed: keys of engagements and of people, and the packs as they were signed. */
const EVIDENCE = [
  `CREATE TABLE signing_keys (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NULL UNIQUE,
    user_id INT UNSIGNED NULL UNIQUE,
    public_key CHAR(44) NOT NULL,
    private_key VARBINARY(400) NOT NULL,
    created_at DATETIME(3) NOT NULL,
    CHECK ((engagement_id IS NULL) <> (user_id IS NULL)),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (user_id) REFERENCES users(id))`,
  `CREATE TABLE evidence_packs (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    audit_id INT UNSIGNED NOT NULL,
    snapshot_id INT UNSIGNED NOT NULL,
    masked BOOLEAN NOT NULL,
    root CHAR(64) NOT NULL,
    files INT UNSIGNED NOT NULL,
    size INT UNSIGNED NOT NULL,
    not_reproduced INT UNSIGNED NOT NULL,
    sha256 CHAR(64) NOT NULL,
    countersignatures MEDIUMTEXT NOT NULL,
    made_by INT UNSIGNED NOT NULL,
    made_by_name VARCHAR(160) NOT NULL,
    made_at DATETIME(3) NOT NULL,
    KEY (engagement_id, id),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (audit_id) REFERENCES audits(id),
    FOREIGN KEY (snapshot_id) REFERENCES snapshots(id),
    FOREIGN KEY (sha256) REFERENCES contents(sha256))`,
]

export class Evidence1796400000000 implements MigrationInterface {
  readonly name = 'Evidence1796400000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of EVIDENCE) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

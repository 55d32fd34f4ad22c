import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * Who may look after the installation, the life of an account, its second factor, and from where its sessions were
 * opened.
 */
const CHANGES = [
  `ALTER TABLE users
    ADD COLUMN is_admin BOOLEAN NOT NULL DEFAULT FALSE,
    ADD COLUMN may_open BOOLEAN NOT NULL DEFAULT FALSE,
    ADD COLUMN disabled BOOLEAN NOT NULL DEFAULT FALSE,
    ADD COLUMN must_change BOOLEAN NOT NULL DEFAULT FALSE,
    ADD COLUMN signed_in_at DATETIME(3) NULL,
    ADD COLUMN totp VARBINARY(255) NULL,
    ADD COLUMN totp_step BIGINT UNSIGNED NOT NULL DEFAULT 0,
    ADD COLUMN recovery TEXT NULL`,
  // Who created the first account looks after the installation.
  'UPDATE users SET is_admin = TRUE ORDER BY id LIMIT 1',
  // Leads have opened engagements before: they still may.
  "UPDATE users SET may_open = TRUE WHERE is_admin OR id IN (SELECT user_id FROM memberships WHERE role = 'lead')",
  "ALTER TABLE sessions ADD COLUMN address VARCHAR(64) NOT NULL DEFAULT '', ADD COLUMN agent VARCHAR(200) NOT NULL DEFAULT '', ADD COLUMN proved_at DATETIME(3) NULL",
]

export class Accounts1765400000000 implements MigrationInterface {
  readonly name = 'Accounts1765400000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * Other ways to ask a device than its command line; schedules that begin at a word, and that look before they collect.
 */
const CHANGES = [
  `ALTER TABLE reach ADD COLUMN netconf_port INT UNSIGNED NULL, ADD COLUMN snmp_port INT UNSIGNED NULL`,
  `ALTER TABLE engagements ADD COLUMN connect_ranges TEXT NOT NULL DEFAULT '[]'`,
  `ALTER TABLE schedules ADD COLUMN word VARCHAR(80) NULL, ADD COLUMN looks TINYINT(1) NOT NULL DEFAULT 0`,
]

export class Ways1764900000000 implements MigrationInterface {
  readonly name = 'Ways1764900000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

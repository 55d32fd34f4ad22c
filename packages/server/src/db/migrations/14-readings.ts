import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * What a record says of its device alone, by which changes are told; which build counted its unparsed lines; and the
 * devices that an audit is limited to.
 */
const CHANGES = [
  "ALTER TABLE records ADD COLUMN settled CHAR(64) NOT NULL DEFAULT '', ADD COLUMN read_by VARCHAR(64) NOT NULL DEFAULT ''",
  // Until the server has read them again.
  'UPDATE records SET settled = sha256',
  'ALTER TABLE audits ADD COLUMN scope TEXT NULL',
  // The word that every page uses.
  `UPDATE alerts SET kinds = REPLACE(kinds, '"mended"', '"resolved"')`,
  "UPDATE alert_events SET kind = 'resolved' WHERE kind = 'mended'",
]

export class Readings1765300000000 implements MigrationInterface {
  readonly name = 'Readings1765300000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

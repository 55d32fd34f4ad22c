import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What an answer of one device alters is found without reading what all the others looked up. */
const CHANGES = [
  `ALTER TABLE judgements ADD COLUMN rests_on MEDIUMBLOB NOT NULL DEFAULT ''`,
  `ALTER TABLE audits ADD COLUMN estate_hash CHAR(64) NOT NULL DEFAULT '', ADD KEY audit_estate (estate_hash)`,
]

export class Estates1764600000000 implements MigrationInterface {
  readonly name = 'Estates1764600000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

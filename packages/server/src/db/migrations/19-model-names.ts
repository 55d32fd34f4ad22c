import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Models have names by the object identifiers that their SNMP agents state. */
export class ModelNames1796200000000 implements MigrationInterface {
  readonly name = 'ModelNames1796200000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE engagements ADD COLUMN model_names MEDIUMTEXT NOT NULL DEFAULT '[]'`)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

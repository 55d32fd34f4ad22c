import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Who said that an expectation is meant although it never held. */
export class Confirmations1765200000000 implements MigrationInterface {
  readonly name = 'Confirmations1765200000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`CREATE TABLE traffic_confirmations (
      engagement_id INT UNSIGNED NOT NULL,
      expectation VARCHAR(120) NOT NULL,
      stated_hash CHAR(64) NOT NULL,
      confirmed_by INT UNSIGNED NOT NULL,
      confirmed_at DATETIME(3) NOT NULL,
      PRIMARY KEY (engagement_id, expectation),
      FOREIGN KEY (engagement_id) REFERENCES engagements(id))`)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

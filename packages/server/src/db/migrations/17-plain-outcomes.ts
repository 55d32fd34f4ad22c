import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Outcomes of expectations are called as everywhere: met, violated, undecided. */
const CHANGES = [
  `UPDATE traffic_outcomes SET outcome = 'met' WHERE outcome = 'holds'`,
  `UPDATE traffic_outcomes SET outcome = 'violated' WHERE outcome = 'broken'`,
]

export class PlainOutcomes1796000000000 implements MigrationInterface {
  readonly name = 'PlainOutcomes1796000000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of CHANGES) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

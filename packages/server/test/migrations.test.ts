import { randomBytes } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { SealedVerdicts } from '../src/audits/sealed-verdicts.ts'
import { MIGRATIONS, openDatabase } from '../src/db/data-source.ts'
import { Verdicts } from '../src/audits/entity.ts'
import { PrivateMariaDb } from '../src/db/mariadb.ts'
import { Vault } from '../src/vault/vault.ts'

describe('the migrations', () => {
  let folder: string
  let server: PrivateMariaDb
  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-migrations-'))
    server = await PrivateMariaDb.start(folder)
  })
  after(async () => {
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  it('leave audits from before with their verdicts, lines and order', async () => {
    const old = await openDatabase(server.access, MIGRATIONS.slice(0, 2))
    const body = (device: string, rule: string): string =>
      JSON.stringify({
        device,
        benchmark: 'b',
        rule,
        outcome: 'fail',
        severity: 'low',
        branch: 'x',
        note: 'n',
        subjects: [],
        exhibits: [{ record: '17', from: 1, to: 1, text: 'one' }],
        missing: [],
        extra: [],
        remedy: null,
        references: [],
        values: [],
      })
    for (const [statement, values] of [
      [`INSERT INTO engagements (id, title, client, mask_key, created_at) VALUES (1, 'E', '', 'k', NOW())`, []],
      [`INSERT INTO users (id, name, full_name, password_hash, created_at) VALUES (1, 'lead', 'Lead', 'x', NOW())`, []],
      [
        `INSERT INTO devices (id, engagement_id, name, dialect, facts, created_at) VALUES (1, 1, 'a', 'indented', '{}', NOW()), (2, 1, 'b', 'indented', '{}', NOW())`,
        [],
      ],
      [
        `INSERT INTO snapshots (id, engagement_id, title, note, taken_at, refused, created_by, created_at) VALUES (1, 1, 'S', '', NOW(), '[]', 1, NOW())`,
        [],
      ],
      [
        `INSERT INTO jobs (id, engagement_id, kind, state, done, total, message, params, created_by, created_at) VALUES (1, 1, 'audit', 'done', 2, 2, '', '{}', 1, NOW())`,
        [],
      ],
      [
        `INSERT INTO audits (id, engagement_id, snapshot_id, job_id, build, choices, counts, computed, remembered, created_by, created_at) VALUES (1, 1, 1, 1, 'old', '[]', '{}', 2, 0, 1, NOW()), (2, 1, 1, 1, 'old', '[]', '{}', 2, 0, 1, NOW())`,
        [],
      ],
      [
        `INSERT INTO verdicts (audit_id, device_id, device, benchmark, rule, outcome, severity, branch, note, body) VALUES (1, 1, 'a', 'b', 'z-first', 'fail', 'low', 'x', 'n', ?), (1, 1, 'a', 'b', 'a-second', 'fail', 'low', 'x', 'n', ?), (1, 2, 'b', 'b', 'z-first', 'fail', 'low', 'x', 'n', ?), (2, 1, 'a', 'b', 'z-first', 'fail', 'low', 'x', 'n', ?)`,
        [body('a', 'z-first'), body('a', 'a-second'), body('b', 'z-first'), body('a', 'z-first')],
      ],
    ] as const) {
      await old.query(statement, [...values])
    }
    await old.destroy()

    const now = await openDatabase(server.access)
    const sealed = new SealedVerdicts(now, new Vault(randomBytes(32)))
    await sealed.sealOld()
    const clear: unknown[] = await now.query('SELECT id FROM verdicts WHERE body IS NOT NULL')
    expect(clear).to.deep.equal([])
    const of = async (auditId: number): Promise<unknown[]> => {
      const rows = await now
        .getRepository(Verdicts)
        .find({ where: { auditId }, order: { device: 'ASC', place: 'ASC' } })
      const verdicts = await sealed.open(rows)
      return rows.map((row, i) => [row.deviceId, row.device, row.rule, verdicts[i]?.exhibits[0]?.record])
    }
    expect(await of(1)).to.deep.equal([
      [1, 'a', 'z-first', '17'],
      [1, 'a', 'a-second', '17'],
      [2, 'b', 'z-first', '17'],
    ])
    expect(await of(2)).to.deep.equal([[1, 'a', 'z-first', '17']])
    await now.destroy()
  })
})

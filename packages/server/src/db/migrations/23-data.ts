import type { MigrationInterface, QueryRunner } from 'typeorm'

const AUDIT = `a.engagement_id, e.title AS engagement, a.id AS audit_id, a.finished_at AS audited_at,
    s.title AS snapshot, s.taken_at`
const OF_AUDIT = `audits a
    JOIN engagements e ON e.id = a.engagement_id
    JOIN snapshots s ON s.id = a.snapshot_id`
const VERDICTS = `${OF_AUDIT} JOIN audit_verdicts v ON v.audit_id = a.id WHERE a.finished_at IS NOT NULL`

/**
 * Own controls; and tables for other tools, with the rights of their owner: whoever may read them needs no right on
 * what is below.
 */
const DATA = [
  `CREATE SQL SECURITY DEFINER VIEW export_verdicts AS
    SELECT ${AUDIT}, v.device, v.benchmark, v.rule, v.outcome, v.severity, v.branch, v.note
    FROM ${VERDICTS}`,
  `CREATE SQL SECURITY DEFINER VIEW export_findings AS
    SELECT ${AUDIT}, v.device, v.benchmark, v.rule, v.outcome, v.severity, v.note,
      u.full_name AS owner, f.due_on, f.done_at, COALESCE(f.comment, '') AS comment
    FROM ${OF_AUDIT} JOIN audit_verdicts v ON v.audit_id = a.id
    LEFT JOIN findings f ON f.engagement_id = a.engagement_id AND f.benchmark = v.benchmark
      AND f.rule = v.rule AND f.device = v.device
    LEFT JOIN users u ON u.id = f.owner_id
    WHERE a.finished_at IS NOT NULL AND v.outcome IN ('fail', 'unknown', 'error')`,
  `CREATE SQL SECURITY DEFINER VIEW export_devices AS
    SELECT d.engagement_id, e.title AS engagement, d.name AS device, d.dialect,
      JSON_UNQUOTE(JSON_EXTRACT(d.facts, '$.site')) AS site, d.created_at
    FROM devices d JOIN engagements e ON e.id = d.engagement_id`,
  `CREATE SQL SECURITY DEFINER VIEW export_requirements AS
    SELECT ${AUDIT}, SUBSTRING_INDEX(r.reference, ':', 1) AS framework,
      SUBSTRING(r.reference, LOCATE(':', r.reference) + 1) AS requirement,
      CAST(SUM(v.outcome = 'fail') AS UNSIGNED) AS fail,
      CAST(SUM(v.outcome IN ('unknown', 'error')) AS UNSIGNED) AS undecided,
      CAST(SUM(v.outcome = 'pass') AS UNSIGNED) AS pass
    FROM ${OF_AUDIT} JOIN audit_verdicts v ON v.audit_id = a.id,
      JSON_TABLE(v.requirements, '$[*]' COLUMNS (reference VARCHAR(200) PATH '$')) r
    WHERE a.finished_at IS NOT NULL
    GROUP BY a.id, r.reference`,
  `CREATE SQL SECURITY DEFINER VIEW export_trend AS
    SELECT ${AUDIT},
      ${['pass', 'fail', 'unknown', 'error', 'notapplicable', 'notchecked', 'waived']
        .map((outcome) => `CAST(JSON_EXTRACT(a.counts, '$.${outcome}') AS UNSIGNED) AS ${outcome}`)
        .join(', ')}
    FROM ${OF_AUDIT} WHERE a.counts IS NOT NULL`,
  `CREATE TABLE own_frameworks (
    engagement_id INT UNSIGNED NOT NULL,
    id VARCHAR(80) NOT NULL,
    body MEDIUMTEXT NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_at DATETIME(3) NOT NULL,
    PRIMARY KEY (engagement_id, id),
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (created_by) REFERENCES users(id))`,
  `CREATE TABLE api_tokens (
    id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
    engagement_id INT UNSIGNED NOT NULL,
    title VARCHAR(120) NOT NULL,
    hash CHAR(64) NOT NULL UNIQUE,
    begins VARCHAR(20) NOT NULL,
    tables TEXT NOT NULL,
    created_by INT UNSIGNED NOT NULL,
    created_by_name VARCHAR(160) NOT NULL,
    created_at DATETIME(3) NOT NULL,
    expires_at DATETIME(3) NOT NULL,
    used_at DATETIME(3) NULL,
    FOREIGN KEY (engagement_id) REFERENCES engagements(id),
    FOREIGN KEY (created_by) REFERENCES users(id))`,
]

export class Data1796600000000 implements MigrationInterface {
  readonly name = 'Data1796600000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const statement of DATA) await runner.query(statement)
  }

  async down(): Promise<void> {
    throw new Error('This migration has no way back: restore the database from before it')
  }
}

import { isFinding } from '@jurybox/core/audit'
import { In, type SelectQueryBuilder } from 'typeorm'
import { z } from 'zod'
import { Verdicts, type Audit, type StoredVerdict } from '../db/entities.ts'
import type { Services } from '../services.ts'
import { waiversIn } from '../waivers/routes.ts'

const words = z.preprocess(
  (value) => (typeof value === 'string' && value !== '' ? value.split(',') : undefined),
  z.array(z.string()).optional(),
)
const part = z.string().max(200).optional()

/** Columns that a list of verdicts is sorted and filtered by. */
export const VERDICT_COLUMNS = ['outcome', 'severity', 'device', 'rule', 'branch', 'note'] as const
type VerdictColumn = (typeof VERDICT_COLUMNS)[number]

/** What has become of a finding since the audit before. */
export const SINCE = ['new', 'open', 'resolved'] as const
export type Since = (typeof SINCE)[number]

/** Which verdicts are asked for, and in which order; `f.` begins the text that a column must hold. */
export const verdictFilter = z.object({
  outcome: words,
  severity: words,
  device: z.string().optional(),
  benchmark: z.string().optional(),
  rule: z.string().optional(),
  requirement: z.string().optional(),
  since: z.enum(SINCE).optional(),
  text: part,
  sort: z.enum([...VERDICT_COLUMNS, ...VERDICT_COLUMNS.map((column) => `-${column}` as const)]).optional(),
  'f.outcome': part,
  'f.severity': part,
  'f.device': part,
  'f.rule': part,
  'f.branch': part,
  'f.note': part,
})
export type VerdictFilter = z.infer<typeof verdictFilter>

const OUTCOME_ORDER = "FIELD(v.outcome, 'fail', 'error', 'unknown', 'pass', 'notchecked', 'notapplicable')"
const SEVERITY_ORDER = "FIELD(v.severity, 'high', 'medium', 'low', 'info')"
const ORDERS: Readonly<Record<VerdictColumn, string>> = {
  outcome: OUTCOME_ORDER,
  severity: SEVERITY_ORDER,
  device: 'v.device',
  rule: 'v.rule',
  branch: 'v.branch',
  note: 'v.note',
}

/** Which verdicts of an audit are waived now; only those of rules that some waiver names are looked at. */
export async function waivedIn(services: Services, audit: Audit): Promise<Set<number>> {
  const rules = [...new Set((await waiversIn(services.database, audit.engagementId)).map(({ rule }) => rule))]
  const rows =
    rules.length === 0
      ? []
      : await services.database
          .getRepository(Verdicts)
          .find({
            where: { auditId: audit.id, rule: In(rules) },
            select: {
              id: true,
              judgementId: true,
              benchmark: true,
              rule: true,
              sealed: true,
              records: true,
              beforeRecords: true,
            },
          })
  const verdicts = await services.audits.waived(audit.engagementId, await services.sealedVerdicts.open(rows))
  return new Set(rows.flatMap(({ id }, i) => (verdicts[i]?.waived ? [id] : [])))
}

/** What has become of a finding since the audit before; null where there was and is none. */
export function sinceOf(then: string | undefined, now: string): Since | null {
  const was = then !== undefined && isFinding(then)
  if (isFinding(now)) return was ? 'open' : 'new'
  return was ? 'resolved' : null
}

/** The verdicts of an audit that are asked for, the gravest first where nothing else is. */
export async function verdictsAsked(
  services: Services,
  audit: Audit,
  asked: VerdictFilter,
  waived: ReadonlySet<number>,
): Promise<SelectQueryBuilder<StoredVerdict>> {
  const found = services.database
    .getRepository(Verdicts)
    .createQueryBuilder('v')
    .where('v.auditId = :audit', { audit: audit.id })
  const waivedIds = [0, ...waived]
  if (asked.outcome?.includes('waived'))
    found.andWhere('(v.outcome IN (:...outcomes) OR v.id IN (:...waivedIds))', { outcomes: asked.outcome, waivedIds })
  else if (asked.outcome) found.andWhere('v.outcome IN (:...outcomes)', { outcomes: asked.outcome })
  if (asked.severity) found.andWhere('v.severity IN (:...severities)', { severities: asked.severity })
  if (asked.device) found.andWhere('v.device = :device', { device: asked.device })
  if (asked.benchmark) found.andWhere('v.benchmark = :benchmark', { benchmark: asked.benchmark })
  if (asked.rule) found.andWhere('v.rule = :rule', { rule: asked.rule })
  if (asked.requirement)
    found.andWhere('JSON_CONTAINS(v.requirements, JSON_QUOTE(:requirement))', { requirement: asked.requirement })
  if (asked.text)
    found.andWhere('(LOWER(v.note) LIKE :text OR LOWER(v.device) LIKE :text OR LOWER(v.rule) LIKE :text)', {
      text: likeOf(asked.text),
    })
  for (const column of VERDICT_COLUMNS) {
    const wanted = asked[`f.${column}`]
    if (!wanted) continue
    // As the column shows it: an outcome without its space, and what is waived besides.
    if (column === 'outcome' && 'waived'.startsWith(wanted.toLowerCase()))
      found.andWhere('v.id IN (:...waivedIds)', { waivedIds })
    else
      found.andWhere(`LOWER(v.${column}) LIKE :f_${column}`, {
        [`f_${column}`]: likeOf(column === 'outcome' ? wanted.replaceAll(' ', '') : wanted),
      })
  }
  if (asked.since) await onlySince(services, audit, asked.since, found)
  const column = asked.sort?.replace('-', '') as VerdictColumn | undefined
  if (column) found.orderBy(ORDERS[column], asked.sort?.startsWith('-') ? 'DESC' : 'ASC')
  const asGiven = [OUTCOME_ORDER, SEVERITY_ORDER, 'v.device', 'v.place'].filter(
    (order) => !column || order !== ORDERS[column],
  )
  for (const order of asGiven) found.addOrderBy(order)
  return found
}

async function onlySince(
  { audits }: Services,
  audit: Audit,
  since: Since,
  found: SelectQueryBuilder<StoredVerdict>,
): Promise<void> {
  const before = await audits.before(audit)
  if (!before) return void found.andWhere('1 = 0')
  const objecting = (alias: string): string => `${alias}.outcome IN ('fail', 'unknown', 'error')`
  found.leftJoin(
    'audit_verdicts',
    'earlier',
    'earlier.auditId = :before AND earlier.deviceId = v.deviceId AND earlier.benchmark = v.benchmark AND earlier.rule = v.rule',
    { before: before.id },
  )
  // What the audit before was not asked is neither new nor resolved.
  found.andWhere('v.benchmark IN (:...compared)', { compared: before.choices.map(({ benchmark }) => benchmark) })
  if (since === 'resolved') found.andWhere(`${objecting('earlier')} AND NOT ${objecting('v')}`)
  else if (since === 'open') found.andWhere(`${objecting('earlier')} AND ${objecting('v')}`)
  else found.andWhere(`${objecting('v')} AND (earlier.id IS NULL OR NOT ${objecting('earlier')})`)
}

function likeOf(text: string): string {
  return `%${text.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`
}

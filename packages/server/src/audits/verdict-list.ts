import { isFinding } from '@jurybox/core/audit'
import { In, type SelectQueryBuilder } from 'typeorm'
import {
  VERDICT_COLUMNS,
  type Only,
  type Since,
  type VerdictColumn,
  type VerdictFilter,
} from '@jurybox/api/verdict-filter'
import { Verdicts, type Audit, type StoredVerdict } from './entity.ts'
import type { AuditService } from './service.ts'
import type { DataSource } from 'typeorm'
import type { BenchmarkRepository } from '../benchmarks/repository.ts'
import type { SealedVerdicts } from './sealed-verdicts.ts'
import type { WaiverService } from '../waivers/service.ts'
import { likeOf } from '../db/like.ts'
import { today } from '../findings/service.ts'
import { ruleTitles } from './titles.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly audits: AuditService
  readonly benchmarks: BenchmarkRepository
  readonly database: DataSource
  readonly sealedVerdicts: SealedVerdicts
  readonly waivers: WaiverService
}

const OUTCOME_ORDER = "FIELD(v.outcome, 'fail', 'error', 'unknown', 'pass', 'notchecked', 'notapplicable')"
const SEVERITY_ORDER = "FIELD(v.severity, 'high', 'medium', 'low', 'info')"
const ORDERS: Readonly<Record<VerdictColumn, string>> = {
  outcome: OUTCOME_ORDER,
  severity: SEVERITY_ORDER,
  device: 'v.device',
  rule: 'v.rule',
  branch: 'v.branch',
  note: 'v.note',
  owner: 'owner.fullName',
  due: "COALESCE(finding.dueOn, '9999-12-31')",
  comment: 'finding.comment',
}
/** What is filtered by the text of a column that is not one of the verdict itself. */
const TEXTS: Readonly<Partial<Record<VerdictColumn, string>>> = {
  owner: 'owner.fullName',
  due: 'finding.dueOn',
  comment: 'finding.comment',
}

/** Which verdicts of an audit are waived now; only those of rules that some waiver names are looked at. */
export async function waivedIn(services: Needs, audit: Audit): Promise<Set<number>> {
  const rules = [...new Set((await services.waivers.standing(audit.engagementId)).map(({ rule }) => rule))]
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

/**
 * The verdicts of an audit that are asked for, the gravest first where nothing else is.
 * @param userId who asks: “mine” are theirs
 */
export async function verdictsAsked(
  services: Needs,
  audit: Audit,
  asked: VerdictFilter,
  waived: ReadonlySet<number>,
  userId: number,
): Promise<SelectQueryBuilder<StoredVerdict>> {
  const found = services.database
    .getRepository(Verdicts)
    .createQueryBuilder('v')
    .leftJoin(
      'findings',
      'finding',
      'finding.engagementId = :engagement AND finding.benchmark = v.benchmark ' +
        'AND finding.rule = v.rule AND finding.device = v.device',
      { engagement: audit.engagementId },
    )
    .leftJoin('users', 'owner', 'owner.id = finding.ownerId')
    .where('v.auditId = :audit', { audit: audit.id })
  const waivedIds = [0, ...waived]
  const titles = await ruleTitles(services, audit.choices)
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
    else if (column === 'rule')
      found.andWhere('v.rule IN (:...rulesHolding)', { rulesHolding: ['', ...rulesHolding(titles, wanted)] })
    else
      found.andWhere(`LOWER(${TEXTS[column] ?? `v.${column}`}) LIKE :f_${column}`, {
        [`f_${column}`]: likeOf(column === 'outcome' ? wanted.replaceAll(' ', '') : wanted),
      })
  }
  if (asked.only) onlyThose(asked.only, userId, found)
  if (asked.since) await onlySince(services, audit, asked.since, found)
  const column = asked.sort?.replace('-', '') as VerdictColumn | undefined
  // The column shows titles, so it is sorted by them.
  if (column === 'rule')
    found
      .orderBy('FIELD(v.rule, :...byTitle)', asked.sort?.startsWith('-') ? 'DESC' : 'ASC')
      .setParameter('byTitle', ['', ...idsByTitle(titles)])
  else if (column) found.orderBy(ORDERS[column], asked.sort?.startsWith('-') ? 'DESC' : 'ASC')
  const asGiven = [OUTCOME_ORDER, SEVERITY_ORDER, 'v.device', 'v.place'].filter(
    (order) => !column || order !== ORDERS[column],
  )
  for (const order of asGiven) found.addOrderBy(order)
  return found
}

const idOf = (key: string): string => key.slice(key.indexOf(' ') + 1)

/** Ids of the rules whose title, or id, holds a text. */
function rulesHolding(titles: ReadonlyMap<string, string>, text: string): string[] {
  const wanted = text.toLowerCase()
  return [...titles].flatMap(([key, title]) =>
    `${idOf(key)} ${title}`.toLowerCase().includes(wanted) ? [idOf(key)] : [],
  )
}

/** Ids of the rules in the order of their titles. */
function idsByTitle(titles: ReadonlyMap<string, string>): string[] {
  return [...titles].toSorted(([, a], [, b]) => (a < b ? -1 : 1)).map(([key]) => idOf(key))
}

/** Findings by who sees to them and until when. */
function onlyThose(only: Only, userId: number, found: SelectQueryBuilder<StoredVerdict>): void {
  found.andWhere("v.outcome IN ('fail', 'unknown', 'error')")
  if (only === 'mine') found.andWhere('finding.ownerId = :userId AND finding.doneAt IS NULL', { userId })
  else if (only === 'unassigned') found.andWhere('finding.ownerId IS NULL AND finding.doneAt IS NULL')
  else if (only === 'overdue') found.andWhere('finding.dueOn < :today AND finding.doneAt IS NULL', { today: today() })
  else found.andWhere('finding.doneAt IS NOT NULL')
}

async function onlySince(
  { audits }: Pick<Needs, 'audits'>,
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
    'earlier.auditId = :before AND earlier.deviceId = v.deviceId AND earlier.benchmark = v.benchmark ' +
      'AND earlier.rule = v.rule',
    { before: before.id },
  )
  // What the audit before was not asked is neither new nor resolved.
  found.andWhere('v.benchmark IN (:...compared)', { compared: before.choices.map(({ benchmark }) => benchmark) })
  if (since === 'resolved') found.andWhere(`${objecting('earlier')} AND NOT ${objecting('v')}`)
  else if (since === 'open') found.andWhere(`${objecting('earlier')} AND ${objecting('v')}`)
  else found.andWhere(`${objecting('v')} AND (earlier.id IS NULL OR NOT ${objecting('earlier')})`)
}

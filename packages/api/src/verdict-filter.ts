import { z } from 'zod'

const words = z.preprocess(
  (value) => (typeof value === 'string' && value !== '' ? value.split(',') : undefined),
  z.array(z.string()).optional(),
)
const part = z.string().max(200).optional()

/** Columns that a list of verdicts is sorted and filtered by. */
export const VERDICT_COLUMNS = [
  'outcome',
  'severity',
  'device',
  'rule',
  'branch',
  'note',
  'owner',
  'due',
  'comment',
] as const
export type VerdictColumn = (typeof VERDICT_COLUMNS)[number]

/** What has become of a finding since the audit before. */
export const SINCE = ['new', 'open', 'resolved'] as const
export type Since = (typeof SINCE)[number]

/** Which findings are asked for by what people said of them. */
export const ONLY = ['mine', 'unassigned', 'overdue', 'done'] as const
export type Only = (typeof ONLY)[number]

/** Which verdicts are asked for, and in which order; `f.` begins the text that a column must hold. */
export const verdictFilter = z.object({
  outcome: words,
  severity: words,
  device: z.string().optional(),
  benchmark: z.string().optional(),
  rule: z.string().optional(),
  requirement: z.string().optional(),
  since: z.enum(SINCE).optional(),
  /** Findings of the caller, of nobody, or past their due date. */
  only: z.enum(ONLY).optional(),
  text: part,
  sort: z.enum([...VERDICT_COLUMNS, ...VERDICT_COLUMNS.map((column) => `-${column}` as const)]).optional(),
  'f.outcome': part,
  'f.severity': part,
  'f.device': part,
  'f.rule': part,
  'f.branch': part,
  'f.note': part,
  'f.owner': part,
  'f.due': part,
  'f.comment': part,
})
export type VerdictFilter = z.infer<typeof verdictFilter>

import type { GridView } from '@jurybox/api/audits'

/** What the rules of one requirement say of one device together. */
export interface MatrixCell {
  /** The gravest of its verdicts that nobody has waived; where all findings are waived, the gravest of all. */
  readonly outcome: GridView['cells'][number]['outcome']
  readonly waived: boolean
  /** Findings that nobody has waived. */
  readonly findings: number
  readonly verdicts: number
}

/** A device without any verdict on a requirement has no cell. */
export type Matrix = ReadonlyMap<number, ReadonlyMap<string, MatrixCell>>

/** A doubt is graver than a pass: one rule that passed does not make up for one that is unknown. */
const GRAVITY = ['fail', 'error', 'unknown', 'notchecked', 'pass', 'notapplicable'] as const
const gravityOf = (outcome: string): number => {
  const at = GRAVITY.findIndex((one) => one === outcome)
  return at < 0 ? GRAVITY.length : at
}
const FINDINGS = 3

/** Devices by the requirements of a framework that some rule serves. @returns by device id, then by number */
export function matrixOf({ rules, cells }: Pick<GridView, 'rules' | 'cells'>, framework: string): Matrix {
  const numbers = new Map(
    rules.map(({ benchmark, id, references }) => [
      `${benchmark} ${id}`,
      references.filter((one) => one.startsWith(`${framework}:`)).map((one) => one.slice(framework.length + 1)),
    ]),
  )
  const matrix = new Map<number, Map<string, MatrixCell>>()
  for (const { deviceId, benchmark, rule, outcome, waived } of cells)
    for (const number of numbers.get(`${benchmark} ${rule}`) ?? []) {
      const row = matrix.get(deviceId) ?? new Map<string, MatrixCell>()
      matrix.set(deviceId, row)
      row.set(number, joined(row.get(number), { outcome, waived }))
    }
  return matrix
}

function joined(
  held: MatrixCell | undefined,
  { outcome, waived }: Pick<GridView['cells'][number], 'outcome' | 'waived'>,
): MatrixCell {
  const findings = (held?.findings ?? 0) + Number(gravityOf(outcome) < FINDINGS && !waived)
  const verdicts = (held?.verdicts ?? 0) + 1
  const isGraver =
    held === undefined ||
    // A waived finding goes before a pass, and after every finding that is open.
    rankOf(outcome, waived) < rankOf(held.outcome, held.waived)
  return isGraver
    ? { outcome, waived, findings, verdicts }
    : { outcome: held.outcome, waived: held.waived, findings, verdicts }
}
/** Open findings, waived ones, all others. */
function rankOf(outcome: string, waived: boolean): number {
  const gravity = gravityOf(outcome)
  return gravity < FINDINGS && !waived ? gravity : gravity + FINDINGS
}

/** The numbers that some rule serves, in the order of the framework: 1.2.9 before 1.2.10. */
export function servedNumbers(rules: GridView['rules'], framework: string): string[] {
  const all = rules.flatMap(({ references }) =>
    references.filter((one) => one.startsWith(`${framework}:`)).map((one) => one.slice(framework.length + 1)),
  )
  return [...new Set(all)].sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
}

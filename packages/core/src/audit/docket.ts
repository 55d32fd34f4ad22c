import type { Severity } from '../rules/index.ts'

/**
 * From where a device is reached: from outside, from guests, from neither; `undecided`: it may be; `unknown`: not
 * computed.
 */
export const EXPOSURES = ['outside', 'undecided', 'guests', 'unknown', 'inside'] as const
export type Exposure = (typeof EXPOSURES)[number]

export const SEVERITY_WEIGHTS: Readonly<Record<Severity, number>> = { info: 1, low: 2, medium: 4, high: 8 }
/** What may be reached counts as what is: doubt does not make a finding less urgent. */
export const EXPOSURE_WEIGHTS: Readonly<Record<Exposure, number>> = {
  outside: 3,
  undecided: 3,
  guests: 2,
  unknown: 2,
  inside: 1,
}

export const DOCKET_FORMULA =
  'Priority = severity (high 8, medium 4, low 2, info 1) × exposure (reached from outside or undecided 3, ' +
  'from guests or not computed 2, from neither 1) × spread (1 + log2 of the devices with this finding).'

/** An open finding on one device. */
export interface OpenFinding {
  readonly benchmark: string
  readonly rule: string
  readonly device: string
  readonly severity: Severity
  readonly exposure: Exposure
}

/** Findings of one rule, which one remediation settles. */
export interface DocketItem<F extends OpenFinding> {
  readonly benchmark: string
  readonly rule: string
  readonly severity: Severity
  /** The greatest of its devices. */
  readonly exposure: Exposure
  /** Most exposed first. */
  readonly findings: readonly F[]
  readonly priority: number
}

/** Open findings in the order in which to deal with them, by rule. */
export function docketOf<F extends OpenFinding>(findings: readonly F[]): DocketItem<F>[] {
  const byRule = new Map<string, F[]>()
  for (const finding of findings) {
    const key = `${finding.benchmark} ${finding.rule}`
    const own = byRule.get(key)
    if (own) own.push(finding)
    else byRule.set(key, [finding])
  }
  return [...byRule.values()]
    .flatMap((own): DocketItem<F>[] => {
      const sorted = own.toSorted(
        (x, y) => EXPOSURE_WEIGHTS[y.exposure] - EXPOSURE_WEIGHTS[x.exposure] || (x.device < y.device ? -1 : 1),
      )
      const [first] = sorted
      if (!first) return []
      const severity = sorted.reduce<Severity>(
        (most, one) => (SEVERITY_WEIGHTS[one.severity] > SEVERITY_WEIGHTS[most] ? one.severity : most),
        first.severity,
      )
      const devices = new Set(sorted.map(({ device }) => device)).size
      const priority = SEVERITY_WEIGHTS[severity] * EXPOSURE_WEIGHTS[first.exposure] * (1 + Math.log2(devices))
      const { benchmark, rule, exposure } = first
      return [{ benchmark, rule, severity, exposure, findings: sorted, priority: Math.round(priority * 10) / 10 }]
    })
    .sort((x, y) => y.priority - x.priority || y.findings.length - x.findings.length || (x.rule < y.rule ? -1 : 1))
}

/** Conditions joined: not, and, or, with three truth values (Kleene). */
import type { CompiledCondition } from './compiled-condition.ts'
import { Finding, allOf, doubtsOf } from './evidence.ts'

export function not(ask: CompiledCondition): CompiledCondition {
  return (context) => {
    const finding = ask(context)
    return new Finding(
      finding.truth === 'unknown' ? 'unknown' : !finding.truth,
      finding.places,
      finding.reasons,
      finding.doubts,
    )
  }
}

/** Kleene's strong AND, left to right, so that later conditions see what earlier ones bind. */
export function all(asks: readonly CompiledCondition[]): CompiledCondition {
  return (context) => {
    const met: Finding[] = []
    let unknown: Finding | null = null
    for (const ask of asks) {
      const finding = ask(context)
      if (finding.truth === false) return finding
      if (finding.truth === 'unknown') unknown ??= finding
      met.push(finding)
    }
    return unknown ?? together(true, met)
  }
}

/** Kleene's strong OR, left to right. */
export function any(asks: readonly CompiledCondition[]): CompiledCondition {
  return (context) => {
    const met: Finding[] = []
    let unknown: Finding | null = null
    for (const ask of asks) {
      const finding = ask(context)
      if (finding.truth === true) return finding
      if (finding.truth === 'unknown') unknown ??= finding
      met.push(finding)
    }
    return unknown ?? together(false, met)
  }
}

function together(truth: boolean, findings: readonly Finding[]): Finding {
  return new Finding(
    truth,
    () => findings.flatMap((finding) => finding.places()),
    { missing: allOf(findings, 'missing'), extra: allOf(findings, 'extra') },
    doubtsOf(findings),
  )
}

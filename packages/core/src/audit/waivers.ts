import { z } from 'zod'
import { isFinding, type Verdict } from './document.ts'

/** A finding that is accepted until a date: of a rule on one device or on all, with one subject or all of them. */
export const waiverSchema = z.strictObject({
  benchmark: z.string(),
  rule: z.string(),
  /** Null: every device. */
  device: z.string().nullable().default(null),
  subject: z.string().nullable().default(null),
  reason: z.string().min(1),
  /** Who accepted the risk. */
  owner: z.string().min(1),
  /** RFC 3339. */
  expires: z.iso.datetime({ offset: true }),
})
export type Waiver = z.infer<typeof waiverSchema>

/** The parts of a verdict by which waivers apply, and where they are noted. */
export type Waivable = Pick<Verdict, 'benchmark' | 'rule' | 'device' | 'outcome' | 'subjects' | 'waived'>

/**
 * Applies waivers to verdicts. The outcome does not change; a verdict is waived if a waiver covers it as a whole, or if
 * each of its failing subjects has one. An expired waiver covers nothing.
 */
export function applyWaivers<V extends Waivable>(verdicts: readonly V[], waivers: readonly Waiver[], now: number): V[] {
  const live = waivers.filter(({ expires }) => Date.parse(expires) > now)
  if (live.length === 0) return [...verdicts]
  return verdicts.map((verdict) => {
    if (!isFinding(verdict.outcome)) return verdict
    const own = live.filter(
      ({ benchmark, rule, device }) =>
        benchmark === verdict.benchmark && rule === verdict.rule && (device === null || device === verdict.device),
    )
    const whole = own.find(({ subject }) => subject === null)
    if (whole) return { ...verdict, waived: [waiverLine(whole)] }
    const objected = verdict.subjects.filter(({ outcome }) => isFinding(outcome))
    const covering = objected.map(({ name }) => own.find(({ subject }) => subject === name))
    const lines = covering.flatMap((waiver) => (waiver ? [waiverLine(waiver)] : []))
    return objected.length > 0 && lines.length === objected.length ? { ...verdict, waived: lines } : verdict
  })
}

function waiverLine({ subject, reason, owner, expires }: Waiver): NonNullable<Verdict['waived']>[number] {
  return { subject, reason, owner, expires }
}

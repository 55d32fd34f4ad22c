import { z } from 'zod'
import { isFinding, type Verdict } from './document.ts'

/** A violation that is borne for a time. It covers a rule on a device, or on all; all of its subjects, or one. */
export const waiverSchema = z.strictObject({
  benchmark: z.string(),
  rule: z.string(),
  /** Null: every device. */
  device: z.string().nullable().default(null),
  subject: z.string().nullable().default(null),
  reason: z.string().min(1),
  /** Who bears it. */
  owner: z.string().min(1),
  /** RFC 3339. */
  expires: z.iso.datetime({ offset: true }),
})
export type Waiver = z.infer<typeof waiverSchema>

/** What of a verdict a waiver looks at, and where it is laid. */
export type Waivable = Pick<Verdict, 'benchmark' | 'rule' | 'device' | 'outcome' | 'subjects' | 'waived'>

/**
 * Lays waivers over verdicts. The outcome stays what it is; a verdict is waived where a waiver covers the whole of it,
 * or where every subject that is objected to has one. An expired waiver covers nothing.
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

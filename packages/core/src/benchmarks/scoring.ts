import { z } from 'zod'

/** How a framework makes a number of its requirements: what is lost for each that is not met. */
export const scoringSchema = z.strictObject({
  /** The method, as it is published. */
  method: z.string(),
  /** What it is if every requirement is met. */
  from: z.int(),
  /** Points of requirements by their weight; those that are not named weigh one. */
  weights: z.record(z.string().regex(/^\d+$/), z.array(z.string())),
  /** Requirements that lose fewer points where they are met in part. */
  partly: z.record(z.string(), z.int()).default({}),
  /** Without these there is no score: they weigh nothing themselves. */
  required: z.array(z.string()).default([]),
  /** What a plan of action may leave open. */
  plan: z.strictObject({
    /** The least score with which one is accepted. */
    least: z.int(),
    /** The most points that an open requirement may weigh. */
    most: z.int(),
    /** Requirements that may be open although they weigh more, with the most for each. */
    most_for: z.record(z.string(), z.int()).default({}),
    /** Requirements that may never be open. */
    never: z.array(z.string()),
    days: z.int(),
  }),
})
export type Scoring = z.infer<typeof scoringSchema>

/** What a requirement weighs: at most, and at least where it is met in part. */
export function weightOf(scoring: Scoring, requirement: string): { readonly most: number; readonly least: number } {
  if (scoring.required.includes(requirement)) return { most: 0, least: 0 }
  const [weight] = Object.entries(scoring.weights).find(([, own]) => own.includes(requirement)) ?? ['1']
  return { most: Number(weight), least: scoring.partly[requirement] ?? Number(weight) }
}

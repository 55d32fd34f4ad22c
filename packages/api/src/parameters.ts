import { z } from 'zod'

/** Ids are positive whole numbers; they come as text in a path. */
const id = z.coerce.number().int().positive().max(Number.MAX_SAFE_INTEGER)
const name = z.string().min(1).max(300)

/** What the parameters of paths are, by name: the same name is the same thing in every path. */
export const PARAMETERS = {
  account: id,
  alert: id,
  answer: id,
  approval: id,
  audit: id,
  credential: id,
  device: id,
  engagement: id,
  group: id,
  hold: id,
  job: id,
  number: id,
  other: id,
  pack: id,
  record: id,
  report: id,
  request: id,
  schedule: id,
  snapshot: id,
  token: id,
  user: id,
  verdict: id,
  view: id,
  waiver: id,
  window: id,
  benchmark: name,
  expectation: name,
  format: name,
  import: name,
  kind: name,
  label: name,
  name,
  reference: name,
  sha256: z.string().regex(/^[\da-f]{64}$/),
  site: name,
  table: name,
} as const
type Parameters = typeof PARAMETERS

/** The names of the parameters in a path. */
type NamesIn<Path extends string> = Path extends `${infer _Before}:${infer Rest}`
  ? Rest extends `${infer Name}${'/' | '.'}${infer After}`
    ? Name | NamesIn<`${'/'}${After}`>
    : Rest
  : never

/** The parameters of a path with their types. */
export type ParamsOf<Path extends string> = {
  readonly [Name in NamesIn<Path> & keyof Parameters]: z.output<Parameters[Name]>
}

/** The schema of the parameters of a path. */
export function paramsSchema(path: string): z.ZodObject {
  const names = [...path.matchAll(/:(\w+)/g)].map(([, found = '']) => found)
  return z.object(
    Object.fromEntries(
      names.map((found) => {
        if (!isParameter(found)) throw new Error(`"${path}" has a parameter that is not known: "${found}"`)
        return [found, PARAMETERS[found]]
      }),
    ),
  )
}

function isParameter(text: string): text is keyof Parameters {
  return Object.hasOwn(PARAMETERS, text)
}

/** Lines of one record, counted from 1, both included; columns where a value shares its line with others. */
export interface OriginLines {
  readonly from: number
  readonly to: number
  readonly columns?: readonly [from: number, to: number]
}

/** Where a value of the model is from. What no line and no default states has no origin: it is absent. */
export type Origin =
  | { readonly kind: 'line'; readonly record: string; readonly lines: readonly OriginLines[] }
  /** The dialect's default, which an ordinary listing hides; `source` says where that is known from. */
  | { readonly kind: 'default'; readonly source: string }

/** By path of the model: `system.ntp.servers[0].key`. */
export type Origins = ReadonlyMap<string, Origin>

/** The origin of a value: its own, else that of the nearest thing around it. */
export function originOf(origins: Origins, path: string): Origin | null {
  for (let at = path; at !== ''; at = outer(at)) {
    const origin = origins.get(at)
    if (origin) return origin
  }
  return null
}

function outer(path: string): string {
  return path.slice(0, Math.max(path.lastIndexOf('.'), path.lastIndexOf('['), 0))
}

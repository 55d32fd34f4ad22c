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

/** A place of the model, as a path that is written out only when someone asks. */
export class ModelPath {
  constructor(
    readonly around: ModelPath | null,
    readonly field: string,
    /** Of an entry: its number in the list; -1 of what is no list's entry. */
    readonly entry = -1,
  ) {}

  get path(): string {
    const { around, field, entry } = this
    const name = around === null || around.field === '' ? field : `${around.path}.${field}`
    return entry < 0 ? name : `${name}[${entry}]`
  }
}

/** Taken from what stands at another path. */
export interface BorrowedOrigin {
  readonly kind: 'of'
  readonly path: string
}

/**
 * The origins of a model while it is made. They are put in order of their paths only when someone asks: most are never
 * asked for. Kept side by side in lists, since there are as many as values.
 */
export class OriginNotes {
  readonly #byPath = new Map<string, Origin>()
  #places: ModelPath[] = []
  /** Name of the value at the place; null of the place itself. */
  #fields: (string | null)[] = []
  #origins: (Origin | BorrowedOrigin)[] = []

  note(place: ModelPath, field: string | null, origin: Origin | BorrowedOrigin): void {
    this.#places.push(place)
    this.#fields.push(field)
    this.#origins.push(origin)
  }

  get all(): Origins {
    let last: ModelPath | null = null
    let path = ''
    this.#places.forEach((place, i) => {
      if (place !== last) path = (last = place).path
      const field = this.#fields[i] ?? null
      const noted = this.#origins[i]
      const origin = noted?.kind === 'of' ? this.#byPath.get(noted.path) : noted
      if (origin) this.#byPath.set(field === null ? path : path === '' ? field : `${path}.${field}`, origin)
    })
    this.#places = []
    this.#fields = []
    this.#origins = []
    return this.#byPath
  }
}

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

/** What stands at one place of the model, such as `interfaces[3].addresses`; undefined where nothing does. */
export function valueAt(model: unknown, path: string): unknown {
  let at = model
  for (const key of path.split(/[.[\]]+/).filter(Boolean)) {
    if (typeof at !== 'object' || at === null) return undefined
    at = (at as Readonly<Record<string, unknown>>)[key]
  }
  return at
}

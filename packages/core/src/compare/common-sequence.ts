/** A pair of places, counted from 0, of two sequences. */
export type Pair = readonly [a: number, b: number]

/** With more pairs of equal items than this, the k-th of one side goes with the k-th of the other. */
const MOST_PAIRS = 2_000_000

/** What pairs of equal items weigh, where they differ. */
export interface Weighing {
  /** Of a pair of equal items; not negative. */
  readonly weight: (a: number, b: number) => number
  /** All that the items are, by which it is chosen among results that weigh the same. */
  readonly contents: { readonly a: readonly string[]; readonly b: readonly string[] }
}

/**
 * The common subsequence of two sequences with the greatest weight, as pairs of places in rising order. Where all
 * weights are one it is the longest common subsequence, so that what is left out is a shortest edit script (Hunt and
 * Szymanski, Communications of the ACM 20, 5, 1977; weights by a Fenwick tree over the places of `b`). Takes
 * O((p + n) log n) for p pairs of equal items. Exchanging the sequences exchanges the pairs and nothing else.
 * @param weighing left out: each pair weighs one
 */
export function heaviestCommonSequence(
  a: readonly string[],
  b: readonly string[],
  { weight, contents }: Partial<Weighing> = {},
): Pair[] {
  // Of several that weigh the same, the one that is chosen must not depend on which side is called A.
  if (comesAfter(contents?.a ?? a, contents?.b ?? b))
    return inOrder(b, a, weight && ((x, y) => weight(y, x))).map(([x, y]) => [y, x])
  return inOrder(a, b, weight)
}

type Weight = Weighing['weight']

function comesAfter(a: readonly string[], b: readonly string[]): boolean {
  if (a.length !== b.length) return a.length > b.length
  const at = a.findIndex((item, i) => item !== b[i])
  return at >= 0 && (a[at] ?? '') > (b[at] ?? '')
}

function inOrder(a: readonly string[], b: readonly string[], weight: Weight | undefined): Pair[] {
  if (weight) return heaviest(a, b, weight)
  // Where all weigh the same, nothing is lost by pairing equal beginnings and ends.
  let from = 0
  while (from < a.length && from < b.length && a[from] === b[from]) from++
  let [endA, endB] = [a.length, b.length]
  while (endA > from && endB > from && a[endA - 1] === b[endB - 1]) {
    endA--
    endB--
  }
  const middle = heaviest(a.slice(from, endA), b.slice(from, endB), () => 1)
  return [
    ...a.slice(0, from).map((_, i): Pair => [i, i]),
    ...middle.map(([x, y]): Pair => [x + from, y + from]),
    ...a.slice(endA).map((_, i): Pair => [endA + i, endB + i]),
  ]
}

/** A pair with the best that can come before it. */
interface Link {
  readonly pair: Pair
  readonly before: Link | null
  readonly total: number
}

function heaviest(a: readonly string[], b: readonly string[], weight: Weight): Pair[] {
  if (a.length === 0 || b.length === 0) return []
  const best = new BestBefore(b.length)
  const placesOf = candidatesIn(a, b)
  for (let i = 0; i < a.length; i++) {
    // All that can follow what stood before this item is found out before any of it is noted.
    const links = placesOf(i).map((j): Link => {
      const before = best.upTo(j - 1)
      return { pair: [i, j], before, total: (before?.total ?? 0) + weight(i, j) }
    })
    for (const link of links) best.note(link.pair[1], link)
  }
  const pairs: Pair[] = []
  for (let at = best.upTo(b.length - 1); at; at = at.before) pairs.push(at.pair)
  return pairs.reverse()
}

/** For each place of `a` the places of `b` that hold an equal item. */
function candidatesIn(a: readonly string[], b: readonly string[]): (at: number) => readonly number[] {
  const places = new Map<string, number[]>()
  b.forEach((item, j) => {
    const known = places.get(item)
    if (known) known.push(j)
    else places.set(item, [j])
  })
  const all = a.reduce((sum, item) => sum + (places.get(item)?.length ?? 0), 0)
  if (all <= MOST_PAIRS) return (i) => places.get(a[i] ?? '') ?? NONE
  const seen = new Map<string, number>()
  return (i) => {
    const item = a[i] ?? ''
    const turn = seen.get(item) ?? 0
    seen.set(item, turn + 1)
    const at = places.get(item)?.[turn]
    return at === undefined ? NONE : [at]
  }
}

const NONE: readonly number[] = []

/**
 * The heaviest chain that ends at one of the first places (P. Fenwick, Software: Practice and Experience 24, 3, 1994).
 */
class BestBefore {
  readonly #tree: (Link | null)[]

  constructor(size: number) {
    this.#tree = Array.from({ length: size + 1 }, () => null)
  }

  upTo(place: number): Link | null {
    let best: Link | null = null
    for (let at = place + 1; at > 0; at -= at & -at) {
      const link = this.#tree[at] ?? null
      if (link && (best === null || link.total > best.total)) best = link
    }
    return best
  }

  note(place: number, link: Link): void {
    for (let at = place + 1; at < this.#tree.length; at += at & -at) {
      const known = this.#tree[at] ?? null
      if (known === null || link.total > known.total) this.#tree[at] = link
    }
  }
}

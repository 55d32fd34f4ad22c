/** A point of the map, in its own units. */
export interface Point {
  readonly x: number
  readonly y: number
}

/** What lines are led around: a rectangle about its middle. */
export interface Box extends Point {
  /** Whose it is: links of it end there. */
  readonly owner: string
  readonly width: number
  readonly height: number
}

/** Distance that a line keeps from what it goes around. */
export const MARGIN = 12
/** Of more boxes than this a way around is not looked for: the line stays straight. */
const MOST_BOXES = 16

/** Boxes by their place from left to right, so that a line is only asked of those that are near. */
export class Obstacles {
  readonly #sorted: readonly Box[]
  readonly #widest: number

  constructor(boxes: readonly Box[]) {
    this.#sorted = [...boxes].sort((a, b) => a.x - b.x)
    this.#widest = Math.max(0, ...boxes.map(({ width }) => width))
  }

  /** Those that a stretch meets. */
  on(from: Point, to: Point): Box[] {
    const reach = this.#widest / 2
    const last = Math.max(from.x, to.x) + reach
    const found: Box[] = []
    for (let i = this.#firstFrom(Math.min(from.x, to.x) - reach); i < this.#sorted.length; i++) {
      const box = this.#sorted[i]
      if (!box || box.x > last) break
      if (meets(from, to, box)) found.push(box)
    }
    return found
  }

  #firstFrom(x: number): number {
    let [low, high] = [0, this.#sorted.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((this.#sorted[middle]?.x ?? 0) < x) low = middle + 1
      else high = middle
    }
    return low
  }
}

/**
 * The bends of a line that goes around boxes; none where the straight one meets none of them.
 * @param ends whose boxes the line may meet
 * @param margin distance at the corners
 * @returns the shortest way over the corners of the boxes that are met; null where there is none
 */
export function bendsAround(
  from: Point,
  to: Point,
  boxes: Obstacles,
  ends: readonly string[] = [],
  margin = MARGIN,
): Point[] | null {
  const met = new Set<Box>()
  for (;;) {
    const bends = shortest(from, to, [...met], margin)
    if (bends === null) return null
    const line = [from, ...bends, to]
    const more = line
      .flatMap((point, i) => boxes.on(line[i - 1] ?? from, point))
      .filter((box) => !met.has(box) && !ends.includes(box.owner))
    if (more.length === 0) return bends
    for (const box of more) met.add(box)
    if (met.size > MOST_BOXES) return null
  }
}

/** Dijkstra's way over the corners of the boxes. */
function shortest(from: Point, to: Point, boxes: readonly Box[], margin: number): Point[] | null {
  const points = [from, to, ...boxes.flatMap((box) => cornersOf(box, margin))]
  const free = (a: Point, b: Point): boolean => boxes.every((box) => !meets(a, b, box))
  const lengths = points.map((_, i) => (i === 0 ? 0 : Infinity))
  const before = new Map<number, number>()
  const open = new Set(points.keys())
  while (open.size > 0) {
    const at = [...open].reduce((best, one) => ((lengths[one] ?? 0) < (lengths[best] ?? 0) ? one : best))
    const [here, length = Infinity] = [points[at], lengths[at]]
    if (here === undefined || length === Infinity) return null
    if (at === 1) break
    open.delete(at)
    for (const next of open) {
      const there = points[next]
      if (there === undefined || !free(here, there)) continue
      const longer = length + Math.hypot(there.x - here.x, there.y - here.y)
      if (longer >= (lengths[next] ?? 0)) continue
      lengths[next] = longer
      before.set(next, at)
    }
  }
  const bends: Point[] = []
  for (let at = before.get(1) ?? 0; at !== 0; at = before.get(at) ?? 0) {
    const point = points[at]
    if (point) bends.unshift(point)
  }
  return bends
}

function cornersOf({ x, y, width, height }: Box, margin: number): Point[] {
  const [aside, up] = [width / 2 + margin, height / 2 + margin]
  return [-1, 1].flatMap((h) => [-1, 1].map((v) => ({ x: x + h * aside, y: y + v * up })))
}

/** Whether a stretch has a point within a box (the clipping of Liang and Barsky, 1984). */
export function meets(from: Point, to: Point, { x, y, width, height }: Box): boolean {
  let [begin, end] = [0, 1]
  for (const [start, step, middle, half] of [
    [from.x, to.x - from.x, x, width / 2],
    [from.y, to.y - from.y, y, height / 2],
  ] as const) {
    const [low, high] = [middle - half - start, middle + half - start]
    if (step === 0) {
      if (low >= 0 || high <= 0) return false
      continue
    }
    begin = Math.max(begin, Math.min(low / step, high / step))
    end = Math.min(end, Math.max(low / step, high / step))
  }
  return begin < end
}

/** A point as its share of the way from one end to the other, and its distance to the side of that. */
export function aside(from: Point, to: Point, { x, y }: Point): { readonly share: number; readonly distance: number } {
  const [dx, dy] = [to.x - from.x, to.y - from.y]
  const length = Math.hypot(dx, dy)
  if (length === 0) return { share: 0, distance: 0 }
  return {
    share: ((x - from.x) * dx + (y - from.y) * dy) / length ** 2,
    distance: ((y - from.y) * dx - (x - from.x) * dy) / length,
  }
}

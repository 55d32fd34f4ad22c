import type { GraphEdge, GraphNode } from './map-graph.ts'

/** Something to be placed: a device with room for its name, or a frame with all that is in it. */
export interface Box {
  readonly id: string
  readonly width: number
  readonly height: number
}
interface Point {
  readonly x: number
  readonly y: number
}
/** Lays boxes out by the links between them. */
export type Place = (
  boxes: readonly Box[],
  links: readonly (readonly [a: string, b: string])[],
) => ReadonlyMap<string, Point>

/** Room that a device takes with its name and a number. */
const DEVICE = { width: 116, height: 92 }
const PADDING = 22
/** More boxes than this are pushed a few times only. */
const MANY = 200
/** Nothing is torn further apart. */
const WIDEST = 6

/**
 * Places a graph level by level, from the innermost frames outwards: what is in a frame first, then the frames as boxes
 * among what stands beside them. So no frame lies over another, and a large estate takes as long as its largest level.
 * @param aspect width of the board by its height
 */
export function placeByLevels(
  nodes: readonly GraphNode[],
  edges: readonly GraphEdge[],
  aspect: number,
  place: Place,
): Map<string, Point> {
  const parents = new Map(nodes.map(({ id, parent }) => [id, parent]))
  const inside = new Map<string | undefined, GraphNode[]>()
  for (const node of nodes) inside.set(node.parent, [...(inside.get(node.parent) ?? []), node])
  const links = linksByLevel(edges, parents)
  const found = new Map<string, Point>()
  const frames = new Map<
    string,
    { readonly points: ReadonlyMap<string, Point>; readonly size: { width: number; height: number } }
  >()
  const arrange = (
    frame: string | undefined,
  ): { readonly points: ReadonlyMap<string, Point>; readonly size: { width: number; height: number } } => {
    const boxes = (inside.get(frame) ?? []).map(({ id, kind }): Box => {
      if (kind !== 'site') return { id, ...DEVICE }
      const inner = arrange(id)
      frames.set(id, inner)
      return { id, ...inner.size }
    })
    return centred(boxes, apart(boxes, place(boxes, links.get(frame) ?? []), frame === undefined ? aspect : 1))
  }
  const put = (points: ReadonlyMap<string, Point>, at: Point): void => {
    for (const [id, { x, y }] of points) {
      const inner = frames.get(id)
      if (inner) put(inner.points, { x: at.x + x, y: at.y + y })
      else found.set(id, { x: at.x + x, y: at.y + y })
    }
  }
  put(arrange(undefined).points, { x: 0, y: 0 })
  return found
}

/** Links by the frame in which their ends, or the frames around them, stand side by side. */
function linksByLevel(
  edges: readonly GraphEdge[],
  parents: ReadonlyMap<string, string | undefined>,
): Map<string | undefined, [string, string][]> {
  const around = (id: string): string[] => {
    const chain = [id]
    for (let at = parents.get(id); at !== undefined && !chain.includes(at); at = parents.get(at)) chain.push(at)
    return chain.reverse()
  }
  const levels = new Map<string | undefined, Map<string, [string, string]>>()
  for (const { source, target } of edges) {
    const [a, b] = [around(source), around(target)]
    const at = a.findIndex((one, i) => one !== b[i])
    const [left, right] = [a[at], b[at]]
    if (at < 0 || left === undefined || right === undefined) continue
    const level = levels.get(a[at - 1]) ?? new Map<string, [string, string]>()
    level.set([left, right].sort().join('\n'), [left, right])
    levels.set(a[at - 1], level)
  }
  return new Map([...levels].map(([frame, level]) => [frame, [...level.values()]]))
}

/** Moves boxes apart until none lies over another, wider than high where the board is. */
function apart(boxes: readonly Box[], placed: ReadonlyMap<string, Point>, aspect: number): Map<string, Point> {
  const points = boxes.map((box) => ({ box, ...(placed.get(box.id) ?? { x: 0, y: 0 }) }))
  const [wide, high] = [extent(points.map(({ x }) => x)), extent(points.map(({ y }) => y))]
  const stretch = wide > 0 && high > 0 ? Math.min(1.6, Math.max(1, (aspect * high) / wide)) : 1
  const stretched = points.map(({ box, x, y }) => ({ box, x: x * stretch, y }))
  const needed: number[] = []
  stretched.forEach((a, i) => {
    let most = 0
    for (let j = 0; j < stretched.length; j++) {
      const b = stretched[j]
      if (!b || i === j) continue
      const dx = Math.abs(a.x - b.x) / ((a.box.width + b.box.width) / 2 + GAP)
      const dy = Math.abs(a.y - b.y) / ((a.box.height + b.box.height) / 2 + GAP)
      most = Math.max(most, 1 / Math.max(dx, dy, 1e-6))
    }
    needed.push(most)
  })
  // What most need; the few that lie closer are pushed aside.
  const scale = Math.max(0.05, needed.sort((a, b) => a - b)[Math.floor(needed.length * 0.8)] ?? 1)
  const spread = stretched.map(({ box, x, y }) => ({
    box,
    x: x * Math.min(scale, WIDEST),
    y: y * Math.min(scale, WIDEST),
  }))
  pushed(spread, boxes.length > MANY ? 6 : 400)
  return new Map(spread.map(({ box, x, y }) => [box.id, { x, y }]))
}

/** Pushes boxes that lie over each other apart, each pair the shorter way, until none do. */
function pushed(points: { readonly box: Box; x: number; y: number }[], rounds: number): void {
  for (let round = 0, moved = true; moved && round < rounds; round++) {
    moved = false
    for (let i = 0; i < points.length; i++) {
      for (let j = i + 1; j < points.length; j++) {
        const [a, b] = [points[i], points[j]]
        if (!a || !b) continue
        const overX = (a.box.width + b.box.width) / 2 + GAP - Math.abs(a.x - b.x)
        const overY = (a.box.height + b.box.height) / 2 + GAP - Math.abs(a.y - b.y)
        if (overX <= 0.5 || overY <= 0.5) continue
        moved = true
        const axis = overX < overY ? 'x' : 'y'
        // A little more than half each: those that are pushed about by many come to rest.
        const by = (Math.min(overX, overY) / 2 + 1) * (a[axis] <= b[axis] ? 1 : -1)
        a[axis] -= by
        b[axis] += by
      }
    }
  }
}
const GAP = 14

function extent(values: readonly number[]): number {
  return values.length === 0 ? 0 : Math.max(...values) - Math.min(...values)
}

/** Around the middle of all boxes, and how large the frame is that holds them. */
function centred(
  boxes: readonly Box[],
  points: ReadonlyMap<string, Point>,
): { readonly points: Map<string, Point>; readonly size: { width: number; height: number } } {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (const { id, width, height } of boxes) {
    const { x, y } = points.get(id) ?? { x: 0, y: 0 }
    ;[left, right, top, bottom] = [
      Math.min(left, x - width / 2),
      Math.max(right, x + width / 2),
      Math.min(top, y - height / 2),
      Math.max(bottom, y + height / 2),
    ]
  }
  if (boxes.length === 0) return { points: new Map(), size: { width: DEVICE.width, height: DEVICE.height } }
  const middle = { x: (left + right) / 2, y: (top + bottom) / 2 }
  return {
    points: new Map([...points].map(([id, { x, y }]) => [id, { x: x - middle.x, y: y - middle.y }])),
    size: { width: right - left + 2 * PADDING, height: bottom - top + 2 * PADDING },
  }
}

/** Lays the map out beside the page: a graph in, positions and the bends of links out. */
import cytoscape from 'cytoscape'
import fcose from 'cytoscape-fcose'
import type { GraphEdge, GraphNode } from './map-graph.ts'
import type { Laid } from './map-layout.ts'
import { placeByLevels, type Place } from './map-levels.ts'
import { MARGIN, Obstacles, bendsAround, type Box, type Point } from './map-routes.ts'

cytoscape.use(fcose as cytoscape.Ext)

/** The same graph is laid out in the same way: numbers that look random, from one beginning. */
function numbersFrom(seed: number): () => number {
  let state = seed
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state)
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296
  }
}

const byForces: Place = (boxes, links) => {
  if (boxes.length < 2) return new Map(boxes.map(({ id }) => [id, { x: 0, y: 0 }]))
  const graph = cytoscape({
    headless: true,
    styleEnabled: true,
    style: [{ selector: 'node', style: { width: 'data(width)', height: 'data(height)' } }],
    elements: [...boxes.map((data) => ({ data })), ...links.map(([source, target]) => ({ data: { source, target } }))],
  })
  graph
    .layout({
      name: 'fcose',
      animate: false,
      quality: 'default',
      randomize: true,
      nodeSeparation: 60,
      idealEdgeLength: 40,
      nodeRepulsion: 3000,
      packComponents: true,
      tile: true,
      tilingPaddingVertical: 14,
      tilingPaddingHorizontal: 14,
    } as cytoscape.LayoutOptions)
    .run()
  const placed = new Map(graph.nodes().map((node) => [node.id(), { ...node.position() }]))
  graph.destroy()
  return placed
}

self.onmessage = ({
  data: { nodes, edges, aspect },
}: MessageEvent<{ nodes: readonly GraphNode[]; edges: readonly GraphEdge[]; aspect: number }>) => {
  Math.random = numbersFrom(nodes.length + 1)
  const positions = placeByLevels(nodes, edges, aspect, byForces)
  const laid: Laid = { positions, bends: bendsOf(nodes, edges, positions) }
  self.postMessage(laid)
}

/** The shape of a device, and of the two lines of words below it: as the page draws them. */
const SHAPE = { width: 44, height: 44 }
const [LANES, LANE_WIDTH] = [5, 9]
const WORDS = { height: 50, below: 46, ofLetter: 10 }

function bendsOf(
  nodes: readonly GraphNode[],
  edges: readonly GraphEdge[],
  positions: Laid['positions'],
): Map<string, readonly Point[]> {
  const shapes: Box[] = []
  const words: Box[] = []
  for (const { id, label, kind } of nodes) {
    const at = positions.get(id)
    if (!at || kind === 'site') continue
    shapes.push({ owner: id, ...at, ...SHAPE })
    words.push({
      owner: id,
      x: at.x,
      y: at.y + WORDS.below,
      width: label.length * WORDS.ofLetter,
      height: WORDS.height,
    })
  }
  const devices = new Obstacles(shapes)
  const everything = new Obstacles([...shapes, ...words])
  const bent = new Map<string, number>()
  return new Map(
    edges.flatMap(({ id, source, target }): [string, Point[]][] => {
      const [from, to] = [positions.get(source), positions.get(target)]
      if (!from || !to) return []
      // Links of one device that go around the same corner are led beside each other.
      const lane = Math.max(bent.get(source) ?? 0, bent.get(target) ?? 0)
      const ends = [source, target]
      const margin = MARGIN + (lane % LANES) * LANE_WIDTH
      // Where there is no way around the words as well, it leads over words rather than over devices.
      const bends = bendsAround(from, to, everything, ends, margin) ?? bendsAround(from, to, devices, ends, margin)
      if (!bends || bends.length === 0) return []
      for (const end of ends) bent.set(end, lane + 1)
      return [[id, bends]]
    }),
  )
}

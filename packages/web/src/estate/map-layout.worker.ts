/** Lays the map out beside the page: a graph in, positions out. */
import cytoscape from 'cytoscape'
import fcose from 'cytoscape-fcose'
import type { GraphEdge, GraphNode } from './map-graph.ts'
import { placeByLevels, type Place } from './map-levels.ts'

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
  self.postMessage([...placeByLevels(nodes, edges, aspect, byForces)])
}

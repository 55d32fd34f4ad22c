import { t } from '../messages/index.ts'
import type { GraphEdge, GraphNode } from './map-graph.ts'
import type { Point } from './map-routes.ts'

export interface Laid {
  readonly positions: ReadonlyMap<string, Point>
  /** Of links that go around devices, by their ids. */
  readonly bends: ReadonlyMap<string, readonly Point[]>
}

/**
 * Lays a graph out in a worker.
 * @param aspect width of the board by its height
 * @param signal ends it, whatever it does
 * @returns null where it was ended
 */
export async function layOut(
  nodes: readonly GraphNode[],
  edges: readonly GraphEdge[],
  aspect: number,
  signal: AbortSignal,
): Promise<Laid | null> {
  const worker = new Worker(new URL('./map-layout.worker.ts', import.meta.url), { type: 'module' })
  try {
    return await new Promise<Laid | null>((resolve, reject) => {
      signal.addEventListener('abort', () => resolve(null))
      worker.onmessage = ({ data }: MessageEvent<Laid>) => resolve(data)
      worker.onerror = (event) => reject(new Error(t('estate.theMapCouldNotBe', { message: event.message })))
      worker.postMessage({ nodes, edges, aspect })
    })
  } finally {
    worker.terminate()
  }
}

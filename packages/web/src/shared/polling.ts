import { onScopeDispose, ref, type Ref } from 'vue'
import type { Endpoint, ResponseOf } from '@jurybox/api/endpoint'
import { StillReading, call, type Rest } from '../api/client.ts'

const PAUSE_MS = 400
/** An answer that takes longer is waited for visibly. */
const SOON_MS = 250
/** Asked, and nothing said yet of how far it is. */
const ASKED: Progress = { done: 0, total: 1, of: 'answers' }

/** How far the server is. */
export interface Progress {
  readonly done: number
  readonly total: number
  readonly of?: string | undefined
}

/**
 * Asks what is answered across the estate: where it is still being read, asks again until it is done. `reading` tells
 * how far it is; an answer to an earlier question is never given after a later one was asked.
 */
export function usePolling(): {
  reading: Ref<Progress | null>
  ask: <const E extends Endpoint>(endpoint: E, ...given: Rest<E>) => Promise<ResponseOf<E> | null>
  stop: () => void
} {
  const reading = ref<Progress | null>(null)
  let turn = 0
  /** Null where another question was asked meanwhile, or nobody waits any more. */
  async function ask<const E extends Endpoint>(endpoint: E, ...given: Rest<E>): Promise<ResponseOf<E> | null> {
    const mine = ++turn
    const soon = setTimeout(() => {
      if (mine === turn) reading.value ??= ASKED
    }, SOON_MS)
    const answered = (): void => {
      clearTimeout(soon)
      if (mine === turn) reading.value = null
    }
    for (;;) {
      try {
        const answer = await call(endpoint, ...given)
        answered()
        return mine === turn ? answer : null
      } catch (error) {
        if (mine === turn && error instanceof StillReading) {
          reading.value = { done: error.done, total: error.total, of: error.of }
          await new Promise((resolve) => setTimeout(resolve, PAUSE_MS))
          if (mine === turn) continue
        }
        answered()
        if (mine !== turn) return null
        throw error
      }
    }
  }
  function stop(): void {
    turn++
    reading.value = null
  }
  onScopeDispose(stop)
  return { reading, ask, stop }
}

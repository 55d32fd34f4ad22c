import type { Endpoint, ResponseOf } from '@jurybox/api/endpoint'
import { ref, shallowRef, watch, type Ref, type ShallowRef } from 'vue'
import { wordsOf, type Given, type Rest } from '../api/client.ts'
import { useAttempt, type Attempts } from './attempt.ts'
import { usePolling, type Progress } from './polling.ts'

/** What a page shows of one endpoint: the last answer, and whether another is on its way. */
export interface Query<E extends Endpoint> {
  /** Stays on the screen until the next answer is there (see `afresh`); null before the first. */
  readonly data: ShallowRef<ResponseOf<E> | null>
  /** What went wrong, in words; empty where nothing did. */
  readonly problem: Ref<string>
  readonly loading: Ref<boolean>
  /** How far the server is, where the answer takes long; null otherwise. */
  readonly reading: Ref<Progress | null>
  /** What is wrong with each field of an action that the server refused, by its name in the body. */
  readonly fields: Attempts['fields']
  /** Asks again, such as after a change. */
  load(): Promise<void>
  /** Stops waiting; what is shown stays. */
  stop(): void
  /** Runs an action, then asks again; whether it succeeded. */
  attempt(action: () => Promise<unknown>): Promise<boolean>
}

/**
 * Asks an endpoint, and again whenever what is asked changes. An answer to an earlier question is never shown after a
 * later one was asked; while the server is still parsing, it is asked again until it is done.
 * @param given what is asked, read reactively; null: nothing, and nothing is shown
 * @param options.changed done after an action that succeeded, when it was asked again
 * @param options.afresh takes an answer off the screen as soon as something else is asked, where it would be read as
 *   the answer to that; without it, the answer stays until the next is there
 */
export function useQuery<const E extends Endpoint>(
  endpoint: E,
  given: () => Given<E> | null,
  { changed, afresh = false }: { changed?: () => unknown; afresh?: boolean } = {},
): Query<E> {
  const data = shallowRef(null) as ShallowRef<ResponseOf<E> | null>
  const { problem, fields, attempt: run } = useAttempt()
  const loading = ref(false)
  const { reading, ask, stop: leave } = usePolling()
  let turn = 0

  async function load(): Promise<void> {
    const asked = given()
    if (asked === null) {
      stop()
      data.value = null
      return
    }
    const mine = ++turn
    loading.value = true
    try {
      const answer = await ask(endpoint, ...([asked] as Rest<E>))
      if (mine !== turn) return
      data.value = answer
      problem.value = ''
    } catch (error) {
      if (mine === turn) problem.value = wordsOf(error)
    } finally {
      if (mine === turn) loading.value = false
    }
  }
  function stop(): void {
    turn++
    loading.value = false
    leave()
  }
  async function attempt(action: () => Promise<unknown>): Promise<boolean> {
    if (!(await run(action))) return false
    await load()
    if (problem.value !== '') return false
    await changed?.()
    return true
  }
  // Compared by content: a getter makes a new object each time that anything it reads is touched.
  watch(
    () => JSON.stringify(given()),
    () => {
      if (afresh) {
        data.value = null
        problem.value = ''
      }
      void load()
    },
    { immediate: true },
  )
  return { data, problem, loading, reading, fields, load, stop, attempt }
}

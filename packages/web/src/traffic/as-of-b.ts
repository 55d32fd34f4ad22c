import { ref, watch, type Ref } from 'vue'
import { useAttempt } from '../shared/attempt.ts'
import { usePolling, type Progress } from '../shared/polling.ts'
import { useEngagement } from '../stores/engagement.ts'

/**
 * What the server answers of traffic as of B, asked again whenever B is another, or who uses it wants so (`load`).
 * @param path behind that of the engagement's traffic, with its slash
 */
export function useAsOfB<T>(path: string): {
  found: Ref<T | null>
  problem: Ref<string>
  reading: Ref<Progress | null>
  stop: () => void
  load: () => Promise<void>
  attempt: ReturnType<typeof useAttempt>['attempt']
} {
  const engagement = useEngagement()
  const { reading, ask, stop } = usePolling()
  const { problem, attempt } = useAttempt()
  const found = ref<T | null>(null) as Ref<T | null>
  async function load(): Promise<void> {
    // What was found stays on the screen until the answer of the other B is there.
    found.value = (await ask<T>(`${engagement.base}/traffic${path}`, { snapshot: engagement.b?.id })) ?? found.value
  }
  watch(
    () => engagement.b?.id,
    (id) => void (id !== undefined && attempt(load)),
    { immediate: true },
  )
  return { found, problem, reading, stop, load, attempt }
}

import { computed, ref, shallowRef, type ComputedRef, type Ref } from 'vue'
import { ApiError, wordsOf } from '../api/client.ts'

/** Work that may go wrong, and what a page shows of it. */
export interface Attempts {
  /** What went wrong, in words; empty where nothing did. */
  readonly problem: Ref<string>
  /** What is wrong with each field that the server refused, by its name in the body: shown beside the field. */
  readonly fields: ComputedRef<Readonly<Record<string, string>>>
  /** Whether it succeeded. */
  attempt(work: () => Promise<unknown>): Promise<boolean>
}

/** @param after done when the work was */
export function useAttempt(after: () => unknown = () => undefined): Attempts {
  const problem = ref('')
  const faults = shallowRef<ApiError['fields']>([])
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    problem.value = ''
    faults.value = []
    try {
      await work()
      await after()
      return true
    } catch (error) {
      problem.value = wordsOf(error)
      faults.value = error instanceof ApiError ? error.fields : []
      return false
    }
  }
  const fields = computed(() => Object.fromEntries(faults.value.map(({ field, message }) => [field, message])))
  return { problem, fields, attempt }
}

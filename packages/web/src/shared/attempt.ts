import { ref, type Ref } from 'vue'
import { wordsOf } from '../api/client.ts'

/**
 * Work that may go wrong, and the words to show where it does.
 * @param after done when the work was
 */
export function useAttempt(after: () => unknown = () => undefined): {
  problem: Ref<string>
  attempt: (work: () => Promise<unknown>) => Promise<boolean>
} {
  const problem = ref('')
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    problem.value = ''
    try {
      await work()
      await after()
      return true
    } catch (error) {
      problem.value = wordsOf(error)
      return false
    }
  }
  return { problem, attempt }
}

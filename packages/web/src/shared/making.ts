import { onScopeDispose, ref, type Ref } from 'vue'
import { fileAt } from '../api/client.ts'
import { useAttempt } from './attempt.ts'
import { saveFile } from './files.ts'

/** Files that the server needs a while to make. */
export interface Making {
  /** Names of the files that are being made. */
  readonly making: Ref<readonly string[]>
  readonly problem: Ref<string>
  /** Asks for a file and hands it to the person. */
  make(name: string, address: string): Promise<void>
  /** The server stops making it, too. */
  stop(name: string): void
}

export function useMaking(): Making {
  const making = ref<readonly string[]>([])
  const running = new Map<string, AbortController>()
  const { problem, attempt } = useAttempt()
  function stop(name: string): void {
    running.get(name)?.abort()
    running.delete(name)
    making.value = [...running.keys()]
  }
  async function make(name: string, address: string): Promise<void> {
    if (running.has(name)) return
    const mine = new AbortController()
    running.set(name, mine)
    making.value = [...running.keys()]
    await attempt(async () => {
      try {
        saveFile(name, await fileAt(address, mine.signal))
      } catch (error) {
        if (!mine.signal.aborted) throw error
      }
    })
    if (running.get(name) === mine) stop(name)
  }
  onScopeDispose(() => [...running.keys()].forEach(stop))
  return { making, problem, make, stop }
}

import { listNames } from '@jurybox/api/traffic'
import { defineStore } from 'pinia'
import { ref, watch } from 'vue'
import { StillReading, call } from '../api/client.ts'
import { useEngagement } from './engagement.ts'

export interface Names {
  readonly hosts: Readonly<Record<string, string>>
  readonly ports: Readonly<Record<string, string>>
}
const NONE: Names = { hosts: {}, ports: {} }
/** While the network is being read, it is asked again after so long. */
const AGAIN_MS = 3000

/** The names of what a class of headers mentions, each once. */
export function namesIn(text: string, { hosts, ports }: Names): string[] {
  const said = (form: RegExp, called: Readonly<Record<string, string>>): string[] =>
    [...text.matchAll(form)].flatMap(([, what = '']) =>
      Object.hasOwn(called, what) ? [`${what} is ${called[what] ?? ''}`] : [],
    )
  return [...new Set([...said(/\bhost ([0-9a-f.:]+)/g, hosts), ...said(/\bport (\d+)/g, ports)])]
}

/**
 * What the configurations call addresses, and the registry ports, as of B: classes of headers are read more easily with
 * them.
 */
export const useNames = defineStore('names', () => {
  const engagement = useEngagement()
  const names = ref<Names>(NONE)
  let asked = ''

  async function load(): Promise<void> {
    const key = `${engagement.id} ${engagement.b?.id ?? 0}`
    if (key === asked || !engagement.b) return
    asked = key
    try {
      const found = await call(listNames, { query: { snapshot: engagement.b.id } })
      if (asked === key) names.value = found
    } catch (error) {
      // Classes are whole without names.
      names.value = NONE
      asked = ''
      if (error instanceof StillReading) setTimeout(() => void load(), AGAIN_MS)
    }
  }
  watch(
    () => engagement.b?.id,
    () => void (asked !== '' && load()),
  )

  return { names, load }
})

import { listFrameworks } from '@jurybox/api/benchmarks'
import type { ResponseOf } from '@jurybox/api/endpoint'
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { call } from '../api/client.ts'

/** Published standards by their titles, so that requirements are named as people name them. */
export const useFrameworks = defineStore('frameworks', () => {
  const all = ref<ResponseOf<typeof listFrameworks>>([])
  let asked: Promise<void> | null = null

  async function load(): Promise<void> {
    asked ??= call(listFrameworks).then((found) => void (all.value = found))
    try {
      await asked
    } catch {
      // Ids stand for the titles until it is asked again.
      asked = null
    }
  }

  /** `pci-dss-4.0.1:1.2.2` as `PCI DSS 4.0.1 1.2.2`; what no framework names stays as it is. */
  function nameOf(reference: string): string {
    const at = reference.indexOf(':')
    const title = all.value.find(({ id }) => id === reference.slice(0, at))?.title
    return title === undefined ? reference : `${title} ${reference.slice(at + 1)}`
  }

  return { all, load, nameOf }
})

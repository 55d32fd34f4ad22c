import { type DialectView, listDialects } from '@jurybox/api/dialects'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { call } from '../api/client.ts'

/** The forms of configuration that are read, as the server names them. */
export const useDialects = defineStore('dialects', () => {
  const all = ref<readonly DialectView[]>([])
  let asked: Promise<void> | null = null

  async function load(): Promise<void> {
    asked ??= call(listDialects).then((found) => void (all.value = found))
    try {
      await asked
    } catch {
      // Ids stand for the titles until it is asked again.
      asked = null
    }
  }

  /** The title up to its explanation: `Set lines`. */
  const nameOf = (id: string): string => all.value.find((one) => one.id === id)?.title.split(',')[0] ?? id

  /** That of rules that name none. */
  const byDefault = computed(() => all.value[0]?.id ?? '')
  /** Whether lines of its listings are cited; so is what is not known yet. */
  const isCited = (id: string): boolean => all.value.find((one) => one.id === id)?.cited ?? true

  return { all, byDefault, load, nameOf, isCited }
})

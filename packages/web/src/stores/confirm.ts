import { defineStore } from 'pinia'
import { ref } from 'vue'
import { t } from '../messages/index.ts'

/** What is asked before something is deleted: it names what it destroys, and its button repeats the verb. */
export interface Question {
  readonly title: string
  readonly text?: string
  readonly action: string
}

/** One dialog for every action that cannot be taken back. */
export const useConfirm = defineStore('confirm', () => {
  const question = ref<Question | null>(null)
  let answerer: (yes: boolean) => void = () => undefined

  /** @returns whether the person confirmed */
  function ask(asked: Question): Promise<boolean> {
    answerer(false)
    question.value = asked
    return new Promise((resolve) => (answerer = resolve))
  }
  function answer(yes: boolean): void {
    question.value = null
    answerer(yes)
    answerer = () => undefined
  }
  /** Runs a deletion once the person confirmed it by its name. @param kind what it is, in lower case */
  async function deletion(kind: string, name: string, work: () => unknown, text?: string): Promise<void> {
    const question = { title: t('frame.deleteNamed', { kind, name }), action: t('frame.deleteKind', { kind }) }
    if (await ask(text === undefined ? question : { ...question, text })) await work()
  }
  return { question, ask, answer, deletion }
})

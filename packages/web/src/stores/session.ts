import { type SessionView, getSession, openSession, closeSession } from '@jurybox/api/sessions'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { ApiError, onSignedOut, useCsrf, call } from '../api/client.ts'

/** Who is signed in. */
export const useSession = defineStore('session', () => {
  const view = ref<SessionView | null>(null)
  const asked = ref(false)
  const signedIn = computed(() => view.value !== null)

  async function ask(): Promise<void> {
    try {
      view.value = await call(getSession)
      useCsrf(view.value.csrf)
    } catch (error) {
      if (!(error instanceof ApiError) || error.status !== 401) throw error
      view.value = null
    } finally {
      asked.value = true
    }
  }

  /** @param code of the second factor, once it is asked for */
  async function signIn(name: string, password: string, code?: string): Promise<void> {
    await call(openSession, { body: { name, password, code } })
    await ask()
  }

  async function signOut(): Promise<void> {
    await call(closeSession)
    view.value = null
  }

  onSignedOut(() => (view.value = null))
  return { view, asked, signedIn, ask, signIn, signOut }
})

import { watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

/**
 * Runs an action that the address asks for by `?do=`, as the search field does, and takes it out of the address: going
 * back does not run it again.
 */
export function useAskedAction(name: string, run: () => void): void {
  const route = useRoute()
  const router = useRouter()
  watch(
    () => route.query['do'],
    (asked) => {
      if (asked !== name) return
      run()
      const { do: _, ...query } = route.query
      void router.replace({ query })
    },
    { immediate: true },
  )
}

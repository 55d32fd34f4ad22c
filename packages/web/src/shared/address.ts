import { useRoute, useRouter } from 'vue-router'

/** What a page is asked for by its address, so that a link shows the same. */
export function useAddress(): {
  /** Null where the address does not name it. */
  readonly text: (name: string) => string | null
  /** Null takes a name out of the address. */
  readonly ask: (query: Readonly<Record<string, string | null>>, keep?: 'push' | 'replace') => void
} {
  const route = useRoute()
  const router = useRouter()
  return {
    text: (name) => {
      const value = route.query[name]
      return typeof value === 'string' && value !== '' ? value : null
    },
    ask: (query, keep = 'push') => {
      const next = Object.entries({ ...route.query, ...query }).filter(([, value]) => value !== null)
      void router[keep]({ query: Object.fromEntries(next) })
    },
  }
}

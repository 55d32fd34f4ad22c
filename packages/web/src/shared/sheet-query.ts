import { computed, type ComputedRef } from 'vue'
import { useRoute } from 'vue-router'

/** Rows of a page where the server sorts, filters and counts. */
export const PAGE_ROWS = 200

/** What a table of this name asks for, as its part of the address says: order, text of columns, page. */
export function useSheetQuery(name: string): ComputedRef<Record<string, string | number>> {
  const route = useRoute()
  return computed(() => {
    const asked: Record<string, string | number> = {}
    for (const [key, value] of Object.entries(route.query)) {
      const part = key.startsWith(`${name}.`) ? key.slice(name.length + 1) : ''
      if (part === 'sort' || part.startsWith('f.')) asked[part] = String(value)
    }
    const page = Math.max(1, Number(route.query[`${name}.page`]) || 1)
    return { ...asked, limit: PAGE_ROWS, offset: (page - 1) * PAGE_ROWS }
  })
}

import { onScopeDispose, shallowRef, watch, type ShallowRef } from 'vue'

const PAUSE_MS = 350

/** What somebody types, once it has not changed for a moment: an answer is not asked for at each letter. */
export function useSettled<T>(typed: () => T, pauseMs = PAUSE_MS): Readonly<ShallowRef<T>> {
  const settled = shallowRef(typed()) as ShallowRef<T>
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(typed, (now) => {
    clearTimeout(timer)
    timer = setTimeout(() => (settled.value = now), pauseMs)
  })
  onScopeDispose(() => clearTimeout(timer))
  return settled
}

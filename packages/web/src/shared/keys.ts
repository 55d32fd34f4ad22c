import { onBeforeUnmount, onMounted, ref } from 'vue'

/** Keys without a modifier can be switched off (WCAG 2.1.4). */
export const keysAreOn = ref(localStorage.getItem('single-keys') !== 'off')

export function setKeys(on: boolean): void {
  keysAreOn.value = on
  localStorage.setItem('single-keys', on ? 'on' : 'off')
}

export interface PageKey {
  /** As in KeyboardEvent.key; letters in lower case. */
  readonly key: string
  readonly does: string
  readonly run: () => void
}

/** Keys of the page that is open, for F1. */
export const pageKeys = ref<readonly PageKey[]>([])

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable ||
      ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName) ||
      target.closest('[role="dialog"], [role="listbox"]') !== null)
  )
}

/** Gives a page its single keys while it is open. */
export function usePageKeys(keys: readonly PageKey[]): void {
  const hear = (event: KeyboardEvent): void => {
    if (!keysAreOn.value || event.ctrlKey || event.altKey || event.metaKey || isTyping(event.target)) return
    const found = keys.find(({ key }) => key === event.key.toLowerCase())
    if (!found) return
    event.preventDefault()
    found.run()
  }
  onMounted(() => {
    pageKeys.value = [...pageKeys.value, ...keys]
    window.addEventListener('keydown', hear)
  })
  onBeforeUnmount(() => {
    pageKeys.value = pageKeys.value.filter((key) => !keys.includes(key))
    window.removeEventListener('keydown', hear)
  })
}

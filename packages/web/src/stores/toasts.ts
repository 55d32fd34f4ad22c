import { defineStore } from 'pinia'
import { ref } from 'vue'

/** So long a toast stays: time enough to read it and to undo. */
export const TOAST_MS = 10_000

/** A short message at the foot of the page; it may lead somewhere, or undo what was done. */
export interface Toast {
  readonly id: number
  readonly text: string
  readonly tone: 'plain' | 'fail'
  /** Address of a page of the product. */
  readonly to?: string
  readonly action?: { readonly title: string; readonly run: () => unknown }
}

/** Messages that go away by themselves, the newest last. */
export const useToasts = defineStore('toasts', () => {
  const toasts = ref<Toast[]>([])
  let next = 1

  function show(text: string, more: Partial<Pick<Toast, 'tone' | 'to' | 'action'>> = {}): number {
    const id = next++
    toasts.value = [...toasts.value, { id, text, tone: 'plain', ...more }]
    setTimeout(() => dismiss(id), TOAST_MS)
    return id
  }
  function dismiss(id: number): void {
    toasts.value = toasts.value.filter((toast) => toast.id !== id)
  }
  return { toasts, show, dismiss }
})

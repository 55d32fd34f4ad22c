import { onMounted, onUnmounted, ref, type Ref } from 'vue'

const EVENTS = ['beforeprint', 'afterprint'] as const

/** Whether the page is being printed: paper has no scroll bars, so that everything is drawn. */
export function usePrinting(): Readonly<Ref<boolean>> {
  const printing = ref(false)
  const hear = (event: Event): void => void (printing.value = event.type === 'beforeprint')
  onMounted(() => EVENTS.forEach((name) => window.addEventListener(name, hear)))
  onUnmounted(() => EVENTS.forEach((name) => window.removeEventListener(name, hear)))
  return printing
}

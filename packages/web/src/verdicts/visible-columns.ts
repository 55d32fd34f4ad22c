import { computed, onUnmounted, ref, type ComponentPublicInstance } from 'vue'
import { usePrinting } from '../shared/printing.ts'

/** Width of a column in pixels, as the style of the grid says. */
export const COLUMN = 34
/** Columns on either side of what is in sight, so that scrolling shows no gap. */
const BESIDE = 8

/**
 * The columns to draw of many, by how far a box is scrolled; all of them on paper.
 * @param count all columns
 * @returns `first` and `end` of those drawn, the width of those `before` and `after` them in pixels; `box` takes the
 * scrolled element; `bring` scrolls a column into sight
 */
export function useVisibleColumns(count: () => number) {
  const scrolled = ref(0)
  const width = ref(1200)
  let element: HTMLElement | null = null
  const observer =
    typeof ResizeObserver === 'undefined'
      ? null
      : new ResizeObserver(() => (width.value = element?.clientWidth ?? 1200))
  const onScroll = (): void => {
    scrolled.value = element?.scrollLeft ?? 0
  }
  function box(given: Element | ComponentPublicInstance | null): void {
    if (given === element) return
    element?.removeEventListener('scroll', onScroll)
    observer?.disconnect()
    element = given instanceof HTMLElement ? given : null
    if (!element) return
    element.addEventListener('scroll', onScroll, { passive: true })
    observer?.observe(element)
  }
  onUnmounted(() => observer?.disconnect())
  const printing = usePrinting()
  const first = computed(() => (printing.value ? 0 : firstOf(scrolled.value, count())))
  const end = computed(() => (printing.value ? count() : endOf(scrolled.value, width.value, count())))
  /** What is drawn follows at once, not with the event of scrolling. */
  function bring(column: number): void {
    if (!element || (column >= first.value + BESIDE && column < end.value - BESIDE)) return
    if (count() * COLUMN > element.clientWidth) element.scrollLeft = Math.max(0, (column - BESIDE) * COLUMN)
    onScroll()
  }
  return {
    box,
    bring,
    first,
    end,
    before: computed(() => first.value * COLUMN),
    after: computed(() => (count() - end.value) * COLUMN),
  }
}

/** The first column to draw. @param scrolled pixels */
export function firstOf(scrolled: number, count: number): number {
  return Math.max(0, Math.min(Math.floor(scrolled / COLUMN) - BESIDE, count - 1))
}

/** The column after the last to draw. @param scrolled pixels @param width of what is in sight, in pixels */
export function endOf(scrolled: number, width: number, count: number): number {
  return Math.min(count, Math.ceil((scrolled + width) / COLUMN) + BESIDE)
}

import { type RecordText, getRecord } from '@jurybox/api/devices'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { call } from '../api/client.ts'

export interface MarkedRange {
  readonly from: number
  readonly to: number
  readonly absent: boolean
}

/** The exhibit panel: which record it shows, and which of its lines are marked. */
export const useExhibit = defineStore('exhibit', () => {
  const open = ref(localStorage.getItem('exhibit-panel') !== 'closed')
  const record = ref<RecordText | null>(null)
  const ranges = ref<readonly MarkedRange[]>([])
  /** Index of the range that is being looked at. */
  const at = ref(0)
  /** What the lines of a record say, by line: paths of the device model with their values. */
  const sayings = ref<ReadonlyMap<number, ReadonlyMap<number, readonly string[]>>>(new Map())
  /** The line under the pointer, or the lines of the value under it. */
  const pointed = ref<readonly MarkedRange[]>([])
  const problem = ref('')
  /** Without it the panel would be an empty third of the page. */
  const hasSomething = computed(() => record.value !== null || problem.value !== '')
  let asked = 0

  async function show(recordId: number, marked: readonly MarkedRange[] = []): Promise<void> {
    const turn = ++asked
    problem.value = ''
    try {
      const text =
        record.value?.id === recordId ? record.value : await call(getRecord, { params: { record: recordId } })
      // A slower answer to an earlier question must not replace a later one.
      if (turn !== asked) return
      record.value = text
      ranges.value = marked
      at.value = 0
    } catch (error) {
      if (turn === asked) problem.value = error instanceof Error ? error.message : String(error)
    }
  }

  function clear(): void {
    asked++
    record.value = null
    ranges.value = []
  }

  function toggle(): void {
    open.value = !open.value
    localStorage.setItem('exhibit-panel', open.value ? 'open' : 'closed')
  }

  /** Shows lines where they are looked for: the panel opens if it is closed. */
  async function reveal(recordId: number, marked: readonly MarkedRange[] = []): Promise<void> {
    if (!open.value) toggle()
    await show(recordId, marked)
  }

  /** Shows cited lines: those of the record that is cited first. */
  async function revealLines(
    lines: readonly { readonly record: number; readonly from: number; readonly to: number }[],
  ): Promise<void> {
    const [first] = lines
    if (!first) return
    const own = lines.filter(({ record: id }) => id === first.record)
    await reveal(
      first.record,
      own.map(({ from, to }) => ({ from, to, absent: false })),
    )
  }

  return { open, hasSomething, record, ranges, at, sayings, pointed, problem, show, reveal, revealLines, clear, toggle }
})

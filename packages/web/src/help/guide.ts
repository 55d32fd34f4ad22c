import { marked } from 'marked'

/** The task pages of docs/guide, shipped with the product: the same text in both places. */
const FILES = import.meta.glob<string>('../../../../docs/guide/*.md', { query: '?raw', import: 'default', eager: true })

export interface Task {
  readonly id: string
  readonly title: string
  readonly text: string
}

/** In the order of the work. */
const ORDER = [
  'import-configurations',
  'collect-from-devices',
  'discover-devices',
  'fit-a-benchmark',
  'write-a-rule',
  'run-an-audit',
  'read-verdicts',
  'waive-a-finding',
  'verify-traffic',
  'compare',
  'report',
  'estate',
  'search',
  'groups-and-labels',
  'approved-versions',
  'settings',
  'keys',
] as const

export const TASKS: readonly Task[] = ORDER.map((id) => {
  const text = FILES[`../../../../docs/guide/${id}.md`] ?? ''
  return { id, title: /^# (.*)$/m.exec(text)?.[1] ?? id, text }
})

/** A task page as HTML. Links to other documents of the repository lead nowhere in the product: their words stay. */
export function htmlOf({ text }: Task): string {
  return marked.parse(text.replace(/\[([^[\]]{1,200})\]\((?!https?:)[^()]{1,200}\)/g, '$1'), { async: false })
}

import { KINDS, type AlertKind } from '@jurybox/api/channel'
import { FORMULA } from '@jurybox/core/syntax'
import papaparse from 'papaparse'
import type { StoredEvent } from './entity.ts'

/** Words for one and for several of a kind. */
const WORDS: Readonly<Record<AlertKind, readonly [one: string, several: string, heading: string]>> = {
  new: ['new finding', 'new findings', 'New findings'],
  resolved: ['resolved', 'resolved', 'Resolved'],
  drift: ['changed configuration', 'changed configurations', 'Changed configurations'],
  collection: ['failed collection', 'failed collections', 'Not collected'],
  expectation: ['violated expectation', 'violated expectations', 'Violated expectations'],
  assigned: ['assigned finding', 'assigned findings', 'Assigned findings'],
  overdue: ['overdue finding', 'overdue findings', 'Overdue findings'],
  appeared: ['new device', 'new devices', 'New devices'],
  request: ['requested answer', 'requested answers', 'Requested answers'],
  report: ['new report', 'new reports', 'New reports'],
  vanished: ['vanished device', 'vanished devices', 'Vanished devices'],
}

/** More than a person reads in a message; the table has all. */
const MOST_LINES = 40

export interface Notification {
  readonly subject: string
  readonly text: string
  readonly csv: string
  readonly events: readonly {
    readonly kind: string
    readonly at: string
    readonly device: string | null
    readonly subject: string | null
    readonly severity: string
    readonly title: string
    readonly detail: string
  }[]
}

/** What there is to tell, as a message: counted in its subject, by kind in its text, whole in its table. */
export function renderNotification(engagement: string, events: readonly StoredEvent[]): Notification {
  const parts = KINDS.map((kind) => [kind, events.filter((event) => event.kind === kind)] as const).filter(
    ([, some]) => some.length > 0,
  )
  const counted = parts.map(([kind, some]) => `${some.length} ${WORDS[kind][some.length === 1 ? 0 : 1]}`).join(', ')
  const paragraphs = parts.map(([kind, some]) => {
    const lines = some
      .slice(0, MOST_LINES)
      .map(
        ({ device, subject, severity, title, detail }) =>
          `- ${[device, subject].filter(Boolean).join(', ')}${device ? ': ' : ''}${title} ` +
          `(${severity})${detail ? `\n  ${detail.replace(/\s+/g, ' ').slice(0, 300)}` : ''}`,
      )
    return [
      WORDS[kind][2],
      ...lines,
      ...(some.length > MOST_LINES ? [`… and ${some.length - MOST_LINES} more in the table.`] : []),
    ].join('\n')
  })
  const rows = events.map(({ kind, at, device, subject, severity, title, detail }) => ({
    kind,
    at: at.toISOString(),
    device,
    subject,
    severity,
    title,
    detail,
  }))
  return {
    subject: `${engagement}: ${counted || 'no events'}`,
    text: paragraphs.join('\n\n'),
    csv:
      papaparse.unparse(rows, {
        escapeFormulae: FORMULA,
        newline: '\r\n',
        columns: ['kind', 'at', 'device', 'subject', 'severity', 'title', 'detail'],
      }) + '\r\n',
    events: rows,
  }
}

/** Syslog messages as RFC 5424 has them. */

export interface SyslogMessage {
  readonly facility: number
  readonly severity: number
  /** RFC 3339 as written; null where the sender has no clock. */
  readonly timestamp: string | null
  readonly host: string | null
  readonly app: string | null
  readonly process: string | null
  readonly id: string | null
  /** Parameters by element: `exampleSDID@32473` → `iut` → `3`. */
  readonly data: ReadonlyMap<string, ReadonlyMap<string, string>>
  readonly text: string
}

/** Longer than this, a message is cut: no receiver has to take more than 2,048 octets (RFC 5424 §6.1). */
const MOST = 8192
const HEADER = /^<(\d{1,3})>1 (\S{1,40}) (\S{1,255}) (\S{1,48}) (\S{1,128}) (\S{1,32}) /

/** Reads one message; null where it is none of version 1. Takes time linear in its length. */
export function readSyslog(datagram: string): SyslogMessage | null {
  const message = datagram.slice(0, MOST)
  const header = HEADER.exec(message)
  if (!header) return null
  const [whole, priority = '', timestamp = '', host = '', app = '', process = '', id = ''] = header
  if (Number(priority) > 191 || (timestamp !== '-' && Number.isNaN(Date.parse(timestamp)))) return null
  const structured = readData(message, whole.length)
  if (!structured) return null
  const given = (field: string): string | null => (field === '-' ? null : field)
  return {
    facility: Math.floor(Number(priority) / 8),
    severity: Number(priority) % 8,
    timestamp: given(timestamp),
    host: given(host),
    app: given(app),
    process: given(process),
    id: given(id),
    data: structured.data,
    // A byte order mark says that the text is UTF-8; it is no part of it.
    text: message
      .slice(structured.end)
      .replace(/^ /, '')
      .replace(/^\ufeff/, ''),
  }
}

/** Structured data from an offset; null where it is malformed. */
function readData(
  message: string,
  from: number,
): { readonly data: Map<string, Map<string, string>>; readonly end: number } | null {
  const data = new Map<string, Map<string, string>>()
  if (message.charAt(from) === '-') return { data, end: from + 1 }
  let at = from
  while (message.charAt(at) === '[') {
    const name = /[^\s=\]"]{1,32}/y
    name.lastIndex = at + 1
    const element = name.exec(message)?.[0]
    if (element === undefined) return null
    at = name.lastIndex
    const parameters = new Map<string, string>()
    while (message.charAt(at) === ' ') {
      const parameter = / ([^\s=\]"]{1,32})="((?:[^"\\\]]|\\[^])*)"/y
      parameter.lastIndex = at
      const found = parameter.exec(message)
      if (!found) return null
      // A backslash before any other character is a backslash (§6.3.3).
      parameters.set(found[1] ?? '', (found[2] ?? '').replace(/\\(["\\\]])/g, '$1'))
      at = parameter.lastIndex
    }
    if (message.charAt(at) !== ']') return null
    data.set(element, parameters)
    at += 1
  }
  return at === from ? null : { data, end: at }
}

/** Writes a message of version 1. */
export function writeSyslog({
  facility,
  severity,
  timestamp,
  host,
  app,
  process,
  id,
  data,
  text,
}: SyslogMessage): string {
  const elements = [...data].map(
    ([name, parameters]) =>
      `[${[name, ...[...parameters].map(([key, value]) => `${key}="${value.replace(/["\\\]]/g, '\\$&')}"`)].join(' ')}]`,
  )
  return `<${facility * 8 + severity}>1 ${[timestamp, host, app, process, id].map((field) => field ?? '-').join(' ')} ${elements.join('') || '-'}${text === '' ? '' : ` ${text}`}`
}

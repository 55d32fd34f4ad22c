import type { PhysicalLines } from '../../syntax/located-tree.ts'

/**
 * Free text of the indented dialect: banners with any delimiter, certificates, key material, macros. It is a leaf of
 * the tree; nothing in it is a command. From memory and common practice.
 */
export interface FreeText {
  readonly what: string
  readonly body: string
  /** Index of the last line it takes. */
  readonly last: number
  readonly closed: boolean
}

const BANNER =
  /^(?:banner(?: (?:exec|incoming|login|motd|prompt-timeout|slip-ppp|lcd|config-save|text))?|aaa authentication (?:banner|fail-message)|menu \S+ (?:title|prompt)|refuse-message|vacant-message)(?:\s+(\S[\s\S]*))?$/i
const PEM_BEGIN = /^-----BEGIN [A-Z0-9 ]+-----$/

/** Whether a line, wherever it stands, can open free text: what `openFreeText` looks at more closely. */
export function mayOpenFreeText(text: string): boolean {
  return FREE.test(text)
}

const FREE =
  /^(?:banner|aaa authentication (?:banner|fail)|menu|refuse|vacant|macro name|certificate|key-string$|-----BEGIN)/i

/**
 * Tells whether a command opens free text and how far it reaches.
 * @param lines physical lines with their endings; @param at index of the command's line
 */
export function openFreeText(text: string, parent: string | null, lines: PhysicalLines, at: number): FreeText | null {
  switch (text.charCodeAt(0) | 0x20) {
    case 0x62: // b
    case 0x61: // a
    case 0x6d: // m
    case 0x72: // r
    case 0x76: {
      // v
      if (/^macro name \S+$/i.test(text)) return until(lines, at, 'macro', (line) => line === '@')
      const banner = BANNER.exec(text)
      return banner ? readBanner(text, banner[1], lines, at) : null
    }
    case 0x63: // c
      if (/^certificate( |$)/i.test(text) && parent !== null && /^crypto (?:pki|ca) certificate chain /i.test(parent)) {
        return until(lines, at, 'certificate', (line) => /^quit$/i.test(line))
      }
      return null
    case 0x6b: // k
      return /^key-string$/i.test(text) ? until(lines, at, 'key', (line) => /^(?:quit|exit)$/i.test(line)) : null
    case 0x2d: // -
      return PEM_BEGIN.test(text) ? until(lines, at, 'PEM block', (line) => line.startsWith('-----END ')) : null
    default:
      return null
  }
}

function readBanner(text: string, rest: string | undefined, lines: PhysicalLines, at: number): FreeText | null {
  if (rest === undefined) {
    // A relative of the dialect opens the text without a delimiter and closes it with a line of its own.
    return /^banner (?:login|motd|exec)$/i.test(text) ? until(lines, at, 'banner', (line) => line === 'EOF') : null
  }
  const delimiter = delimiterOf(rest)
  const start = rest.slice(delimiter.length)
  const sameLine = start.indexOf(delimiter)
  if (sameLine >= 0) return { what: 'banner', body: start.slice(0, sameLine), last: at, closed: true }
  const parts = [start]
  for (let i = at + 1; i < lines.length; i++) {
    const line = lines.at(i)
    const found = line.indexOf(delimiter)
    if (found >= 0) {
      parts.push(line.slice(0, found))
      return { what: 'banner', body: parts.join('\n'), last: i, closed: true }
    }
    parts.push(line.trimEnd())
  }
  return { what: 'banner', body: parts.join('\n'), last: lines.length - 1, closed: false }
}

/** Listings show the control character ETX as the two characters `^C`; a person may also have typed `^` alone. */
function delimiterOf(rest: string): string {
  if (!/^\^[A-Z]/.test(rest)) return rest.slice(0, 1)
  const caret = rest.slice(0, 2)
  return !rest.includes(caret, 2) && rest.length > 2 && rest.endsWith('^') ? '^' : caret
}

function until(lines: PhysicalLines, at: number, what: string, closes: (line: string) => boolean): FreeText {
  const parts: string[] = []
  for (let i = at + 1; i < lines.length; i++) {
    const line = lines.at(i).trim()
    if (closes(line)) return { what, body: parts.join('\n'), last: i, closed: true }
    parts.push(line)
  }
  return { what, body: parts.join('\n'), last: lines.length - 1, closed: false }
}

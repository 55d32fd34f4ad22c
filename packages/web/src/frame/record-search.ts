/** A place in a record: line from 1, and where in it from 0. */
export interface Hit {
  readonly line: number
  readonly from: number
  readonly to: number
}

/** More than anybody goes through one by one; the count says that there are more. */
export const MOST_HITS = 5000

/** Where a text stands in lines, whatever its case; nothing of an empty text. */
export function hitsIn(lines: readonly string[], text: string): Hit[] {
  const wanted = text.toLowerCase()
  const hits: Hit[] = []
  if (wanted === '') return hits
  for (const [i, line] of lines.entries()) {
    const lower = line.toLowerCase()
    for (let at = lower.indexOf(wanted); at >= 0; at = lower.indexOf(wanted, at + wanted.length)) {
      hits.push({ line: i + 1, from: at, to: at + wanted.length })
      if (hits.length === MOST_HITS) return hits
    }
  }
  return hits
}

/** A line in pieces, those that are hit apart. */
export function pieces(line: string, hits: readonly Hit[]): { readonly text: string; readonly hit: boolean }[] {
  const parts: { text: string; hit: boolean }[] = []
  let at = 0
  for (const { from, to } of hits) {
    if (from > at) parts.push({ text: line.slice(at, from), hit: false })
    parts.push({ text: line.slice(from, to), hit: true })
    at = to
  }
  if (at < line.length || parts.length === 0) parts.push({ text: line.slice(at), hit: false })
  return parts
}

/** The hit after a line, or the one before; around the ends. */
export function nextHit(hits: readonly Hit[], at: number, by: 1 | -1): number {
  return hits.length === 0 ? -1 : (at + by + hits.length) % hits.length
}

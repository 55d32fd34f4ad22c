const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']

/** Who changed a configuration last, and when, as its listing says. */
export interface LastChange {
  /** RFC 3339; null where the listing states it in a zone that is not known. */
  readonly at: string | null
  readonly by: string | null
}

/** A listing begins with its head. */
const HEAD_CHARACTERS = 4000

/**
 * `! Last configuration change at 21:40:03 UTC Sat Nov 14 2026 by bosun`, `## Last commit: 2026-11-12 21:40:17 UTC by
 * ingram` (common practice). Zones other than UTC and GMT are not guessed at.
 * @returns null where the listing says nothing of it
 */
export function lastChangeIn(text: string): LastChange | null {
  const head = text.slice(0, HEAD_CHARACTERS)
  const change =
    /^!+ *Last configuration change at (\d{1,2}):(\d\d):(\d\d) (\S{1,8}) \w{3} (\w{3}) +(\d{1,2}) (\d{4})(?: by (\S{1,64}))?/im.exec(
      head,
    )
  if (change) {
    const [, hour, minute, second, zone, month, day, year, by] = change
    const at = Date.UTC(
      Number(year),
      MONTHS.indexOf((month ?? '').toLowerCase()),
      Number(day),
      Number(hour),
      Number(minute),
      Number(second),
    )
    return { at: isUtc(zone) && !Number.isNaN(at) ? rfc3339(at) : null, by: by ?? null }
  }
  const commit =
    /^##? *Last (?:commit|changed): (\d{4}-\d\d-\d\d) (\d\d:\d\d:\d\d) (\S{1,8})(?: by (\S{1,64}))?/im.exec(head)
  if (!commit) return null
  const [, date, time, zone, by] = commit
  const at = Date.parse(`${date}T${time}Z`)
  return { at: isUtc(zone) && !Number.isNaN(at) ? rfc3339(at) : null, by: by ?? null }
}

function isUtc(zone: string | undefined): boolean {
  return /^(?:UTC|GMT|Z)$/i.test(zone ?? '')
}

function rfc3339(at: number): string {
  return new Date(at).toISOString().replace('.000Z', 'Z')
}

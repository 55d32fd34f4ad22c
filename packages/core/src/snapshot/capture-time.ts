const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']

/**
 * The time of capture, where the listing itself states one: `Time source is NTP, 10:12:01.123 UTC Mon Nov 2 2026`
 * (printed above a listing when command time stamps are on) or `!Time: Mon Nov  2 10:12:01 2026`. Common practice. A
 * "last configuration change" is not the time of capture and is not used.
 * @returns RFC 3339 in UTC, or null; a zone other than UTC/GMT is not guessed at
 */
export function captureTimeIn(text: string): string | null {
  const head = text.slice(0, 4000)
  const source =
    /Time source is [^,\n]+, \*?(\d{1,2}):(\d\d):(\d\d)(?:\.\d+)? (?:UTC|GMT) \w{3} (\w{3}) +(\d{1,2}) (\d{4})/.exec(
      head,
    )
  if (source) return rfc3339(source[6], source[4], source[5], source[1], source[2], source[3])
  const stamp = /^!Time: \w{3} (\w{3}) +(\d{1,2}) (\d{1,2}):(\d\d):(\d\d) (\d{4})/m.exec(head)
  return stamp ? rfc3339(stamp[6], stamp[1], stamp[2], stamp[3], stamp[4], stamp[5]) : null
}

function rfc3339(...[year, monthName, day, hour, minute, second]: (string | undefined)[]): string | null {
  const month = MONTHS.indexOf((monthName ?? '').toLowerCase())
  if (month < 0) return null
  const time = new Date(Date.UTC(Number(year), month, Number(day), Number(hour), Number(minute), Number(second)))
  return Number.isNaN(time.getTime()) ? null : time.toISOString().replace('.000Z', 'Z')
}

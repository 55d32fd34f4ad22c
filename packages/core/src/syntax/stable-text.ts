/** What a listing says of itself and not of the device: when it was printed, and what was counted until then. */

/** A listing begins with its head; so far down, a line like it may be one of the configuration. */
const HEAD_LINES = 30

/**
 * Lines at the head of a listing: when it was made, how long it is, when somebody last changed it, and the line of its
 * mark (common practice of devices).
 */
const HEAD = [
  /^Building configuration\b/i,
  /^!?\s*(?:was )?Current configuration\s*:\s*\d+ bytes/i,
  /^Using \d+ out of \d+ bytes/i,
  /^(?:Startup configuration\s*:|Load for |Time source is |Command: show )/i,
  /^!+\s*(?:Last configuration change|NVRAM config last updated|No configuration change since|Running configuration last done|Time:)/i,
  /^##? ?Last (?:commit|changed):/i,
  /^!?\s*$/,
] as const

/** Lines anywhere: a value that the device adjusts by itself, and the times of `iptables-save` (its manual page). */
const ANYWHERE = [/^ntp clock-period \d+$/i, /^# (?:Generated|Completed) (?:by \S+ \S+ )?on /] as const

/** Counters that `iptables-save` writes: of packets and bytes behind a chain, or with `-c` before a rule. */
const CHAIN_COUNTERS = /^(:\S+ \S+) \[\d+:\d+\]$/
const RULE_COUNTERS = /^\[\d+:\d+\] (?=-)/

/** Whether a line tells of the listing and not of the device. @param at counted from 0 */
export function isOfListing(line: string, at: number): boolean {
  const said = line.trim()
  return ANYWHERE.some((form) => form.test(said)) || (at < HEAD_LINES && HEAD.some((form) => form.test(said)))
}

/** A text less what its listing says of itself: two are equal where the device is as it was. */
export function stableText(text: string): string {
  return stableLines(text.split(/\r?\n|\r/))
    .join('\n')
    .trimEnd()
}

/** The same of lines. */
export function stableLines(lines: readonly string[]): string[] {
  return lines.flatMap((line, at) =>
    isOfListing(line, at) ? [] : [line.replace(CHAIN_COUNTERS, '$1').replace(RULE_COUNTERS, '')],
  )
}

import type { SyslogMessage } from './syslog.ts'

/** That a device says that its configuration was changed. */
export interface ConfigurationChange {
  readonly author: string | null
  /** Where the author was logged in from, as the device says it. */
  readonly place: string | null
}

/** Words in which devices say it (common practice). */
const FORMS = [
  // `Configured from console by marlow on vty0 (10.40.0.9)`
  /\bconfigured from \S{1,40}(?: by (?<author>[^\s(]{1,64}))?(?: on (?<line>\S{1,40}))?(?: \((?<address>[\da-fA-F.:]{2,45})\))?/i,
  // `User 'ingram' requested 'commit' operation`, `commit complete by ingram from 10.40.0.9`
  /\buser '?(?<author>[^\s'"]{1,64})'?(?: from (?<address>[\da-fA-F.:]{2,45}))? (?:requested '?commit|committed)\b/i,
  /\bcommit (?:complete|completed|succeeded)\b(?:.{0,40} by (?<author>[^\s'"]{1,64}))?(?: from (?<address>[\da-fA-F.:]{2,45}))?/i,
  // `The configuration was changed by marlow from 10.40.0.9`
  /\bconfiguration (?:was |has been )?changed(?: by (?<author>[^\s'"]{1,64}))?(?: from (?<address>[\da-fA-F.:]{2,45}))?/i,
] as const

/**
 * What a message says of a change of the configuration; null where it speaks of something else. An author in structured
 * data (RFC 5424 §6.3) goes before one in words.
 */
export function configurationChangeIn({ text, data }: SyslogMessage): ConfigurationChange | null {
  const found = FORMS.map((form) => form.exec(text)).find((match) => match !== null)
  if (!found) return null
  const { author, address, line } = found.groups ?? {}
  const stated = [...data.values()].map((parameters) => parameters.get('user')).find((user) => user !== undefined)
  return { author: stated ?? author ?? null, place: address ?? line ?? null }
}

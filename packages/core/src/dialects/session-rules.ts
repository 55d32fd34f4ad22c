/** How people talk to a device of a dialect. */
export interface SessionRules {
  /** `levels`: `name>` and, with more rights, `name#`; `user`: `user@name>`; `shell`: the shell of a system. */
  readonly prompt: 'levels' | 'user' | 'shell'
  /** Whether it answers NETCONF (RFC 6241) as well. */
  readonly netconf: boolean
  /** Its configuration mode; null where it has none. */
  readonly configuring: {
    /** Whether a line holds when it is typed, or when all are committed. */
    readonly holds: 'at once' | 'on commit'
    /** How its listing is written: lines within blocks, a path a line, or paths in braces. */
    readonly listing: 'lines' | 'paths' | 'braces'
  } | null
}

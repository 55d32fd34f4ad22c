/** Is it there, what is its address, which way does it lie. */
export const PROBES = ['ping', 'lookup', 'path'] as const

/** By which command a device gives a record. */
export interface RecordCommand {
  /** Kind of record, as in a snapshot folder: `config`, `config.saved`, `state/routes`. */
  readonly kind: string
  readonly command: string
  /** Without it the device counts as not collected. */
  readonly needed?: true
  /** The last line of a whole listing. */
  readonly ends?: string
  /** How what it prints is written; text where not stated. */
  readonly form?: 'text' | 'json'
}

/** How devices of a dialect are talked to: what is typed, and how what comes back is told apart. */
export interface CommandSet {
  readonly dialect: string
  /** `shell`: one session with a prompt; `exec`: a channel for each command; `netconf`: requests of RFC 6241. */
  readonly talk: 'shell' | 'exec' | 'netconf'
  /** Typed first, so that listings come in one piece; whatever the device answers. */
  readonly quiet: readonly string[]
  /**
   * How more rights are asked for, where the prompt shows that there are few; the device asks for a secret with the
   * words `asks`.
   */
  readonly privileged?: { readonly command: string; readonly asks: string; readonly few: string; readonly many: string }
  /** Words by which an answer that refuses a command begins. */
  readonly refused: readonly string[]
  readonly records: readonly RecordCommand[]
  /** Commands that ask a device about others; `{target}` is a name or an address. */
  readonly probes: Readonly<Partial<Record<(typeof PROBES)[number], string>>>
}

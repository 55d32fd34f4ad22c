/** What was wrong with something that the core was given; the message says what was expected. */
export type CoreErrorCode =
  /** A dialect of that name is not known. */
  | 'dialect'
  /** A benchmark is not as its schema wants it, or a rule of it cannot be compiled. */
  | 'benchmark'
  /** A benchmark has no such profile. */
  | 'profile'
  /** A benchmark has no such value, or it is of another type. */
  | 'value'
  /** A file beside the devices of a snapshot is not as it should be. */
  | 'companion-file'
  /** A question about traffic is not as it should be, or names what is not there. */
  | 'question'
  /** Packets are not written in words that are read. */
  | 'packets'
  /** A question asks for more than is weighed. */
  | 'too-complex'
  /** Messages of NETCONF are not framed as RFC 6242 says. */
  | 'framing'

/** An error that a caller can act on. */
export class CoreError extends Error {
  /**
   * @param where the file and the line, counted from 1, as far as they are known
   */
  constructor(
    readonly code: CoreErrorCode,
    message: string,
    readonly where: { readonly file?: string; readonly line?: number } = {},
  ) {
    super(message)
    this.name = new.target.name
  }
}

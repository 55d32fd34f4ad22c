import { CoreError } from '../syntax/index.ts'
/** How NETCONF messages are parted from each other on an SSH channel (RFC 6242 §4). */

export type Framing = 'end-of-message' | 'chunked'

const END = ']]>]]>'
/** Octets of one message at most. */
const MOST_OCTETS = 64_000_000
const HEAD = /^\n#(?:([1-9]\d{0,9})|(#))\n/

export class FramingError extends CoreError {
  constructor(message: string) {
    super('framing', message)
  }
}

/**
 * Collects octets and gives back whole messages. Octets are kept as characters of one byte each until a message is
 * whole.
 */
export class FrameReader {
  framing: Framing = 'end-of-message'
  #held = ''
  /** Chunks of the message that is not whole yet. */
  #chunks: string[] = []
  #size = 0

  /** @throws FramingError where what comes is framed in no way that is known */
  push(octets: Uint8Array): string[] {
    this.#held += binary(octets)
    const messages: string[] = []
    for (let next = this.#next(); next !== null; next = this.#next()) messages.push(next)
    if (this.#held.length + this.#size > MOST_OCTETS)
      throw new FramingError(`a message is longer than ${MOST_OCTETS} octets`)
    return messages
  }

  #next(): string | null {
    if (this.framing === 'end-of-message') {
      const end = this.#held.indexOf(END)
      if (end < 0) return null
      const message = this.#held.slice(0, end)
      this.#held = this.#held.slice(end + END.length)
      return decoded(message)
    }
    for (;;) {
      const head = HEAD.exec(this.#held.slice(0, 14))
      if (!head) {
        // The beginning of a head may still be on its way.
        if (/^(?:\n(?:#(?:#|[1-9]\d{0,9})?)?)?$/.test(this.#held.slice(0, 14))) return null
        throw new FramingError(
          `a chunk begins with “${this.#held.slice(0, 14).replace(/\s/g, '.')}”, which is no head of a chunk`,
        )
      }
      if (head[2] !== undefined) {
        if (this.#chunks.length === 0) throw new FramingError('a message ends without a chunk')
        this.#held = this.#held.slice(head[0].length)
        const message = decoded(this.#chunks.join(''))
        this.#chunks = []
        this.#size = 0
        return message
      }
      const size = Number(head[1])
      if (size > 4_294_967_295) throw new FramingError(`a chunk of ${head[1]} octets is more than RFC 6242 allows`)
      if (size + this.#size > MOST_OCTETS) throw new FramingError(`a message is longer than ${MOST_OCTETS} octets`)
      if (this.#held.length < head[0].length + size) return null
      this.#chunks.push(this.#held.slice(head[0].length, head[0].length + size))
      this.#size += size
      this.#held = this.#held.slice(head[0].length + size)
    }
  }
}

/** A message as it goes over the channel. */
export function framed(message: string, framing: Framing): Uint8Array {
  const body = new TextEncoder().encode(message)
  const around = (text: string): Uint8Array => new TextEncoder().encode(text)
  const parts = framing === 'chunked' ? [around(`\n#${body.length}\n`), body, around('\n##\n')] : [body, around(END)]
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}

function binary(octets: Uint8Array): string {
  const parts: string[] = []
  for (let from = 0; from < octets.length; from += 8192)
    parts.push(String.fromCharCode(...octets.subarray(from, from + 8192)))
  return parts.join('')
}

function decoded(text: string): string {
  return new TextDecoder().decode(Uint8Array.from(text, (character) => character.charCodeAt(0)))
}

import { addressWords, maskedMatch, parsePrefix, prefixMatch, type AddressMatch, type Family } from './address.ts'

/** A set of addresses as text: a prefix where it is one, else address and wildcard bits. */
export function addressText({ value, care }: AddressMatch): string {
  if (care.length === 0) return 'any'
  const length = prefixLengthOf(care)
  const address = addressOf(value)
  return length === null ? `${address} ${addressOf(care.map((word) => ~word >>> 0))}` : `${address}/${length}`
}

/** How many bits in front are set, where no others are. */
function prefixLengthOf(care: readonly number[]): number | null {
  let length = 0
  let ended = false
  for (const word of care) {
    const ones = Math.clz32(~word)
    if (ended ? word !== 0 : word << ones !== 0 && ones < 32) return null
    length += ended ? 0 : ones
    ended ||= ones < 32
  }
  return length
}

/** The subnet of an address, as a prefix; null where the text is no address. */
export function subnetOf(address: string, length: number, family: Family): string | null {
  const words = addressWords(address, family)
  return words && `${addressOf(prefixMatch(words, length).value)}/${length}`
}

/** The same address in one writing; a text that is none stays as it is. */
export function canonicalAddress(text: string): string {
  const words = addressWords(text, text.includes(':') ? 'ipv6' : 'ipv4')
  return words ? addressOf(words) : text
}

/** Words as an address; IPv6 in the form of RFC 5952. */
export function addressOf(words: readonly number[]): string {
  if (words.length === 1) return bytesOf(words[0] ?? 0).join('.')
  const groups = words.flatMap((word) => [word >>> 16, word & 0xffff])
  const run = longestZeros(groups)
  const hex = (part: readonly number[]): string => part.map((group) => group.toString(16)).join(':')
  return run.length < 2 ? hex(groups) : `${hex(groups.slice(0, run.from))}::${hex(groups.slice(run.from + run.length))}`
}

function bytesOf(word: number): number[] {
  return [word >>> 24, (word >>> 16) & 255, (word >>> 8) & 255, word & 255]
}

/** RFC 5952 §4.2: the first of the longest runs of zeros. */
function longestZeros(groups: readonly number[]): { from: number; length: number } {
  let best = { from: 0, length: 0 }
  for (let from = 0; from < groups.length; from++) {
    let length = 0
    while (groups[from + length] === 0) length++
    if (length > best.length) best = { from, length }
  }
  return best
}

/** `10.0.0.0/8`, or an address with its wildcard bits; null where the text is neither. */
export function addressesIn(text: string): AddressMatch | null {
  const [address = '', wildcard] = text.split(' ')
  const [value, bits] =
    wildcard === undefined ? [null, null] : [addressWords(address, 'ipv4'), addressWords(wildcard, 'ipv4')]
  return value && bits
    ? maskedMatch(
        value,
        bits.map((word) => ~word >>> 0),
      )
    : parsePrefix(text)
}

export type Family = 'ipv4' | 'ipv6'
export const FAMILIES = ['ipv4', 'ipv6'] as const

/**
 * A set of addresses: those equal to `value` in every bit that `care` has set (a wildcard mask need not be a prefix).
 * Both are 32-bit words, most significant first: one for IPv4, four for IPv6, none for every address of any family.
 */
export interface AddressMatch {
  readonly value: readonly number[]
  readonly care: readonly number[]
}

export const ANY_ADDRESS: AddressMatch = { value: [], care: [] }

const WORDS: Readonly<Record<Family, number>> = { ipv4: 1, ipv6: 4 }

/** One address. */
export function hostMatch(address: readonly number[]): AddressMatch {
  return { value: address, care: address.map(() => 0xffffffff) }
}

/** The addresses that agree with `address` in the bits of `care`. */
export function maskedMatch(address: readonly number[], care: readonly number[]): AddressMatch {
  return { value: address.map((word, i) => (word & (care[i] ?? 0)) >>> 0), care }
}

export function prefixMatch(address: readonly number[], length: number): AddressMatch {
  return maskedMatch(
    address,
    address.map((_, i) => {
      const bits = Math.min(32, Math.max(0, length - 32 * i))
      return bits === 0 ? 0 : (0xffffffff << (32 - bits)) >>> 0
    }),
  )
}

/** Whether two sets share an address. */
export function addressesMeet(a: AddressMatch, b: AddressMatch): boolean {
  const words = Math.min(a.care.length, b.care.length)
  for (let i = 0; i < words; i++) {
    const shared = (a.care[i] ?? 0) & (b.care[i] ?? 0)
    if (((a.value[i] ?? 0) & shared) !== ((b.value[i] ?? 0) & shared)) return false
  }
  return true
}

/** Whether every address of `inner` is in `outer`; asked of sets that meet. */
export function coversAddresses(outer: AddressMatch, inner: AddressMatch): boolean {
  for (let i = 0; i < outer.care.length; i++) if (((outer.care[i] ?? 0) & ~(inner.care[i] ?? 0)) !== 0) return false
  return true
}

/** An address as its words, or null where the text is none of that family. */
export function addressWords(text: string, family: Family): readonly number[] | null {
  return family === 'ipv4' ? ipv4Words(text) : ipv6Words(text)
}

const QUAD = /^(\d{1,3})\.(\d{1,3})\.(\d{1,3})\.(\d{1,3})$/

function ipv4Words(text: string): readonly number[] | null {
  const first = text.charCodeAt(0)
  if (!(first >= 48 && first <= 57)) return null
  const parts = QUAD.exec(text)
  if (!parts) return null
  const [a, b, c, d] = [Number(parts[1]), Number(parts[2]), Number(parts[3]), Number(parts[4])]
  return a > 255 || b > 255 || c > 255 || d > 255 ? null : [((a << 24) | (b << 16) | (c << 8) | d) >>> 0]
}

/** RFC 4291 §2.2: eight groups, one run of zeros as `::`, the last two groups possibly as a dotted quad. */
function ipv6Words(text: string): readonly number[] | null {
  if (!text.includes(':')) return null
  const dotted = /^(.*:)(\d{1,3}(?:\.\d{1,3}){3})$/.exec(text)
  if (dotted) {
    const quad = ipv4Words(dotted[2] ?? '')?.[0]
    return quad === undefined
      ? null
      : ipv6Words(`${dotted[1] ?? ''}${(quad >>> 16).toString(16)}:${(quad & 0xffff).toString(16)}`)
  }
  const halves = text.split('::')
  if (halves.length > 2) return null
  const [head = [], tail = []] = halves.map((half) => (half === '' ? [] : half.split(':')))
  const gap = 8 - head.length - tail.length
  if (halves.length === 2 ? gap < 1 : gap !== 0) return null
  const groups = [...head, ...Array<string>(gap).fill('0'), ...tail]
  if (!groups.every((group) => /^[\da-f]{1,4}$/i.test(group))) return null
  return [0, 2, 4, 6].map((i) => ((parseInt(groups[i] ?? '0', 16) << 16) | parseInt(groups[i + 1] ?? '0', 16)) >>> 0)
}

/** `10.0.0.0/8` as a set of addresses, or null where the text is no prefix. */
export function parsePrefix(text: string): (AddressMatch & { family: Family }) | null {
  const [address = '', length = ''] = text.split('/')
  const family = address.includes(':') ? 'ipv6' : 'ipv4'
  const words = addressWords(address, family)
  const most = 32 * WORDS[family]
  const size = length === '' ? most : /^\d+$/.test(length) ? Number(length) : -1
  return words === null || size < 0 || size > most ? null : { ...prefixMatch(words, size), family }
}

/** Whether a text is an address of either family. */
export function isAddress(text: string): boolean {
  return ipv4Words(text) !== null || ipv6Words(text) !== null
}

/** A range of addresses as prefixes; null where an end is no address. */
export function prefixesOfRange(from: string, to: string): string[] | null {
  const six = from.includes(':')
  const [low, high] = [numberOf(from), numberOf(to)]
  if (low === null || high === null || six !== to.includes(':') || low > high) return null
  const bits = six ? 128 : 32
  const found: string[] = []
  for (let at = low; at <= high;) {
    let length = bits
    // As long as the block begins here and ends within the range.
    while (
      length > 0 &&
      at % (1n << BigInt(bits - length + 1)) === 0n &&
      at + (1n << BigInt(bits - length + 1)) - 1n <= high
    )
      length--
    found.push(`${textOf(at, six)}/${length}`)
    at += 1n << BigInt(bits - length)
  }
  return found
}

function numberOf(address: string): bigint | null {
  const six = address.includes(':')
  if (!six)
    return /^\d+\.\d+\.\d+\.\d+$/.test(address)
      ? address.split('.').reduce((sum, byte) => sum * 256n + BigInt(byte), 0n)
      : null
  const [head = '', tail] = address.split('::')
  const groups = (text: string): string[] => (text === '' ? [] : text.split(':'))
  const [left, right] = [groups(head), groups(tail ?? '')]
  const zeros = tail === undefined ? 0 : 8 - left.length - right.length
  const all = [...left, ...Array.from({ length: Math.max(0, zeros) }, () => '0'), ...right]
  if (all.length !== 8 || all.some((group) => !/^[\da-f]{1,4}$/i.test(group))) return null
  return all.reduce((sum, group) => sum * 65_536n + BigInt(`0x${group}`), 0n)
}

function textOf(value: bigint, six: boolean): string {
  if (!six) return [24n, 16n, 8n, 0n].map((shift) => String((value >> shift) & 255n)).join('.')
  return Array.from({ length: 8 }, (_, i) => ((value >> BigInt(112 - 16 * i)) & 65_535n).toString(16)).join(':')
}

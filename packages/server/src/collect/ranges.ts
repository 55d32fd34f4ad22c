import { BlockList, isIP, isIPv6 } from 'node:net'

/** A prefix as it is written: `10.40.0.0/16`, `2001:db8::/32`. */
export function isPrefix(text: string): boolean {
  const [address = '', length = '', ...more] = text.split('/')
  return (
    more.length === 0 &&
    isIP(address) !== 0 &&
    /^\d{1,3}$/.test(length) &&
    Number(length) <= (isIPv6(address) ? 128 : 32)
  )
}

/** Whether an address is in one of some prefixes; where there are none, none is. */
export function insideOf(prefixes: readonly string[]): (address: string) => boolean {
  const list = new BlockList()
  for (const prefix of prefixes) {
    const [address = '', length = ''] = prefix.split('/')
    list.addSubnet(address, Number(length), isIPv6(address) ? 'ipv6' : 'ipv4')
  }
  return (address) => list.check(address, isIPv6(address) ? 'ipv6' : 'ipv4')
}

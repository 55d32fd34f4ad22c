import { BlockList, isIPv6 } from 'node:net'

/** Whether an address is in one of some prefixes; where there are none, none is. */
export function insideOf(prefixes: readonly string[]): (address: string) => boolean {
  const list = new BlockList()
  for (const prefix of prefixes) {
    const [address = '', length = ''] = prefix.split('/')
    list.addSubnet(address, Number(length), isIPv6(address) ? 'ipv6' : 'ipv4')
  }
  return (address) => list.check(address, isIPv6(address) ? 'ipv6' : 'ipv4')
}

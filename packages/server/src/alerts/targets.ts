import { lookup } from 'node:dns/promises'
import { isIP } from 'node:net'
import ipaddr from 'ipaddr.js'

/**
 * Where a message goes, by an address that was looked at: a name that changes its address meanwhile leads nowhere else.
 */
export interface Target {
  readonly host: string
  readonly address: string
  readonly family: 4 | 6
}

type Resolve = (host: string) => Promise<readonly string[]>

/** Every address of a name. */
const resolved: Resolve = async (host) => (await lookup(host, { all: true })).map(({ address }) => address)

/**
 * The addresses that alerts may be sent to: public ones, and those that the installation allows. Without this check, a
 * user who sets up an alert could reach what only this machine can reach.
 */
export class AllowedTargets {
  readonly #hosts: ReadonlySet<string>
  readonly #prefixes: readonly [ipaddr.IPv4 | ipaddr.IPv6, number][]

  /** @param allowed host names, addresses and prefixes @throws Error that names an entry that is none of them */
  constructor(
    allowed: readonly string[],
    readonly resolve: Resolve = resolved,
  ) {
    const isPrefix = (entry: string): boolean => entry.includes('/') || isIP(entry) !== 0
    this.#prefixes = allowed.filter(isPrefix).map((entry) => {
      const text = entry.includes('/') ? entry : `${entry}/${isIP(entry) === 4 ? 32 : 128}`
      if (!ipaddr.isValidCIDR(text))
        throw new Error(`JURYBOX_ALERT_TARGETS: “${entry}” is not a host name, address or prefix`)
      return ipaddr.parseCIDR(text)
    })
    this.#hosts = new Set(allowed.filter((entry) => !isPrefix(entry)).map((entry) => entry.toLowerCase()))
  }

  /** @throws Error in words without any address that the name leads to */
  async target(host: string): Promise<Target> {
    const name = host.replace(/^\[|\]$/g, '').toLowerCase()
    const addresses = isIP(name) !== 0 ? [name] : await this.#addressesOf(name)
    const [first] = addresses
    if (first === undefined) throw new Error(`${host} has no address`)
    // One of several that is not allowed is enough: which of them is taken is not ours to choose.
    if (!this.#hosts.has(name) && !addresses.every((address) => this.#mayReach(address))) {
      throw new Error(`${host} is not a public address. An administrator allows it in JURYBOX_ALERT_TARGETS.`)
    }
    return { host, address: first, family: isIP(first) === 6 ? 6 : 4 }
  }

  async #addressesOf(name: string): Promise<readonly string[]> {
    try {
      return await this.resolve(name)
    } catch {
      throw new Error(`${name} has no address`)
    }
  }

  #mayReach(text: string): boolean {
    // An IPv4 address written as IPv6 is the IPv4 address (RFC 4291 §2.5.5.2).
    const address = ipaddr.process(text)
    if (address.range() === 'unicast') return true
    return this.#prefixes.some(
      ([network, length]) => network.kind() === address.kind() && address.match(network, length),
    )
  }
}

import { addressWords, type Family } from '../../model/index.ts'
import { Recent } from '../../syntax/index.ts'

/** Where a route sends packets. */
export type Hop =
  /** Out of an interface: to a gateway, or to the destination itself where `gateway` is null. */
  | { readonly kind: 'out'; readonly port: string; readonly gateway: string | null }
  | { readonly kind: 'discard' }
  /** Out of the table: the next rule is asked. */
  | { readonly kind: 'throw' }
  /** The destination is not known. */
  | { readonly kind: 'unknown'; readonly why: string }

export interface Route {
  readonly words: readonly number[]
  readonly length: number
  readonly hops: readonly Hop[]
  readonly protocol: string
  /** What stands for it in the model or the state. */
  readonly of: 'model' | 'state'
  readonly path: string
  /** What is taken for granted with it. */
  readonly assumed: string | null
}

/** A table by which destinations are looked up. */
export interface RoutingTable {
  /** Of the VRF, or the kernel's table; null: the main one. */
  readonly name: string | null
  readonly family: Family
  /** `captured`: as the device told it; `computed`: from its configuration. */
  readonly from: 'captured' | 'computed'
  /** Why routes may be missing from it; null where it is whole. */
  readonly missing: string | null
  readonly routes: readonly Route[]
}

export interface PrefixWords {
  readonly words: readonly number[]
  readonly length: number
}

/** Tables of one network have the same prefixes. */
const recent = new Recent<PrefixWords>(20_000)

/** The words and the length of a prefix as a table states it; null where the text is none. */
export function wordsOfPrefix(prefix: string): PrefixWords | null {
  const known = recent.get(prefix)
  if (known) return known
  const [address = '', length = ''] = prefix.split('/')
  const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4')
  if (!words || length === '') return null
  const found = { words, length: Number(length) }
  recent.set(prefix, found)
  return found
}

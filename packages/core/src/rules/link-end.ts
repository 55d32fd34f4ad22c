/** One end of a link: an interface with what its other end has to agree with. Plain data. */
export interface LinkEnd {
  readonly interface: string
  /** Path of the interface in the model. */
  readonly path: string
  readonly neighbour: { readonly system: string; readonly port: string | null } | null
  /** The subnet of a link between two (/30, /31, /127 or /126). */
  readonly subnet: string | null
  readonly mtu: number | null
  readonly speed: string | null
  readonly duplex: string | null
  readonly mode: string | null
  readonly accessVlan: number | null
  readonly nativeVlan: number | null
  /** Ranges of ids, `all` or `none`; null where the list is not understood. */
  readonly allowedVlans: string | null
  readonly area: string | null
  readonly helloSeconds: number | null
  readonly deadSeconds: number | null
  readonly authentication: string | null
  readonly protection: string | null
}

/** Ports are listed by their whole names and by short ones: `GigabitEthernet1/0/1`, `Gi1/0/1`. */
export function sameName(a: string | null, b: string): boolean {
  if (a === null) return false
  const parts = (name: string): [string, string] => [
    name.replace(/[\d/.:-].*/s, '').toLowerCase(),
    name.replace(/^[A-Za-z-]*/, ''),
  ]
  const [[kind, number], [otherKind, otherNumber]] = [parts(a), parts(b)]
  return number === otherNumber && (kind.startsWith(otherKind) || otherKind.startsWith(kind))
}

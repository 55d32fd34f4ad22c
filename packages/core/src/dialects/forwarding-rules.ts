import type { LaterFragments } from '../headers/index.ts'
import type { DeviceModel, UnreadStatement } from '../model/index.ts'

/** One step that packets take in a device. */
export type Stage =
  /** The list that is applied to the interface by which they come in, or go out. */
  | { readonly stage: 'interface filter'; readonly direction: 'in' | 'out' }
  /** A list that every packet meets, by its name. */
  | { readonly stage: 'list'; readonly name: string }
  /** Reverse-path check (RFC 3704). */
  | { readonly stage: 'reverse path' }
  | { readonly stage: 'translation'; readonly changes: 'source' | 'destination' }
  | { readonly stage: 'lookup' }
  | { readonly stage: 'zone policy' }
  /** What a map on the interface wants to come protected (RFC 4301 §5.2). */
  | { readonly stage: 'unwrapping' }
  /** What a map on the interface chooses for protection (RFC 4301 §5.1). */
  | { readonly stage: 'protection' }
  /** Lists that protect the device itself. */
  | { readonly stage: 'management' }

export interface StageOrder {
  /** Of packets that come in by an interface: up to the lookup, and from there on. */
  readonly arriving: readonly Stage[]
  readonly leaving: readonly Stage[]
  /** Of packets to the device itself, after the lookup. */
  readonly toDevice: readonly Stage[]
  /** Of packets that it sends. */
  readonly own: readonly Stage[]
}

/** How devices of a dialect forward, as far as it is not in their configuration. */
export interface ForwardingRules {
  readonly stages: StageOrder
  /** Which lines take fragments after the first, which have no ports. */
  readonly laterFragments: LaterFragments
  /** `vrf`: a table for each VRF; `kernel`: rules choose among tables, of which the kernel prints all (ip-rule(8)). */
  readonly tables: 'vrf' | 'kernel'
  /**
   * `chains`: lists of rules; `sides`: of interfaces inside and outside (RFC 3022 §2); `zones`: rules between zones;
   * `policies`: virtual addresses, and sources as the policy says that permits a packet; `rules`: one list of rules, of
   * which the first that meets a packet changes both of its ends, while policies see those that it came with.
   */
  readonly translation: 'chains' | 'sides' | 'zones' | 'policies' | 'rules'
  /** `pairs`: a pair of zones has one policy of classes; `policies`: a list of policies that are asked in turn. */
  readonly zones: 'pairs' | 'policies'
  /** Whether policies between zones may state addresses themselves, and not only name them. */
  readonly statesAddresses: boolean
  /** What packets to the device itself meet where its stages have `management`. */
  readonly management: 'terminal lists' | 'zones and loopback' | 'nothing'
  /** What becomes of packets at a list that is applied and does not exist. */
  readonly absentList: 'permits' | 'undecided'
  /** Whether what its order of statements means can be compared statement by statement. */
  readonly comparable: boolean
  /** Whether a device remembers what it let through, so that answers pass. */
  isStateful(model: DeviceModel): boolean
  readonly unparsed: UnparsedRules
}

/** The unparsed lines that may bear on what a packet meets. From memory and common practice. */
export interface UnparsedRules {
  /** The interface that a line is about, in lower case; null where it is about none. */
  portOf(unread: UnreadStatement): string | null
  /** Blocks whose lines packets may meet wherever they go through the device. */
  readonly blocks: ReadonlySet<string>
  /** Whether a line at the top level says what packets meet, beside the forms that are read; null: perhaps. */
  bears(words: readonly string[]): boolean | null
}

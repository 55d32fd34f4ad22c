import type { LaterFragments } from '../packets/index.ts'

/** One step that packets take in a device. */
export type Stage =
  /** The list that is applied to the port by which they come in, or go out. */
  | { readonly stage: 'port filter'; readonly direction: 'in' | 'out' }
  /** A list that every packet meets, by its name. */
  | { readonly stage: 'list'; readonly name: string }
  /** Reverse-path check (RFC 3704). */
  | { readonly stage: 'reverse path' }
  | { readonly stage: 'translation'; readonly changes: 'source' | 'destination' }
  | { readonly stage: 'lookup' }
  | { readonly stage: 'zone policy' }
  /** What a map on the port wants to come protected (RFC 4301 §5.2). */
  | { readonly stage: 'unwrapping' }
  /** What a map on the port chooses for protection (RFC 4301 §5.1). */
  | { readonly stage: 'protection' }
  /** Lists that protect the device itself. */
  | { readonly stage: 'management' }

export interface StageOrder {
  /** Of packets that come in by a port: up to the lookup, and from there on. */
  readonly arriving: readonly Stage[]
  readonly leaving: readonly Stage[]
  /** Of packets to the device itself, after the lookup. */
  readonly toDevice: readonly Stage[]
  /** Of packets that it sends. */
  readonly own: readonly Stage[]
}

const list = (name: string): Stage => ({ stage: 'list', name })

const USUAL: StageOrder = {
  arriving: [
    { stage: 'unwrapping' },
    { stage: 'port filter', direction: 'in' },
    { stage: 'reverse path' },
    { stage: 'translation', changes: 'destination' },
    { stage: 'lookup' },
  ],
  leaving: [
    { stage: 'zone policy' },
    { stage: 'translation', changes: 'source' },
    { stage: 'port filter', direction: 'out' },
    { stage: 'protection' },
  ],
  toDevice: [{ stage: 'management' }],
  own: [{ stage: 'lookup' }, { stage: 'port filter', direction: 'out' }, { stage: 'protection' }],
}

/**
 * The order of stages is data of each dialect. Common practice for lines; for the kernel, the order of its hooks
 * (netfilter,
 * from memory; the tests ask the kernel).
 */
export const STAGE_ORDERS: Readonly<Record<string, StageOrder>> = {
  // Packets of the device's own do not meet the lists of its ports.
  indented: {
    ...USUAL,
    toDevice: [{ stage: 'zone policy' }, { stage: 'management' }],
    own: [{ stage: 'lookup' }, { stage: 'zone policy' }, { stage: 'protection' }],
  },
  braced: USUAL,
  setlines: USUAL,
  data: USUAL,
  linux: {
    arriving: [
      list('raw PREROUTING'),
      list('mangle PREROUTING'),
      { stage: 'translation', changes: 'destination' },
      { stage: 'lookup' },
      { stage: 'reverse path' },
    ],
    leaving: [
      list('mangle FORWARD'),
      list('filter FORWARD'),
      list('security FORWARD'),
      list('mangle POSTROUTING'),
      { stage: 'translation', changes: 'source' },
    ],
    toDevice: [list('mangle INPUT'), list('filter INPUT'), list('security INPUT')],
    own: [
      { stage: 'lookup' },
      list('raw OUTPUT'),
      list('mangle OUTPUT'),
      list('filter OUTPUT'),
      list('security OUTPUT'),
      list('mangle POSTROUTING'),
      { stage: 'translation', changes: 'source' },
    ],
  },
}

/**
 * Fragments after the first have no ports. A line of the indented dialect that permits some takes them by their
 * addresses; one that
 * denies passes them over (common practice). Elsewhere no line that asks for ports means them.
 */
const LATER_FRAGMENTS: Readonly<Record<string, LaterFragments>> = { indented: 'permitted' }

export function laterFragmentsOf(dialect: string): LaterFragments {
  return LATER_FRAGMENTS[dialect] ?? 'never'
}

export function stagesOf(dialect: string): StageOrder {
  return STAGE_ORDERS[dialect] ?? USUAL
}

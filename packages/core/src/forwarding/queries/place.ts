/**
 * Interfaces by which packets of a place come in, with the sources that they have; `port` -1: the device sends them.
 */
export interface PlaceOrigin {
  readonly device: number
  readonly port: number
  /** Headers by their source. */
  readonly sources: number
}

/** Somewhere that packets come from or go to. */
export interface Place {
  readonly text: string
  readonly origins: readonly PlaceOrigin[]
  /** Headers to it, by addresses; null of the world outside, which is known by where packets leave. */
  readonly destinations: number | null
}

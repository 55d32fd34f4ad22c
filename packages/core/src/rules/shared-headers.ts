import { Diagrams, Headers } from '../headers/index.ts'

/** Nodes of one question at most: what needs more is not decided. */
const MOST_NODES = 1 << 21
/** Beyond so many nodes a new store is begun. */
const ENOUGH_NODES = 1 << 17
let shared = new Headers(new Diagrams(MOST_NODES))

/** One store of header sets for the lists of many devices, which share entries. A set belongs to its own store. */
export function sharedHeaders(): Headers {
  if (shared.diagrams.size > ENOUGH_NODES) shared = new Headers(new Diagrams(MOST_NODES))
  return shared
}

/** Hash trees of RFC 6962 §2.1 (SHA-256): a head over many leaves, and the proof that one leaf is under it. */
import { sha256 } from '@noble/hashes/sha2.js'

const LEAF = 0
const NODE = 1

export function leafHash(leaf: Uint8Array): Uint8Array {
  return sha256.create().update(Uint8Array.of(LEAF)).update(leaf).digest()
}

function nodeHash(left: Uint8Array, right: Uint8Array): Uint8Array {
  return sha256.create().update(Uint8Array.of(NODE)).update(left).update(right).digest()
}

/** The head of a tree; of no leaves the hash of nothing. */
export function treeHead(leaves: readonly Uint8Array[]): Uint8Array {
  return leaves.length === 0 ? sha256(new Uint8Array()) : headOf(leaves.map(leafHash))
}

function headOf(hashes: readonly Uint8Array[]): Uint8Array {
  const [first] = hashes
  if (first === undefined) throw new RangeError('a tree has a leaf')
  if (hashes.length === 1) return first
  const split = splitOf(hashes.length)
  return nodeHash(headOf(hashes.slice(0, split)), headOf(hashes.slice(split)))
}

/** The largest power of two that is less than a number above one. */
function splitOf(size: number): number {
  return 2 ** (31 - Math.clz32(size - 1))
}

/** The audit path of a leaf: the hashes beside its way up, the lowest first. @throws RangeError for no such leaf */
export function auditPath(leaves: readonly Uint8Array[], index: number): Uint8Array[] {
  if (!(index >= 0 && index < leaves.length)) throw new RangeError(`no leaf ${index} of ${leaves.length}`)
  return pathIn(leaves.map(leafHash), index)
}

function pathIn(hashes: readonly Uint8Array[], index: number): Uint8Array[] {
  if (hashes.length === 1) return []
  const split = splitOf(hashes.length)
  return index < split
    ? [...pathIn(hashes.slice(0, split), index), headOf(hashes.slice(split))]
    : [...pathIn(hashes.slice(split), index - split), headOf(hashes.slice(0, split))]
}

/** The head that a leaf at a place of a tree of a size comes to by its path; null where the path has another length. */
export function headByPath(
  leaf: Uint8Array,
  { index, size, path }: { readonly index: number; readonly size: number; readonly path: readonly Uint8Array[] },
): Uint8Array | null {
  if (!Number.isSafeInteger(size) || !(index >= 0 && index < size && size < 2 ** 31)) return null
  // Sides from the leaf up: whether it is right of what stands beside it.
  const sides: boolean[] = []
  for (let [at, of] = [index, size]; of > 1;) {
    const split = splitOf(of)
    sides.unshift(at >= split)
    ;[at, of] = at < split ? [at, split] : [at - split, of - split]
  }
  if (sides.length !== path.length) return null
  return sides.reduce<Uint8Array>((hash, isRight, i) => {
    const beside = path[i] ?? new Uint8Array()
    return isRight ? nodeHash(beside, hash) : nodeHash(hash, beside)
  }, leafHash(leaf))
}

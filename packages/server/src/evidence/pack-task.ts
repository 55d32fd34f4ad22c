import { notReproducedIn, type Manifest, type NotReproduced } from '@jurybox/core/evidence'

export interface ReproduceTask {
  readonly files: ReadonlyMap<string, Uint8Array>
  /** The records with their secrets, where the pack has them masked. */
  readonly real: ReadonlyMap<string, Uint8Array> | null
  readonly about: Pick<Manifest, 'audit' | 'madeAt'>
}

/** Judges a pack anew before it is signed: what does not come out again is told in its manifest. */
export function reproduceTask({ files, real, about }: ReproduceTask): NotReproduced[] {
  const key = ({ device, benchmark, rule }: NotReproduced): string => JSON.stringify([device, benchmark, rule])
  const packed = notReproducedIn(files, about, 'other')
  if (!real) return packed
  const other = new Set(notReproducedIn(new Map([...files, ...real]), about, 'other').map(key))
  return packed.map((one) => ({ ...one, why: other.has(key(one)) ? 'other' : 'masked' }))
}

/** A sample of a population that anybody draws again from the same seed. */
import { sha256Hex } from '../syntax/index.ts'
import { grouped } from '../syntax/grouped.ts'

export interface SampleMember {
  readonly name: string
  /** What it is called in each respect that the sample is stratified by, such as its model and its site. */
  readonly strata: readonly string[]
}

export interface Stratum {
  readonly strata: readonly string[]
  readonly population: number
  readonly sampled: number
}

export interface Sample {
  readonly population: number
  readonly names: readonly string[]
  /** In the order of their names. */
  readonly strata: readonly Stratum[]
}

/**
 * Each stratum gets its share of the sample (largest remainders first), and at least one member where the sample has
 * room for all strata. Within a stratum those come first whose SHA-256 of `SEED NAME` is the least.
 */
export function sampleOf(population: readonly SampleMember[], size: number, seed: string): Sample {
  const strata = [...grouped(population, (member) => JSON.stringify(member.strata))]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([, members]) => ({ strata: members[0]?.strata ?? [], members: drawn(members, seed) }))
  const wanted = Math.min(size, population.length)
  const counts = shares(
    strata.map(({ members }) => members.length),
    wanted,
  )
  return {
    population: population.length,
    names: strata.flatMap(({ members }, i) => members.slice(0, counts[i])).sort(),
    strata: strata.map(({ strata: own, members }, i) => ({
      strata: own,
      population: members.length,
      sampled: counts[i] ?? 0,
    })),
  }
}

function drawn(members: readonly SampleMember[], seed: string): string[] {
  return members
    .map(({ name }) => ({ name, at: sha256Hex(new TextEncoder().encode(`${seed} ${name}`)) }))
    .sort((a, b) => (a.at < b.at ? -1 : 1))
    .map(({ name }) => name)
}

/** How many of each of some sizes, `wanted` together and none more than there is. */
function shares(sizes: readonly number[], wanted: number): number[] {
  const all = sizes.reduce((sum, one) => sum + one, 0)
  if (all === 0) return []
  const least = wanted >= sizes.length ? 1 : 0
  const exact = sizes.map((one) => (one * wanted) / all)
  const counts = exact.map((one, i) => Math.min(sizes[i] ?? 0, Math.max(least, Math.floor(one))))
  const left = (): number => wanted - counts.reduce((sum, one) => sum + one, 0)
  // Whatever rounding left over or took too much, where it is furthest from its share.
  while (left() !== 0) {
    const up = left() > 0
    const gap = (i: number): number => (up ? 1 : -1) * ((exact[i] ?? 0) - (counts[i] ?? 0))
    const free = [...counts.keys()].filter((i) => (up ? (counts[i] ?? 0) < (sizes[i] ?? 0) : (counts[i] ?? 0) > least))
    const [first] = free.sort((a, b) => gap(b) - gap(a) || a - b)
    if (first === undefined) break
    counts[first] = (counts[first] ?? 0) + (up ? 1 : -1)
  }
  return counts
}

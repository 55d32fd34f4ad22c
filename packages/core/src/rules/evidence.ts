import { lastLineOf, type ConfigNode, type LocatedTree } from '../config/index.ts'

/** Lines of one record: `absent` where nothing was found in them. */
export interface Place {
  readonly record: string
  readonly from: number
  readonly to: number
  readonly absent: boolean
}

/** Whether something holds, and what that rests on. `unknown` where a record that is not whole cannot tell. */
export interface Finding {
  readonly truth: boolean | 'unknown'
  /** Asked for only where the finding decides: most findings are passed over. */
  readonly places: () => readonly Place[]
  readonly missing?: readonly string[]
  readonly extra?: readonly string[]
  /** Why it is unknown. */
  readonly why?: string
}

export function placeOf(record: string, node: ConfigNode): Place {
  return { record, from: node.line, to: node.lastLine, absent: false }
}

/** The whole of some blocks, as the range that was searched. */
export function searched(record: string, tree: LocatedTree, openers: readonly ConfigNode[]): Place[] {
  if (openers.length === 0) return [{ record, from: 1, to: tree.lines.length, absent: true }]
  return openers.map((node) => ({ record, from: node.line, to: lastLineOf(node), absent: true }))
}

/** Places without repetition; those with lines before those without, in the order of lines. */
export function tidy(places: readonly Place[], limit: number): Place[] {
  const seen = new Set<string>()
  return places
    .filter((place) => {
      const key = `${place.record} ${place.from} ${place.to} ${place.absent}`
      return seen.has(key) ? false : seen.add(key)
    })
    .sort((a, b) => Number(a.absent) - Number(b.absent) || a.from - b.from)
    .slice(0, limit)
}

/** What may be missing from a record that was not captured whole. */
import { lastLineOf, type LocatedTree, walk } from '../syntax/index.ts'
import { originOf } from '../model/index.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { Reasons } from './evidence.ts'
import type { JudgedDevice } from './judged.ts'
import { memoOf } from './memo.ts'

/** Why lines may be missing from what was captured. */
export function incomplete({ device }: Pick<EvaluationContext, 'device'>): Reasons | undefined {
  const fault = device.effective.tree.faults[0]
  return fault && { why: `the record is incomplete (line ${fault.line}: ${fault.reason})` }
}

/**
 * Whether lines that were not captured may belong to an entry of the model: there is a fault in one of the blocks of
 * the top level that state it, or right behind it.
 * @param path of the entry or of something in it, as the origins know it: `interfaces[3].filters.in4`
 */
export function mayHideWithin(device: JudgedDevice, path: string): boolean {
  const { tree } = device.effective
  if (tree.faults.length === 0) return false
  const origin = originOf(device.modelled().origins, path.slice(0, path.lastIndexOf(']') + 1))
  if (origin?.kind !== 'line') return true
  if (origin.record !== device.record) return false
  const blocks = memoOf(device, blocksIn, () => blocksIn(tree))
  return origin.lines.some(({ from, to }) => {
    const block = blocks.get(from) ?? { from, to }
    return tree.faults.some(({ line }) => line >= Math.min(from, block.from) && line <= Math.max(to, block.to) + 1)
  })
}

interface Lines {
  readonly from: number
  readonly to: number
}

/** By the line of a command: the block of the top level in which it stands. */
function blocksIn(tree: LocatedTree): ReadonlyMap<number, Lines> {
  const blocks = new Map<number, Lines>()
  for (const top of tree.nodes) {
    const own = { from: top.line, to: lastLineOf(top) }
    for (const { line } of walk([top])) blocks.set(line, own)
  }
  return blocks
}

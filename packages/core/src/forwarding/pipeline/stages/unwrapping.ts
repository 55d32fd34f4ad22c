import { NOTHING } from '../../../headers/index.ts'
import { exhibitsOf } from '../../network/exhibit.ts'
import type { StageRule } from '../stage.ts'

/** What must come protected by a map on the interface and does not is dropped (RFC 4301 §5.2). */
export const unwrapping: StageRule<'unwrapping'> = (branch, { run }) => {
  const entries = run.compiled.maps.at(branch.inInterface)
  if (entries === null || run.unwrapped) return [branch]
  let left = branch.set
  for (const { name, inward, number } of entries) {
    const bare = inward === null ? NOTHING : run.compiled.lists.decide(inward, left, run.context(branch)).permitted
    if (bare === NOTHING) continue
    run.decided(
      'unwrapping',
      `the map ${name} requires encryption`,
      exhibitsOf(run.compiled.device, 'model', `ipsecPeers[${number}]`),
      true,
    )
    run.end(
      'stopped',
      { code: 'not-protected', words: `it is not protected as the map ${name} requires` },
      { ...branch, set: bare },
    )
    left = run.headers.diagrams.minus(left, bare)
  }
  return left === NOTHING ? [] : [{ ...branch, set: left }]
}

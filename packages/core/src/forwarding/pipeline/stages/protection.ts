import { NOTHING } from '../../../headers/index.ts'
import { exhibitsOf } from '../../network/exhibit.ts'
import type { Fate, Reason } from '../fates.ts'
import type { StageRule } from '../stage.ts'

/**
 * Packets that a map on the interface chooses go protected to its peer, where their outer packet must arrive (RFC 4301
 * §5.1).
 */
export const protection: StageRule<'protection'> = (branch, passage) => {
  const { run } = passage
  const entries = run.compiled.maps.at(branch.outInterface)
  if (entries === null || branch.local) return [branch]
  const { diagrams } = run.headers
  let left = branch.set
  for (const entry of entries) {
    // A selector that is not known may choose anything.
    const chosen =
      entry.outward === null ? left : run.compiled.lists.decide(entry.outward, left, run.context(branch)).permitted
    if (chosen === NOTHING) continue
    left = diagrams.minus(left, chosen)
    run.decided(
      'protection',
      `chosen by the map ${entry.name}`,
      exhibitsOf(run.compiled.device, 'model', `ipsecPeers[${entry.number}]`),
    )
    const end = (fate: Fate, reason: Reason): void => run.end(fate, reason, { ...branch, set: chosen })
    if (entry.outward === null || entry.peer === null) {
      end('undecided', {
        code: 'missing',
        words: `the map ${entry.name} does not say ${entry.peer === null ? 'to whom' : 'what'} it protects`,
      })
      continue
    }
    for (const one of passage.tunnels.mapped(run.compiled.number, branch.outInterface, entry.peer)) {
      if (one.kind === 'through')
        run.outcome.send(branch.outInterface, one.device, one.port, chosen, branch.context, entry.number)
      else end(one.fate, one.reason)
    }
  }
  return left === NOTHING ? [] : [{ ...branch, set: left }]
}

import { NOTHING } from '../../../headers/index.ts'
import type { PassageRun } from '../passage-run.ts'
import type { Branch } from '../branch.ts'
import type { StageRule } from '../stage.ts'
import type { ZoneDecision } from '../zones/decision.ts'

const TCP = 6

/** The packets that may pass from the zone of one interface to that of another. */
export const zonePolicy: StageRule<'zone policy'> = (branch, passage) => {
  const { run } = passage
  const decision = passage.zones.decide(branch, run.remembered !== null)
  return decision === null ? [branch] : asDecided(decision, branch, run)
}

/** Packets as zones decide of them: what may go on. */
export function asDecided(decision: ZoneDecision, branch: Branch, run: PassageRun): Branch[] {
  const { diagrams } = run.headers
  if (run.outcome.decided)
    for (const { words, exhibits, stops } of decision.lines) run.decided('zone policy', words, exhibits, stops)
  const both = diagrams.and(decision.permitted, decision.denied)
  if (both !== NOTHING)
    run.end(
      'undecided',
      { code: 'not-evaluated', words: decision.doubt ?? 'a zone policy cannot be evaluated' },
      { ...branch, set: both },
    )
  const stopped = diagrams.minus(decision.denied, decision.permitted)
  if (stopped !== NOTHING)
    run.end('stopped', { code: 'zone-policy', words: decision.name }, { ...branch, set: stopped })
  const passed = diagrams.minus(decision.permitted, decision.denied)
  // A stateful device lets a TCP session begin with its first packet alone.
  const strange =
    run.answers && run.remembered === null
      ? diagrams.and(diagrams.and(passed, decision.inspected), run.headers.value('protocol', TCP))
      : NOTHING
  if (strange !== NOTHING) {
    run.decided('session', 'no session: the forward packet did not pass here', [], true)
    run.end(
      'stopped',
      { code: 'no-session', words: `${run.compiled.device.name} has no session for it` },
      { ...branch, set: strange },
    )
  }
  const left = diagrams.minus(passed, strange)
  return left === NOTHING ? [] : [{ ...branch, set: left }]
}

import type { StageRule } from '../stage.ts'
import { asDecided } from './zone-policy.ts'

/** Lists on terminal lines are asked for remote logins; the filter of a loopback for everything (common practice). */
export const management: StageRule<'management'> = (branch, passage) => {
  const { run } = passage
  const { model, device } = run.compiled
  if (!model || branch.inInterface < 0) return [branch]
  if (device.rules.management === 'nothing') return [branch]
  if (device.rules.management === 'zones and loopback') {
    const inbound = run.remembered ? null : passage.zones.inbound(branch.inInterface, branch.set)
    const letIn = inbound === null ? [branch] : asDecided(inbound, branch, run)
    return letIn.flatMap((one) => passage.filters.loopbackFilter(one))
  }
  return passage.filters.terminalLists(branch)
}

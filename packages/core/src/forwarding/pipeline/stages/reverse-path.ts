import { FAMILIES } from '../../../model/index.ts'
import { NOTHING } from '../../../headers/index.ts'
import { exhibitsOf } from '../../network/exhibit.ts'
import type { PassageRun } from '../passage-run.ts'
import type { Branch } from '../branch.ts'
import type { StageRule } from '../stage.ts'

/** Whether the source of a packet has a way back (RFC 3704). */
export const reversePath: StageRule<'reverse path'> = (branch, { run }) => {
  if (run.compiled.device.rules.tables === 'kernel') {
    const own = run.headers.diagrams.and(branch.set, run.compiled.fromItself)
    const others = run.headers.diagrams.minus(branch.set, own)
    // A kernel takes nothing from outside that says it is from the kernel's own address (RFC 1812 §5.3.7).
    if (own !== NOTHING)
      run.end('stopped', { code: 'reverse-path', words: 'its source is the device itself' }, { ...branch, set: own })
    if (others === NOTHING) return []
    return wayBack({ ...branch, set: others }, run)
  }
  return wayBack(branch, run)
}

function wayBack(branch: Branch, run: PassageRun): Branch[] {
  const port = run.compiled.device.interfaces[branch.inInterface]
  const mode = run.compiled.model?.interfaces[port?.at ?? -1]?.reversePath ?? null
  if (!port || mode === null || (mode !== 'strict' && mode !== 'loose' && mode !== 'feasible')) return [branch]
  const { diagrams, ipv4 } = run.headers
  const looked = run.compiled.device.rules.tables === 'kernel' ? diagrams.and(branch.set, ipv4) : branch.set
  const refused = diagrams.minus(
    looked,
    run.compiled.reverse(
      branch.vrf,
      port.name,
      mode,
      run.compiled.device.interfaces[branch.outInterface]?.name ?? null,
    ),
  )
  if (refused !== NOTHING) {
    const missing =
      FAMILIES.map(
        (family) => run.compiled.network.tableOf(run.compiled.number, branch.vrf, family)?.table.missing ?? null,
      ).find((words) => words !== null) ?? null
    run.decided(
      'reverse path',
      `${mode}: no route back to the source${mode === 'loose' ? '' : ' through this interface'}`,
      exhibitsOf(run.compiled.device, 'model', `interfaces[${port.at}].reversePath`),
      true,
    )
    if (missing === null)
      run.end(
        'stopped',
        { code: 'reverse-path', words: `the ${mode} reverse path check at ${port.name}` },
        { ...branch, set: refused },
      )
    else run.end('undecided', { code: 'missing', words: missing }, { ...branch, set: refused })
  }
  const passed = diagrams.minus(branch.set, refused)
  return passed === NOTHING ? [] : [{ ...branch, set: passed }]
}

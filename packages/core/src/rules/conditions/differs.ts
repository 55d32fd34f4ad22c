import { z } from 'zod'
import { diffScopes, type Difference } from '../../compare/index.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { Finding, NOWHERE, placeOf, searched } from '../evidence.ts'
import { conditionKind } from './kind.ts'

/** The running configuration and another one differ; binds `missing` and `extra`, what that one lacks and has. */
export const differs = conditionKind({
  key: 'differs',
  schema: () => z.strictObject({ differs: z.string() }),
  compile: (condition) => compileDiffers(condition.differs),
  words: (condition) => `the ${condition.differs} record differs`,
  form: {
    title: 'another configuration differs',
    fields: [{ path: ['differs'], title: 'Configuration', as: 'choice', choices: ['saved', 'ordinary'] }],
    start: { differs: 'saved' },
  },
  docs: { form: '`{ differs: saved }`', holds: 'another record of the device differs; binds `missing`, `extra`' },
})

function compileDiffers(kind: string): CompiledCondition {
  return ({ device, names }) => {
    const other = device.others.get(kind)
    if (!other) return new Finding('unknown', NOWHERE, { why: `there is no record "${kind}"` })
    // A listing with defaults differs from every other in all of them: the ordinary one is compared.
    const own = (device.listing === 'full' ? device.others.get('ordinary') : undefined) ?? device
    const fault = own.effective.tree.faults[0] ?? other.effective.tree.faults[0]
    if (fault) return new Finding('unknown', NOWHERE, { why: `one of the records is incomplete (${fault.reason})` })
    const differences = diffScopes(own.effective.scope, other.effective.scope, device.effective.dialect)
    const [missing, extra] = [pathsOn(differences, 'a'), pathsOn(differences, 'b')]
    Object.assign(names, { missing, extra })
    if (differences.length === 0) return new Finding(false, () => searched(own.record, own.effective.tree, []))
    return new Finding(
      true,
      () =>
        differences.flatMap(({ side, nodes }) =>
          nodes.map((node) => placeOf(side === 'a' ? own.record : other.record, node)),
        ),
      { missing, extra },
    )
  }
}

function pathsOn(differences: readonly Difference[], side: 'a' | 'b'): string[] {
  return differences.filter((difference) => difference.side === side).map(({ path }) => path.join(' › '))
}

import { ALL, NOTHING, exampleOf } from '../../../headers/index.ts'
import { exhibitsOf } from '../../network/exhibit.ts'
import type { PassageRun } from '../passage-run.ts'
import type { Branch } from '../branch.ts'
import type { StageRule } from '../stage.ts'

/** Where addresses and ports are written over (RFC 3022). */
export const translation: StageRule<'translation'> = (branch, passage, { changes }) => {
  const { run } = passage
  if (branch.local) return [branch]
  const parts = run.remembered
    ? passage.translation.undo(changes, branch.set, run.remembered)
    : passage.translation.meet(changes, branch, run.context(branch))
  return parts === null
    ? [branch]
    : parts.flatMap(({ set, rewrite, doubt, rule, by, undone = null }): Branch[] => {
        if (doubt !== null) {
          run.end('undecided', { code: 'not-evaluated', words: doubt }, { ...branch, set })
          return []
        }
        if (!rewrite) return [{ ...branch, set }]
        run.decided(
          `${changes} translation`,
          `${undone ? 'undone: ' : ''}${by?.words ?? run.compiled.model?.nat[rule]?.statement ?? ''}`,
          exhibitsOf(run.compiled.device, 'model', by?.path ?? `nat[${rule}]`),
        )
        const context = run.outcome.change({ rule, rewrite, undone, parent: branch.context }, set)
        const after = run.headers.diagrams.and(run.headers.forgetAll(set, rewrite.fields), rewrite.values)
        if (run.outcome.decided)
          run.decided('header', `${headerWords(set, run)} becomes ${headerWords(after, run)}`, [])
        return after === NOTHING
          ? []
          : [{ ...branch, set: after, context, translatedBy: changes === 'destination' ? rule : branch.translatedBy }]
      })
}

/** One header of a set, as people write it. */
function headerWords(set: number, run: PassageRun): string {
  const { addressed, headers } = run.compiled.network
  const packet = exampleOf(addressed, headers.expand(set, addressed, ALL))
  if (!packet) return 'none'
  const end = (address: string, port: number | null): string =>
    port === null ? address : address.includes(':') ? `[${address}]:${port}` : `${address}:${port}`
  return `${end(packet.source, packet.sourcePort)} to ${end(packet.destination, packet.destinationPort)}`
}

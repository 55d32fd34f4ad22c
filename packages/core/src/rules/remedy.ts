/** The remediation of a rule, for the subjects that failed. */
import { statementText } from '../compare/index.ts'
import { typedWord } from '../dialects/index.ts'
import { compileCondition } from './conditions.ts'
import { EvaluationContext, maskedIn } from './evaluation-context.ts'
import { compileTemplate } from './expression.ts'
import { LineMatcher, type LineMatch } from './line-matcher.ts'
import { namesWithin } from './names.ts'
import type { RemedySource } from './schema.ts'
import type { Subject } from './subjects.ts'
import type { Edit, RemedyProposal } from './verdict.ts'

/** Resolves a remedy for a subject whose branch decided. */
export type CompiledRemedy = (subject: Subject) => RemedyProposal

export function compileRemedy(source: RemedySource): CompiledRemedy {
  if ('words' in source) {
    const common = compileTemplate(source.words)
    const own = new Map(Object.entries(source.byDialect ?? {}).map(([id, text]) => [id, compileTemplate(text)]))
    return ({ context }) => {
      const words = own.get(context.device.effective.dialect.id) ?? common
      return { kind: 'words', words: words.render(context.names, maskedIn(context)) }
    }
  }
  const edits = source.edits.map((edit) => ({
    remove: edit.remove.length === 0 ? null : new LineMatcher(edit.remove, edit.removeWhere),
    add: edit.add.map(compileTemplate),
    each: edit.each,
    device: edit.device,
    when: edit.when === undefined ? null : compileCondition(edit.when),
  }))
  return (subject) => {
    const inherited: string[] = []
    const resolved = edits.flatMap((edit): Edit[] => {
      const own = subject.context
      // A copy, so that what the condition of one edit binds does not reach the next.
      const context = new EvaluationContext(own.device, edit.device ? own.device.effective.scope : own.scope, own.names)
      if (edit.when && edit.when(context).truth !== true) return []
      const found = edit.remove?.all(context) ?? []
      const { dialect } = own.device.effective
      for (const { statement } of found) {
        const group = statement.nodes.map((node) => dialect.inheritedFrom(node)).find((name) => name !== null)
        if (group !== undefined && group !== null)
          inherited.push(
            `"${statement.text}" is stated in the group "${group}" (line ${statement.nodes[0]?.line ?? 0}): ` +
              'remove it there, after checking what else inherits from the group.',
          )
      }
      const remove = found.map((match) => (dialect.typing.byPath ? headOf(match) : statementText(match.statement)))
      const items =
        edit.each === undefined
          ? [context.names]
          : ((context.names[edit.each] as unknown[] | undefined) ?? []).map((item) =>
              namesWithin(context.names, { item }),
            )
      const add = items.flatMap((names) => edit.add.map((template) => own.device.opaque.reveal(template.render(names))))
      const opener = context.scope.openers[0]
      const block =
        opener && context.scope !== context.device.effective.scope
          ? subject.name === ''
            ? opener.text
            : subject.name
          : null
      return remove.length + add.length > 0 ? [{ block, remove, add }] : []
    })
    if (inherited.length > 0) return { kind: 'words', words: inherited.join('\n') }
    return {
      kind: 'edits',
      edits: resolved,
      risk: source.risk,
      check: source.check,
      ...(source.unrestored === undefined ? {} : { unrestored: source.unrestored }),
    }
  }
}

/** Where a path is taken out as a whole, `...` at the end of a pattern stands for all that lies beneath. */
function headOf({ statement, pattern }: LineMatch): string {
  const open = pattern.tokens.at(-1)?.kind === 'gap'
  return open
    ? statement.command.words
        .slice(0, pattern.tokens.length - 1)
        .map(typedWord)
        .join(' ')
    : statement.text
}

/** The remediation of several subjects as one; null where there is none. */
export function joined(proposals: readonly RemedyProposal[]): RemedyProposal | null {
  const words = proposals.flatMap((proposal) => (proposal.kind === 'words' ? [proposal.words] : []))
  if (words.length > 0) return { kind: 'words', words: [...new Set(words)].join('\n') }
  const plans = proposals.flatMap((proposal) => (proposal.kind === 'edits' ? [proposal] : []))
  const first = plans[0]
  if (!first || plans.every((plan) => plan.edits.length === 0)) return null
  const risk = plans.some((p) => p.risk === 'session')
    ? 'session'
    : plans.some((p) => p.risk === 'traffic')
      ? 'traffic'
      : 'none'
  const unrestored = [...new Set(plans.flatMap((plan) => plan.unrestored ?? []))]
  return {
    kind: 'edits',
    edits: withoutRepetition(plans.flatMap((plan) => plan.edits)),
    risk,
    check: [...new Set(plans.flatMap((plan) => plan.check))],
    ...(unrestored.length === 0 ? {} : { unrestored: unrestored.join('\n') }),
  }
}

/** What several subjects ask of the device as a whole is done once. */
function withoutRepetition(edits: readonly Edit[]): Edit[] {
  return [...new Map(edits.map((edit) => [JSON.stringify(edit), edit])).values()]
}

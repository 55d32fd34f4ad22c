import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { Finding, placeOf } from '../evidence.ts'
import { compileExpression } from '../expression.ts'
import { CompiledTemplate, type ConformingLine } from '../template.ts'
import { templateSchema } from '../template-schema.ts'
import { conditionKind, NEEDS_NOTHING } from './kind.ts'

/**
 * A part of the configuration is what a template says: every required line is there, none is extra, none forbidden.
 * Devices of another dialect are not told anything.
 */
export const conforms = conditionKind({
  key: 'conforms',
  schema: () => z.strictObject({ conforms: templateSchema }),
  needs: ({ conforms: { values } }) => ({
    ...NEEDS_NOTHING,
    expressions: Object.values(values).flatMap((value) => ('model' in value ? [value.model] : [])),
  }),
  compile: (condition) => compileConforms(new CompiledTemplate(condition.conforms)),
  words: ({ conforms: { parts } }) =>
    `the configuration has the ${parts.reduce((sum, { lines }) => sum + lines.length, 0)} lines of the reference`,
  form: {
    title: 'conforms to a reference',
    fields: [],
    start: { conforms: { dialect: 'indented', parts: [{ lines: ['service password-encryption'] }] } },
  },
  docs: {
    form: '`{ conforms: { dialect, values, parts: [{ block, each, covers, ordered, lines }] } }`',
    holds: 'the lines of a reference configuration; binds `missing`, `extra`',
  },
})

function compileConforms(compiled: CompiledTemplate): CompiledCondition {
  const { values, dialect } = compiled.template
  const expressions = new Map(
    Object.entries(values).flatMap(([name, value]) =>
      'model' in value ? [[name, compileExpression(value.model)] as const] : [],
    ),
  )
  return (context) => {
    const { device } = context
    if (device.effective.dialect.id !== dialect)
      return new Finding('unknown', () => context.whole(), {
        why: `the reference is written for the dialect "${dialect}"`,
      })
    const lines = compiled.conform({
      effective: device.effective,
      model: device.modelled().model,
      opaque: device.opaque,
      valueOf: (name) => {
        const value = values[name]
        if (!value) return null
        if ('is' in value) return [value.is].flat()
        if ('label' in value) return textsOf(device.facts.labels?.[value.label])
        return textsOf(expressions.get(name)?.evaluate(context.names))
      },
    })
    const missing = pathsOf(lines, 'missing')
    const extra = [...pathsOf(lines, 'extra'), ...pathsOf(lines, 'forbidden'), ...pathsOf(lines, 'out-of-order')]
    Object.assign(context.names, { missing, extra })
    const places = lines.flatMap(({ nodes }) => nodes.map((node) => placeOf(device.record, node)))
    const cited = (): ReturnType<typeof context.whole> =>
      missing.length > 0 || places.length === 0 ? [...places, ...context.whole()] : places
    const doubtful = pathsOf(lines, 'undecided')
    if (missing.length === 0 && extra.length === 0 && doubtful.length > 0)
      return new Finding('unknown', cited, {
        why: `undecided: ${doubtful.slice(0, 5).join('; ')}`,
        ...(device.effective.tree.faults.length > 0 ? incomplete(context) : {}),
      })
    return new Finding(missing.length === 0 && extra.length === 0, cited, { missing, extra })
  }
}

function pathsOf(lines: readonly ConformingLine[], state: ConformingLine['state']): string[] {
  return lines.filter((line) => line.state === state).map(({ block, text }) => [...block, text].join(' › '))
}

/** A value of CEL, or of a label, as texts; null where there is none. */
function textsOf(value: unknown): string[] | null {
  if (value === null || value === undefined) return null
  return [value].flat().map(String)
}

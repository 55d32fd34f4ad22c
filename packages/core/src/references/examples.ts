import { DeviceAnalysis } from '../analysis/index.ts'
import { dialectById } from '../dialects/index.ts'
import { readRecord } from '../snapshot/index.ts'
import { CompiledReference, type ReferenceLine } from './conformance.ts'
import type { Reference } from './schema.ts'

/** Examples that a reference does not answer as they say, a line each; none: all are as they say. */
export function exampleFaults(reference: Reference): string[] {
  const dialect = dialectById(reference.dialect)
  if (!dialect) return []
  const compiled = new CompiledReference(reference)
  return reference.examples.flatMap(({ name, config, labels, missing, extra }) => {
    const record = { id: 'config', kind: 'config', tree: readRecord(config, reference.dialect), takenAt: null }
    const device = new DeviceAnalysis(dialect, [record], () => '‹secret›')
    const { lines } = compiled.answer(device, { name, labels })
    return [
      ...fault(reference, name, 'missing', missing, pathsOf(lines, ['missing'])),
      ...fault(reference, name, 'extra', extra, pathsOf(lines, ['extra', 'forbidden', 'out-of-order'])),
    ]
  })
}

function pathsOf(lines: readonly ReferenceLine[], states: readonly string[]): string[] {
  return lines
    .filter(({ state }) => states.includes(state))
    .map(({ block, text }) => [...block, text].join(' › '))
    .sort()
}

function fault(
  { id }: Reference,
  example: string,
  what: string,
  expected: readonly string[],
  found: readonly string[],
): string[] {
  const wanted = [...expected].sort()
  if (wanted.join('\n') === found.join('\n')) return []
  return [`${id}, example “${example}”: expected ${what} ${JSON.stringify(wanted)}, found ${JSON.stringify(found)}`]
}

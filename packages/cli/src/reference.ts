import { writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { CoreError, readSnapshot, type Snapshot, type SnapshotDevice } from '@jurybox/core'
import { analysisOf } from '@jurybox/core/analysis'
import {
  CompiledReference,
  deriveReference,
  readFeatures,
  readReferences,
  type Derived,
  type Feature,
  type Reference,
  type ReferenceAnswer,
} from '@jurybox/core/references'
import { prepare } from '@jurybox/core/benchmarks'
import { features as shippedFeatures, shippedBenchmarks } from '@jurybox/content'
import { stringify } from 'yaml'
import { fittingAt } from './audit.ts'
import { UsageError, type Output } from './call.ts'
import { filesAt } from './files.ts'
import { key, textAt } from './traffic-call.ts'

export const REFERENCE_USAGE = `Usage: jurybox reference derive SNAPSHOT… --feature ID|FILE.yaml [--dialect ID] [--share N]
         [--format yaml|json|text]
       jurybox reference check SNAPSHOT… --references FILE.yaml [--fitting FILE.yaml] [--format text|json]
         each with [--devices NAME,…] [--out FILE]

derive finds what devices have in common for a feature (docs/formats/references.md): as a reference in YAML, with the
spread of values and the outliers in text or JSON. --share is from which share of devices on a line is common (0.8).
check says for each device what it has and lacks of each reference, and the commands that put it in. Values of
benchmarks are those of the fitting, else the benchmark's own.
Exit status: 0 answered (derive: no outlier; check: every device conforms); 1 otherwise, or a file was refused; 2 bad
usage or nothing readable.`

interface Call {
  readonly snapshot: Snapshot
  readonly refused: number
  readonly devices: readonly SnapshotDevice[]
  readonly values: Readonly<Record<string, string | undefined>>
  readonly write: (text: string) => void
}

/** Derives references, or holds devices to them. @returns the exit status */
export function referenceCommand(args: readonly string[], output: Output): number {
  try {
    const [verb, ...rest] = args
    if (verb !== 'derive' && verb !== 'check') throw new UsageError(`derive or check\n${REFERENCE_USAGE}`)
    const call = called(rest, output)
    return verb === 'derive' ? derive(call) : check(call)
  } catch (error) {
    if (!(error instanceof UsageError || error instanceof CoreError)) throw error
    output.stderr(`jurybox reference: ${error.message}\n`)
    return 2
  }
}

function called(args: readonly string[], output: Output): Call {
  const { values, positionals } = parsed(args)
  if (positionals.length === 0) throw new UsageError(`name a snapshot\n${REFERENCE_USAGE}`)
  const { files, refused } = filesAt(positionals)
  const snapshot = readSnapshot(files)
  const all = [...refused, ...snapshot.refused]
  for (const { path, reason } of all) output.stderr(`refused: ${path}: ${reason}\n`)
  if (snapshot.devices.length === 0)
    throw new UsageError('Nothing readable: no file was read as a device configuration.')
  const wanted = values['devices']?.split(',')
  const unknown = (wanted ?? []).filter((name) => !snapshot.devices.some((device) => device.name === name))
  if (unknown.length > 0) throw new UsageError(`the snapshot has no device ${unknown.join(', ')}`)
  const out = values['out']
  return {
    snapshot,
    values,
    refused: all.length,
    devices: snapshot.devices.filter(({ name }) => wanted?.includes(name) ?? true),
    write: (text) => (out === undefined ? output.stdout(text) : writeFileSync(out, text)),
  }
}

function parsed(args: readonly string[]): {
  values: Readonly<Record<string, string | undefined>>
  positionals: string[]
} {
  try {
    const text = { type: 'string' } as const
    return parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        feature: text,
        dialect: text,
        share: text,
        references: text,
        fitting: text,
        devices: text,
        format: text,
        out: text,
      },
    })
  } catch (error) {
    throw new UsageError(`${error instanceof Error ? error.message : String(error)}\n${REFERENCE_USAGE}`)
  }
}

function derive({ devices, refused, values, write }: Call): number {
  const format = oneOf(values['format'] ?? 'yaml', ['yaml', 'json', 'text'])
  const feature = featureOf(values['feature'])
  const dialects = [...new Set(devices.map(({ dialect }) => dialect.id))]
  const share = Number(values['share'] ?? 0.8)
  if (!(share >= 0.5 && share <= 1)) throw new UsageError('--share is a number from 0.5 to 1')
  const mask = key()
  const read = devices.map((device) => ({ name: device.name, analysis: analysisOf(device, mask) }))
  const found = (values['dialect'] === undefined ? dialects : [values['dialect']]).flatMap(
    (dialect) => deriveReference(read, feature, dialect, share) ?? [],
  )
  if (found.length === 0) throw new UsageError(`no device here has anything of the feature "${feature.id}"`)
  if (format === 'yaml') write(stringify({ references: found.map(({ reference }) => reference) }, { lineWidth: 0 }))
  else if (format === 'json') write(`${JSON.stringify({ schema: 1, derived: found }, null, 2)}\n`)
  else write(found.map(({ derived, reference }) => derivedText(derived, reference)).join('\n'))
  return found.some(({ derived }) => derived.outliers.length > 0) || refused > 0 ? 1 : 0
}

function featureOf(text: string | undefined): Feature {
  const all = shippedFeatures()
  const known = all.map(({ id }) => id).join(', ')
  if (text === undefined) throw new UsageError(`name a feature with --feature (there are: ${known})`)
  const found = /\.ya?ml$/i.test(text)
    ? readFeatures({ path: text, text: textAt(text) })[0]
    : all.find(({ id }) => id === text)
  if (!found) throw new UsageError(`no feature "${text}" (there are: ${known})`)
  return found
}

function derivedText({ samples, parts, values, state, outliers }: Derived, { title, dialect }: Reference): string {
  return [
    `${title} (${dialect}), from ${samples}`,
    ...parts.flatMap(({ block, lines }) => [
      ...block.map((opener, i) => `${'  '.repeat(i + 1)}${opener}`),
      ...lines.map(
        ({ line, kind }) => `${'  '.repeat(block.length + 1)}${line}${kind === 'required' ? '' : ` [${kind}]`}`,
      ),
    ]),
    ...values.flatMap(({ name, values: spread }) => [`value ${name}`, ...spreadText(spread)]),
    ...state.flatMap(({ title: fact, that, values: spread, unknown }) => [
      `state ${fact}${that === null && spread.length > 1 ? ' [differs]' : ''}`,
      ...spreadText([...spread, ...(unknown.length > 0 ? [{ value: 'not known', samples: unknown }] : [])]),
    ]),
    ...outliers.flatMap(({ name, deviations }) => [
      `outlier ${name}`,
      ...deviations.map(({ kind, block, text }) => `  ${kind}: ${[...block, text].join(' › ')}`),
    ]),
    '',
  ].join('\n')
}

function spreadText(spread: Derived['values'][number]['values']): string[] {
  return spread.map(
    ({ value, samples }) =>
      `  ${value}: ${samples.length} (${samples.slice(0, 5).join(', ')}${samples.length > 5 ? ', …' : ''})`,
  )
}

interface Held {
  readonly device: string
  readonly reference: string
  readonly answer: ReferenceAnswer
}

function check({ devices, refused, values, write }: Call): number {
  const format = oneOf(values['format'] ?? 'text', ['text', 'json'])
  const path = values['references']
  if (path === undefined) throw new UsageError('name a file of references with --references')
  const fitting = values['fitting'] === undefined ? null : fittingAt(values['fitting'])
  const benches = shippedBenchmarks().map(({ benchmark }) => {
    const own = fitting?.benchmark === benchmark.source.id ? fitting : null
    return prepare({ benchmark, profile: null, values: own?.values ?? {}, overrides: own?.overrides ?? [] })
  })
  const compiled = readReferences({ path, text: textAt(path) }).map((one) => new CompiledReference(one, benches))
  const mask = key()
  const held = devices.flatMap((device): Held[] => {
    const analysis = analysisOf(device, mask)
    return compiled.map((one) => ({
      device: device.name,
      reference: one.reference.id,
      answer: one.answer(analysis, { ...device.facts, name: device.name, labels: device.facts.labels ?? {} }),
    }))
  })
  const own = held.filter(({ answer }) => answer.outcome !== 'outside')
  write(format === 'json' ? `${JSON.stringify({ schema: 1, answers: own }, null, 2)}\n` : heldText(own))
  return own.some(({ answer }) => answer.outcome !== 'conforms') || refused > 0 ? 1 : 0
}

function heldText(held: readonly Held[]): string {
  return [
    ...held.flatMap(({ device, reference, answer }) => [
      `${device}: ${reference}: ${answer.outcome}${answer.reason === null ? '' : ` (${answer.reason})`}`,
      ...answer.lines
        .filter(({ state }) => state !== 'matching')
        .map(
          ({ state, block, text, doubt }) =>
            `  ${state}: ${[...block, text].join(' › ')}${doubt === null ? '' : ` (${doubt})`}`,
        ),
      ...answer.values
        .filter(({ override }) => override !== null)
        .map(
          ({ name, value, override }) =>
            `  value ${name}: ${(value ?? []).join(', ')} (${override?.title ?? ''}, by ${override?.by ?? ''})`,
        ),
      ...answer.state
        .filter(({ outcome }) => outcome !== 'met')
        .map(
          ({ title, outcome, reason }) =>
            `  ${outcome}: ${title}${reason === null ? '' : ` (${reason.code}: ${reason.what})`}`,
        ),
      ...(answer.commands.length === 0 ? [] : ['  commands:', ...answer.commands.map((line) => `    ${line}`)]),
    ]),
    '',
  ].join('\n')
}

function oneOf<T extends string>(text: string, allowed: readonly T[]): T {
  const found = allowed.find((one) => one === text)
  if (!found) throw new UsageError(`unknown format "${text}" (expected ${allowed.join(', ')})`)
  return found
}

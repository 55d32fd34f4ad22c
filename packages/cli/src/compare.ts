import { readFileSync, writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { CoreError, Walker, networkOfSnapshot, readSnapshot, type Snapshot } from '@jurybox/core'
import { analysisOf, type DeviceAnalysis } from '@jurybox/core/analysis'
import {
  checkDevices,
  checkNetwork,
  checksFileSchema,
  NETWORK_TABLES,
  readChecks,
  selectedChecks,
  type Check,
  type NetworkRows,
  type TableRows,
} from '@jurybox/core/checks'
import {
  LISTINGS,
  compareDevices,
  isEqual,
  readNoise,
  unifiedDiff,
  withListing,
  type Listing,
} from '@jurybox/core/compare'
import { answerTo, fateChanges, readExpectations, shown, type FateChange } from '@jurybox/core/forwarding'
import {
  comparisonHtml,
  comparisonMarkdown,
  comparisonText,
  hasObjection,
  type ComparedDevice,
  type ComparedFlow,
  type ComparisonDocument,
} from '@jurybox/core/report'
import { MaskedLines, type Mask, type NoiseRule } from '@jurybox/core/syntax'
import { shippedChecks } from '@jurybox/content'
import { UsageError, type Output } from './call.ts'
import { filesAt } from './files.ts'
import { key } from './traffic-call.ts'

export const COMPARE_USAGE = `Usage: jurybox compare A B [--devices NAME,…] [--checks SET|FILE.yaml] [--noise FILE.yaml]
         [--flows] [--listing-a config|config.saved|config.full] [--listing-b …]
         [--format json|text|html|markdown|unified] [--out FILE]

A and B are snapshots: folders, zips or single files. Where each holds one device, those two are compared, whatever
their names. --listing-a and --listing-b choose which listing stands for the configuration of that side.
--checks runs the checks of a shipped set (upgrade, filter-change, migration) or of a file (docs/formats/checks.md).
--flows adds connections whose fate differs. unified is the difference of the listings as patch applies it.
Exit status: 0 nothing differs (with --checks: no check failed or is undecided); 1 something does, or a file was
refused; 2 bad usage or nothing readable.`

const FORMATS = ['text', 'json', 'html', 'markdown', 'unified'] as const

interface Options {
  readonly a: string
  readonly b: string
  readonly devices: readonly string[] | null
  readonly checks: readonly Check[] | null
  readonly noise: readonly NoiseRule[]
  readonly flows: boolean
  readonly listings: { readonly a: Listing; readonly b: Listing }
  readonly format: (typeof FORMATS)[number]
  readonly out: string | null
}

/** Compares two snapshots. @returns the exit status */
export function compareCommand(args: readonly string[], output: Output): number {
  try {
    const options = parse(args)
    const mask = key()
    const [a, b] = [readSide(options.a, output), readSide(options.b, output)]
    const pairs = pairsOf(a.snapshot, b.snapshot, options, mask)
    const text = options.format === 'unified' ? unified(pairs, mask) : null
    const document = documentOf(a.snapshot, b.snapshot, pairs, options, mask)
    const written = text ?? write(document, options)
    if (options.out === null) output.stdout(written)
    else writeFileSync(options.out, written)
    return hasObjection(document) || a.refused + b.refused > 0 ? 1 : 0
  } catch (error) {
    if (!(error instanceof UsageError || error instanceof CoreError)) throw error
    output.stderr(`jurybox compare: ${error.message}\n`)
    return 2
  }
}

function parse(args: readonly string[]): Options {
  const { values, positionals } = parsed(args)
  const [a, b, ...more] = positionals
  if (a === undefined || b === undefined || more.length > 0)
    throw new UsageError(`name two snapshots\n${COMPARE_USAGE}`)
  const format = FORMATS.find((one) => one === values.format)
  if (!format) throw new UsageError(`unknown format "${values.format}" (expected ${FORMATS.join(', ')})`)
  return {
    a,
    b,
    format,
    devices: values.devices?.split(',') ?? null,
    checks: values.checks === undefined ? null : checksAt(values.checks),
    noise: values.noise === undefined ? [] : readNoise(fileAt(values.noise)),
    flows: values.flows,
    listings: { a: listing(values['listing-a']), b: listing(values['listing-b']) },
    out: values.out ?? null,
  }
}

function parsed(args: readonly string[]) {
  try {
    return parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        devices: { type: 'string' },
        checks: { type: 'string' },
        noise: { type: 'string' },
        flows: { type: 'boolean', default: false },
        'listing-a': { type: 'string', default: 'config' },
        'listing-b': { type: 'string', default: 'config' },
        format: { type: 'string', default: 'text' },
        out: { type: 'string' },
      },
    })
  } catch (error) {
    throw new UsageError(`${error instanceof Error ? error.message : String(error)}\n${COMPARE_USAGE}`)
  }
}

function listing(text: string): Listing {
  const found = LISTINGS.find((one) => one === text)
  if (!found) throw new UsageError(`unknown listing "${text}" (expected ${LISTINGS.join(', ')})`)
  return found
}

function fileAt(path: string): { path: string; text: string } {
  try {
    return { path, text: readFileSync(path, 'utf8') }
  } catch (error) {
    throw new UsageError(`${path} cannot be read: ${error instanceof Error ? error.message : String(error)}`)
  }
}

/** The checks of a shipped set, or all that a file names: its sets, else its checks. */
function checksAt(text: string): readonly Check[] {
  const shipped = shippedChecks()
  if (!/\.ya?ml$/i.test(text)) {
    const set = shipped.sets.find(({ id }) => id === text)
    if (!set)
      throw new UsageError(`no set of checks "${text}" (there are: ${shipped.sets.map(({ id }) => id).join(', ')})`)
    return selectedChecks(set, shipped.checks)
  }
  const own = checksFileSchema.parse(readChecks(fileAt(text)))
  const all = [...own.checks, ...shipped.checks]
  return own.sets.length === 0 ? own.checks : [...new Set(own.sets.flatMap((set) => selectedChecks(set, all)))]
}

function readSide(path: string, output: Output): { snapshot: Snapshot; refused: number } {
  const { files, refused } = filesAt([path])
  const snapshot = readSnapshot(files)
  const all = [...refused, ...snapshot.refused]
  for (const one of all) output.stderr(`refused: ${one.path}: ${one.reason}\n`)
  if (snapshot.devices.length === 0) throw new UsageError(`Nothing readable in ${path}.`)
  return { snapshot, refused: all.length }
}

interface DevicePair {
  readonly name: string
  readonly a: DeviceAnalysis | null
  readonly b: DeviceAnalysis | null
}

function pairsOf(a: Snapshot, b: Snapshot, { devices, listings }: Options, mask: Mask): DevicePair[] {
  const side = (snapshot: Snapshot, of: 'a' | 'b'): Map<string, DeviceAnalysis> =>
    new Map(
      snapshot.devices.map((device) => {
        const analysis = analysisOf(device, mask)
        const chosen = listings[of] === 'config' ? analysis : withListing(analysis, listings[of])
        if (!chosen) throw new UsageError(`${device.name} has no record "${listings[of]}"`)
        return [device.name, chosen]
      }),
    )
  const [left, right] = [side(a, 'a'), side(b, 'b')]
  const [first, second] = [[...left][0], [...right][0]]
  if (left.size === 1 && right.size === 1 && first && second && first[0] !== second[0])
    return [{ name: `${first[0]} and ${second[0]}`, a: first[1], b: second[1] }]
  const names = [...new Set([...left.keys(), ...right.keys()])].sort()
  const unknown = (devices ?? []).filter((name) => !names.includes(name))
  if (unknown.length > 0) throw new UsageError(`neither snapshot has a device ${unknown.join(', ')}`)
  return names
    .filter((name) => devices === null || devices.includes(name))
    .map((name) => ({ name, a: left.get(name) ?? null, b: right.get(name) ?? null }))
}

function documentOf(
  a: Snapshot,
  b: Snapshot,
  pairs: readonly DevicePair[],
  { checks, noise, flows, listings }: Options,
  mask: Mask,
): ComparisonDocument {
  const devices = pairs.map(({ name, a: before, b: after }): ComparedDevice => {
    if (!before || !after) return { name, standing: before ? 'removed' : 'added', comparison: null }
    const comparison = compareDevices(before, after, noise)
    if (comparison.doubts.some(({ code }) => code === 'no-configuration'))
      return { name, standing: 'unreadable', comparison }
    return { name, standing: isEqual(comparison) ? 'same' : 'changed', comparison }
  })
  const ofNetwork = checks?.some(({ of }) => (NETWORK_TABLES as readonly string[]).includes(of)) ?? false
  const found = flows || ofNetwork ? flowsBetween(a, b, mask) : null
  return {
    schema: 1,
    title: `${a.title} and ${b.title}`,
    a: { title: sideTitle(a, listings.a), takenAt: a.takenAt },
    b: { title: sideTitle(b, listings.b), takenAt: b.takenAt },
    devices,
    flows: flows ? (found?.flows ?? []) : null,
    checks: checks && [
      ...pairs.flatMap(({ name, a: before, b: after }) =>
        before && after ? [{ device: name, results: checkDevices(checks, before, after) }] : [],
      ),
      ...(ofNetwork ? [{ device: null, results: checkNetwork(checks, found?.rows ?? {}) }] : []),
    ],
  }
}

function sideTitle({ title }: Snapshot, chosen: Listing): string {
  return chosen === 'config' ? title : `${title}, ${chosen}`
}

/** Connections with another fate, and the rows that checks ask for. */
function flowsBetween(a: Snapshot, b: Snapshot, mask: Mask): { flows: ComparedFlow[]; rows: NetworkRows } {
  const [before, after] = [new Walker(networkOfSnapshot(a, mask)), new Walker(networkOfSnapshot(b, mask))]
  const flows = fateChanges(before, after).changes.map((change): ComparedFlow & { readonly change: FateChange } => ({
    change,
    from: change.from,
    to: change.to,
    before: change.before,
    after: change.after,
    classes: shown(after.network, change.set, { first: true, sources: change.sources }).readable.classes,
  }))
  const stated = b.expectations ?? a.expectations
  const expected = (walker: Walker): TableRows | null =>
    stated && {
      doubt: null,
      rows: readExpectations(stated).map((one) => ({
        key: one.id,
        row: { outcome: answerTo(walker, one).outcome, title: one.title },
        lines: [],
      })),
    }
  const [was, is] = [expected(before), expected(after)]
  return {
    flows: flows.map(({ change: _, ...flow }) => flow),
    rows: {
      flows: { a: flowRows(flows, 'before'), b: flowRows(flows, 'after') },
      ...(was && is ? { expectations: { a: was, b: is } } : {}),
    },
  }
}

function flowRows(
  flows: readonly (ComparedFlow & { readonly change: FateChange })[],
  side: 'before' | 'after',
): TableRows {
  return {
    doubt: null,
    rows: flows.map(({ from, to, classes, change, ...fates }) => ({
      key: `${from.join(', ')} to ${to.join(', ')} (${classes.join('; or ')})`,
      row: { fates: fates[side], protection: change.example?.[side].paths[0]?.protection ?? [] },
      lines: [],
    })),
  }
}

/** The listings of both sides, as `patch` applies their difference; secrets masked. */
function unified(pairs: readonly DevicePair[], mask: Mask): string {
  const linesOf = ({ judged, dialect }: DeviceAnalysis): string[] =>
    judged ? new MaskedLines(judged.tree, dialect, mask).all() : []
  return pairs
    .map(({ name, a, b }) =>
      unifiedDiff({ name: `a/${name}`, lines: a ? linesOf(a) : [] }, { name: `b/${name}`, lines: b ? linesOf(b) : [] }),
    )
    .join('')
}

function write(document: ComparisonDocument, { format, checks }: Options): string {
  switch (format) {
    case 'json':
      return `${JSON.stringify(document, null, 2)}\n`
    case 'html':
      return comparisonHtml(document, checks ?? [])
    case 'markdown':
      return comparisonMarkdown(document, checks ?? [])
    default:
      return comparisonText(document, checks ?? [])
  }
}

import { randomBytes } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { shippedBenchmarks, buildId, frameworks } from '@jurybox/content'
import {
  auditSnapshot,
  fingerprintWithKey,
  maskWithKey,
  readBenchmark,
  readExpectations,
  prepare,
  readSnapshot,
  type AuditDocument,
  type Benchmark,
  type Expectation,
  type Snapshot,
} from '@jurybox/core'
import { waiverSchema, type Waiver } from '@jurybox/core/audit'
import { checkValue, fittingSchema, rulesOf, type Choice, type Fitting } from '@jurybox/core/benchmarks'
import { REPORT_FORMATS, makeReport } from '@jurybox/core/report'
import { CompanionFileError, readYaml, schemaFault } from '@jurybox/core/syntax'
import { z } from 'zod'
import { UsageError, type Output } from './call.ts'
import { filesAt } from './files.ts'

const FORMATS = REPORT_FORMATS.map(({ form }) => form)

export const USAGE = `Usage: jurybox audit PATH… --benchmark ID|FILE.yaml [--benchmark ID2 …] [--profile P]
         [--fitting FILE.yaml …] [--value name=v1,v2 …] [--format ${FORMATS.join('|')}] [--out FILE] [--key-file FILE]
         [--now TIME] [--before PATH] [--waivers FILE]

PATH is a configuration file, a folder of them, a snapshot folder, or a zip of either.
--benchmark names a shipped benchmark or a file of your own; --fitting is a benchmark's profile, values, overrides and
tailoring, as the server gives them out; --profile and --value go before it.
--now is the time that ages and expiries are judged by (RFC 3339; this moment where left out), --before the snapshot that is
compared with, --waivers a YAML list of { benchmark, rule, device, subject, reason, owner, expires }.
Expectations of traffic that the snapshot holds (expectations.yaml) are verdicts too.
Exit status: 0 no findings that are not waived; 1 a fail, unknown, error or refused file; 2 bad usage or nothing readable.`

/** Runs one headless audit. @returns the exit status */
export function auditCommand(args: readonly string[], output: Output): number {
  try {
    const options = parse(args)
    const { files, refused } = filesAt(options.paths)
    const read = readSnapshot(files)
    const snapshot = { ...read, refused: [...refused, ...read.refused] }
    for (const { path, reason } of snapshot.refused) output.stderr(`refused: ${path}: ${reason}\n`)
    if (snapshot.devices.length === 0)
      throw new UsageError('Nothing readable: no file was read as a device configuration.')
    const document = auditSnapshot(snapshot, options.choices, {
      build: buildId(),
      mask: maskWithKey(options.key),
      fingerprint: fingerprintWithKey(options.key),
      now: options.now,
      waivers: options.waivers,
      expectations: expectationsOf(snapshot),
      ...(options.before === null ? {} : { before: snapshotBefore(options.before) }),
    })
    const text = write(
      document,
      options.format,
      options.choices.map((choice) => choice.benchmark),
    )
    if (options.out === null) output.stdout(text)
    else writeFileSync(options.out, text)
    const { pass, fail, unknown, error, notapplicable, waived } = document.counts
    output.stderr(
      `${document.devices.length} devices: ${pass} pass, ${fail} fail, ${unknown} unknown, ${error} ` +
        `error, ${notapplicable} not applicable; ${waived} waived; ${document.refused.length} files refused\n`,
    )
    const broken = document.expected.filter(({ outcome }) => outcome !== 'pass')
    const borne = broken.filter((one) => one.waived).length
    if (document.expected.length > 0)
      output.stderr(
        `${document.expected.length} expectations: ${document.expected.length - broken.length} met, ` +
          `${broken.length} violated or undecided; ${borne} waived\n`,
      )
    return fail + unknown + error - waived + document.refused.length + broken.length - borne > 0 ? 1 : 0
  } catch (error) {
    if (!(error instanceof UsageError)) throw error
    output.stderr(`jurybox audit: ${error.message}\n`)
    return 2
  }
}

/** What is expected of traffic beside the devices of a snapshot. */
function expectationsOf({ expectations }: Snapshot): readonly Expectation[] {
  try {
    return expectations ? readExpectations(expectations) : []
  } catch (error) {
    throw error instanceof CompanionFileError ? new UsageError(error.message) : error
  }
}

interface Options {
  readonly paths: readonly string[]
  readonly choices: readonly Choice[]
  readonly format: string
  readonly out: string | null
  readonly key: Uint8Array
  /** Milliseconds since 1970. */
  readonly now: number
  readonly before: string | null
  readonly waivers: readonly Waiver[]
}

function parse(args: readonly string[]): Options {
  const { values, positionals } = parsed(args)
  if (positionals.length === 0) throw new UsageError(`name at least one file or folder\n${USAGE}`)
  if (!FORMATS.includes(values.format))
    throw new UsageError(`unknown format "${values.format}" (expected ${FORMATS.join(', ')})`)
  const shipped = shippedBenchmarks().map(({ benchmark }) => benchmark)
  const ids = values.benchmark ?? []
  if (ids.length === 0)
    throw new UsageError(`name a benchmark with --benchmark (there are: ${shipped.map((b) => b.source.id).join(', ')})`)
  const benchmarks = ids.map((id) => {
    const found = /\.ya?ml$/i.test(id) ? benchmarkAt(id) : shipped.find((benchmark) => benchmark.source.id === id)
    if (!found) throw new UsageError(`no benchmark "${id}" (there are: ${shipped.map((b) => b.source.id).join(', ')})`)
    return found
  })
  const fittings = (values.fitting ?? []).map(fittingAt)
  for (const { benchmark } of fittings)
    if (!benchmarks.some((one) => one.source.id === benchmark))
      throw new UsageError(
        `the fitting of "${benchmark}" belongs to no selected benchmark (selected: ` +
          `${benchmarks.map((one) => one.source.id).join(', ')})`,
      )
  const set = (values.value ?? []).map(nameAndText)
  for (const [name] of set)
    if (!benchmarks.some((b) => Object.hasOwn(b.source.values, name)))
      throw new UsageError(`no selected benchmark has a value "${name}"`)
  return {
    paths: positionals,
    choices: benchmarks.map((benchmark) =>
      choiceOf(
        benchmark,
        values.profile ?? null,
        set,
        fittings.find((one) => one.benchmark === benchmark.source.id) ?? null,
      ),
    ),
    format: values.format,
    out: values.out ?? null,
    now: values.now === undefined ? Date.now() : timeOf(values.now),
    before: values.before ?? null,
    waivers: values.waivers === undefined ? [] : waiversAt(values.waivers),
    key: values['key-file'] === undefined ? randomBytes(32) : keyAt(values['key-file']),
  }
}

function parsed(args: readonly string[]) {
  try {
    return parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        benchmark: { type: 'string', multiple: true },
        profile: { type: 'string' },
        value: { type: 'string', multiple: true },
        fitting: { type: 'string', multiple: true },
        format: { type: 'string', default: 'json' },
        out: { type: 'string' },
        'key-file': { type: 'string' },
        now: { type: 'string' },
        before: { type: 'string' },
        waivers: { type: 'string' },
      },
    })
  } catch (error) {
    throw new UsageError(`${error instanceof Error ? error.message : String(error)}\n${USAGE}`)
  }
}

function nameAndText(text: string): [string, string] {
  const at = text.indexOf('=')
  if (at < 1) throw new UsageError(`--value expects name=value, got "${text}"`)
  return [text.slice(0, at), text.slice(at + 1)]
}

/** A benchmark of one's own. @throws UsageError with the line of what is wrong */
function benchmarkAt(path: string): Benchmark {
  try {
    return readBenchmark(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new UsageError(`${path}: ${error instanceof Error ? error.message : String(error)}`)
  }
}

/** How an engagement fits a benchmark, from a file. @throws UsageError for what is none */
export function fittingAt(path: string): Fitting {
  let data: unknown
  try {
    data = readYaml(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new UsageError(`${path}: ${error instanceof Error ? error.message : String(error)}`)
  }
  const read = fittingSchema.safeParse(data)
  if (!read.success) throw new UsageError(`${path} is not a fitting: ${schemaFault(read.error)}`)
  return read.data
}

function choiceOf(
  benchmark: Benchmark,
  named: string | null,
  set: readonly (readonly [string, string])[],
  fitting: Fitting | null,
): Choice {
  const profile = named ?? fitting?.profile ?? null
  try {
    rulesOf(benchmark, profile)
    const values = set.flatMap(([name, text]) => {
      const value = benchmark.source.values[name]
      return value ? [[name, checkValue(name, value, text)] as const] : []
    })
    const choice = {
      benchmark,
      profile,
      values: { ...fitting?.values, ...Object.fromEntries(values) },
      overrides: fitting?.overrides ?? [],
      tailoring: fitting?.tailoring ?? [],
    }
    // Names that the benchmark does not have are told before anything is judged.
    prepare(choice)
    return choice
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error))
  }
}

function snapshotBefore(path: string): Snapshot {
  const before = readSnapshot(filesAt([path]).files)
  if (before.devices.length === 0) throw new UsageError(`nothing readable at ${path}, with which --before compares`)
  return before
}

function timeOf(text: string): number {
  const parsed = z.iso.datetime({ offset: true }).safeParse(text)
  if (!parsed.success) throw new UsageError(`--now expects a time such as 2026-11-26T06:00:00Z, got "${text}"`)
  return Date.parse(parsed.data)
}

function waiversAt(path: string): Waiver[] {
  let data: unknown
  try {
    data = readYaml(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new UsageError(
      `the waivers in ${path} cannot be read: ` +
        `${error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error)}`,
    )
  }
  const parsed = z.array(waiverSchema).safeParse(data)
  if (!parsed.success) throw new UsageError(`the waivers in ${path} are not valid: ${schemaFault(parsed.error)}`)
  return parsed.data
}

function keyAt(path: string): Uint8Array {
  try {
    const key = readFileSync(path)
    if (key.length < 16) throw new UsageError(`the key file ${path} holds less than 16 bytes`)
    return key
  } catch (error) {
    if (error instanceof UsageError) throw error
    throw new UsageError(`the key file ${path} cannot be read`)
  }
}

function write(document: AuditDocument, format: string, benchmarks: readonly Benchmark[]): string {
  const sources = benchmarks.map((benchmark) => benchmark.source)
  const chosen = REPORT_FORMATS.find(({ form }) => form === format)
  return (
    chosen?.write({
      document,
      benchmarks: sources,
      report: () =>
        makeReport(document, sources, frameworks(), {
          title: 'Evidence report',
          engagement: null,
          madeAt: new Date().toISOString(),
        }),
    }) ?? ''
  )
}

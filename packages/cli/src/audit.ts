import { randomBytes } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { benchmarkTexts, buildId, frameworks } from '@jurybox/content'
import { auditSnapshot, checkValue, makeReport, maskWithKey, readBenchmark, readSnapshot, rulesOf, writeCsv, writeHtml, writeSarif, type AuditDocument, type Benchmark, type Choice } from '@jurybox/core'
import { UsageError, type Output } from './call.ts'
import { filesAt } from './files.ts'

export const USAGE = `Usage: jurybox audit PATH… --benchmark ID [--benchmark ID2 …] [--profile P]
         [--value name=v1,v2 …] [--format json|csv|html|sarif] [--out FILE] [--key-file FILE]

PATH is a configuration file, a folder of them, a snapshot folder, or a zip of either.
Exit status: 0 nothing to object to; 1 a fail, unknown, error or refused file; 2 bad usage or nothing readable.`

/** Runs one headless audit. @returns the exit status */
export function auditCommand(args: readonly string[], output: Output): number {
  try {
    const options = parse(args)
    const { files, refused } = filesAt(options.paths)
    const read = readSnapshot(files)
    const snapshot = { ...read, refused: [...refused, ...read.refused] }
    for (const { path, reason } of snapshot.refused) output.stderr(`refused: ${path}: ${reason}\n`)
    if (snapshot.devices.length === 0) throw new UsageError('Nothing readable: no file was read as a device configuration.')
    const document = auditSnapshot(snapshot, options.choices, { build: buildId(), mask: maskWithKey(options.key) })
    const text = write(document, options.format, options.choices.map((choice) => choice.benchmark))
    if (options.out === null) output.stdout(text)
    else writeFileSync(options.out, text)
    const { pass, fail, unknown, error, notapplicable } = document.counts
    output.stderr(`${document.devices.length} devices: ${pass} pass, ${fail} fail, ${unknown} unknown, ${error} error, ${notapplicable} not applicable; ${document.refused.length} files refused\n`)
    return fail + unknown + error + document.refused.length > 0 ? 1 : 0
  } catch (error) {
    if (!(error instanceof UsageError)) throw error
    output.stderr(`jurybox audit: ${error.message}\n`)
    return 2
  }
}

interface Options {
  readonly paths: readonly string[]
  readonly choices: readonly Choice[]
  readonly format: string
  readonly out: string | null
  readonly key: Uint8Array
}

const FORMATS = ['json', 'csv', 'html', 'sarif']

function parse(args: readonly string[]): Options {
  const { values, positionals } = parsed(args)
  if (positionals.length === 0) throw new UsageError(`name at least one file or folder\n${USAGE}`)
  if (!FORMATS.includes(values.format)) throw new UsageError(`unknown format "${values.format}" (expected ${FORMATS.join(', ')})`)
  const shipped = benchmarkTexts().map(({ text }) => readBenchmark(text))
  const ids = values.benchmark ?? []
  if (ids.length === 0) throw new UsageError(`name a benchmark with --benchmark (there are: ${shipped.map((b) => b.source.id).join(', ')})`)
  const benchmarks = ids.map((id) => {
    const found = shipped.find((benchmark) => benchmark.source.id === id)
    if (!found) throw new UsageError(`no benchmark "${id}" (there are: ${shipped.map((b) => b.source.id).join(', ')})`)
    return found
  })
  const set = (values.value ?? []).map(nameAndText)
  for (const [name] of set) if (!benchmarks.some((b) => Object.hasOwn(b.source.values, name))) throw new UsageError(`no chosen benchmark has a value "${name}"`)
  return {
    paths: positionals,
    choices: benchmarks.map((benchmark) => choiceOf(benchmark, values.profile ?? null, set)),
    format: values.format,
    out: values.out ?? null,
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
        format: { type: 'string', default: 'json' },
        out: { type: 'string' },
        'key-file': { type: 'string' },
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

function choiceOf(benchmark: Benchmark, profile: string | null, set: readonly (readonly [string, string])[]): Choice {
  try {
    rulesOf(benchmark, profile)
    const values = set.flatMap(([name, text]) => {
      const value = benchmark.source.values[name]
      return value ? [[name, checkValue(name, value, text)] as const] : []
    })
    return { benchmark, profile, values: Object.fromEntries(values) }
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error))
  }
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
  switch (format) {
    case 'csv':
      return writeCsv(document)
    case 'sarif':
      return writeSarif(document, sources)
    case 'html':
      return writeHtml(makeReport(document, sources, frameworks(), { title: 'Evidence report', engagement: null, madeAt: new Date().toISOString() }))
    default:
      return `${JSON.stringify(document, null, 2)}\n`
  }
}

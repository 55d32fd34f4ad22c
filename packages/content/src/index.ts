/**
 * The data that ships with the product, read from its files: benchmarks, frameworks, and the identity of this build.
 */
import { createHash } from 'node:crypto'
import { existsSync, readFileSync, readdirSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import {
  benchmarkAsRead,
  benchmarkSchema,
  frameworkSchema,
  readBenchmark,
  type Benchmark,
  type BenchmarkSource,
  type Framework,
} from '@jurybox/core/benchmarks'
import { readChecks, type ChecksFile } from '@jurybox/core/checks'
import { readFeatures, type Feature } from '@jurybox/core/references'
import { parse } from 'yaml'
import { z } from 'zod'

const root = new URL('..', import.meta.url)
const core = new URL('../../core/src/', import.meta.url)

/** A benchmark that ships, with its text. */
export interface ShippedBenchmark {
  readonly benchmark: Benchmark
  readonly text: string
}

/** The benchmarks that ship. Compiled code has kept them as they were read, since reading YAML takes longest of all. */
export function shippedBenchmarks(): ShippedBenchmark[] {
  const kept = keptBenchmarks()
  return benchmarkTexts().map(({ text }) => {
    const source = kept[digestOf(text)]
    return { benchmark: source ? benchmarkAsRead(source, text) : readBenchmark(text), text }
  })
}

/** Beside compiled code only, and by the digest of the text, so that nothing is of other code or of another text. */
function keptBenchmarks(): Readonly<Record<string, BenchmarkSource>> {
  const file = new URL('benchmarks.json', import.meta.url)
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Record<string, BenchmarkSource>) : {}
}

/** The benchmarks that ship as they are read, by the digest of their texts. */
export function benchmarksToKeep(): Record<string, BenchmarkSource> {
  return Object.fromEntries(benchmarkTexts().map(({ text }) => [digestOf(text), readBenchmark(text).source]))
}

/** @returns SHA-256 in hexadecimal digits */
function digestOf(text: string): string {
  return createHash('sha256').update(text).digest('hex')
}

/**
 * Texts of the benchmarks that ship, by file name. A large one is a folder: its head (`benchmark.yaml`), which names
 * its topics, and a file of rules for each topic.
 */
export function benchmarkTexts(): { file: string; text: string }[] {
  const folders = readdirSync(new URL('benchmarks/', root), { withFileTypes: true }).filter((entry) =>
    entry.isDirectory(),
  )
  return [
    ...folders.map(({ name }) => ({ file: `${name}.yaml`, text: joined(`benchmarks/${name}/`) })),
    ...yamlFiles('benchmarks/'),
  ]
}

function joined(folder: string): string {
  const read = (file: string): string => readFileSync(new URL(folder + file, root), 'utf8')
  const head = read('benchmark.yaml')
  const topics = benchmarkSchema.shape.topics.parse((parse(head) as { readonly topics?: unknown }).topics)
  return `${head}\nrules:\n${topics.map((topic) => read(`${topic.toLowerCase().replace(/\W+/g, '-')}.yaml`)).join('\n')}`
}

const glossarySchema = z.array(z.strictObject({ term: z.string().min(1), meaning: z.string().min(1) }))
export type GlossaryEntry = z.infer<typeof glossarySchema>[number]

/** The words of the product, in the order of their letters. */
export function glossary(): GlossaryEntry[] {
  return glossarySchema.parse(parse(readFileSync(new URL('glossary.yaml', root), 'utf8')))
}

/** The checks on change that ship, and the sets by kinds of work. */
export function shippedChecks(): ChecksFile {
  const files = yamlFiles('checks/').map(({ file, text }) => readChecks({ path: file, text }))
  return { checks: files.flatMap(({ checks }) => checks), sets: files.flatMap(({ sets }) => sets) }
}

/** The features that references are made for. */
export function features(): readonly Feature[] {
  const path = 'features.yaml'
  return readFeatures({ path, text: readFileSync(new URL(path, root), 'utf8') })
}

export function frameworks(): Framework[] {
  return yamlFiles('frameworks/').map(({ text }) => frameworkSchema.parse(parse(text)))
}

function yamlFiles(folder: string): { file: string; text: string }[] {
  const directory = new URL(folder, root)
  return readdirSync(directory)
    .filter((name) => name.endsWith('.yaml'))
    .sort()
    .map((file) => ({ file, text: readFileSync(new URL(file, directory), 'utf8') }))
}

/**
 * Twelve hexadecimal digits that change with any source of the core or its content: part of every verdict's identity.
 */
export function buildId(): string {
  const hash = createHash('sha256')
  for (const directory of [core, ...['benchmarks/', 'checks/', 'frameworks/'].map((name) => new URL(name, root))]) {
    const names = readdirSync(directory, { recursive: true, encoding: 'utf8' })
      .filter((name) => /\.(?:ts|yaml)$/.test(name))
      .sort()
    for (const name of names)
      hash
        .update(name)
        .update('\0')
        .update(readFileSync(fileURLToPath(new URL(name.replaceAll('\\', '/'), directory))))
  }
  return hash.digest('hex').slice(0, 12)
}

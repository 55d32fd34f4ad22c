/** Work on the records of a device, and on texts of rules, in threads of their own: nobody else waits for it. */
import type { Condition } from '@jurybox/core/rules'
import {
  detectDialect,
  dialectById,
  maskWithKey,
  prepare,
  readBenchmark,
  readExpectations,
  type Benchmark,
  type Expectation,
} from '@jurybox/core'
import { DeviceAnalysis, stateOfDevice } from '@jurybox/core/analysis'
import { readRecord } from '@jurybox/core/snapshot'
import { widestProfile } from '@jurybox/core/audit'
import { citeLines, pastedBlock, pastedPrefixes } from '@jurybox/core/authoring'
import type { CompiledBenchmark } from '@jurybox/core/benchmarks'
import { readChecks, selectedChecks } from '@jurybox/core/checks'
import { readNoise } from '@jurybox/core/compare'
import { exampleFaults, readReferences } from '@jurybox/core/references'
import { shippedChecks } from '@jurybox/content'
import { readLinksFile } from '@jurybox/core/forwarding'
import { CompanionFileError, CoreError, type Fault } from '@jurybox/core/syntax'
import { readOf, type TaskRecord } from '../analysis/task-records.ts'

/** The device model with the lines of its values; null where no record is a configuration. */
export function deviceModel({
  dialect: id,
  records,
  maskKey,
}: {
  readonly dialect: string
  readonly records: readonly TaskRecord[]
  readonly maskKey: Uint8Array
}) {
  const dialect = dialectById(id)
  const { judged, modelled } = dialect ? new DeviceAnalysis(dialect, records.map(readOf), maskWithKey(maskKey)) : {}
  if (!judged || !modelled) return null
  const { model, origins, unread } = modelled
  const looksLike = detectDialect(judged.tree.lines.text)
  const found = looksLike.ok ? { dialect: looksLike.dialect.id, share: looksLike.share } : null
  return plain({ looksLike: found, model, origins: Object.fromEntries(origins), unread })
}

/** What a device was doing, with the lines of its values. */
export function deviceState(records: readonly TaskRecord[]) {
  const { state, origins, records: read } = stateOfDevice(records.map(readOf))
  return { state, origins: Object.fromEntries(origins), records: read }
}

/** Data alone, as it can go from one thread to another. */
function plain<T>(value: T): T {
  return JSON.parse(JSON.stringify(value)) as T
}

/** What is wrong in each text, read in a dialect. */
export function faultsIn({
  texts,
  dialect,
}: {
  readonly texts: readonly string[]
  readonly dialect: string
}): Fault[][] {
  return texts.map((text) => readRecord(text, dialect).faults.map((fault) => ({ ...fault })))
}

/** Lines of a record as they hold, ready for a condition. */
export function citedLines({
  text,
  dialect,
  lines,
  maskKey,
}: {
  readonly text: string
  readonly dialect: string
  readonly lines: readonly number[]
  readonly maskKey: Uint8Array
}): ReturnType<typeof citeLines> {
  return citeLines(readRecord(text, dialect), lines, maskWithKey(maskKey))
}

export type Pasted =
  { readonly condition: Condition; readonly wrong: null } | { readonly condition: null; readonly wrong: string }

/** A pasted part of a listing as one condition. @param like a record with a line that serves as an example */
export function pasted({
  text,
  dialect,
  like,
  maskKey,
}: {
  readonly text: string
  readonly dialect: string
  readonly like: { readonly text: string; readonly dialect: string; readonly line: number } | null
  readonly maskKey: Uint8Array
}): Pasted {
  try {
    if (like === null) return { condition: pastedBlock(text, dialect), wrong: null }
    const [line] = citeLines(readRecord(like.text, like.dialect), [like.line], maskWithKey(maskKey)).lines
    return line
      ? { condition: pastedPrefixes(text, line), wrong: null }
      : { condition: null, wrong: 'Select a line as an example' }
  } catch (error) {
    return { condition: null, wrong: error instanceof Error ? error.message : String(error) }
  }
}

export type Stated =
  | { readonly wrong: null; readonly expectations: readonly Expectation[] }
  | { readonly wrong: string; readonly expectations: null }

/** What people state of links, or expect of traffic. Of links nothing is returned: the network reads them itself. */
export function stated({ kind, text }: { readonly kind: 'links' | 'expectations'; readonly text: string }): Stated {
  try {
    if (kind === 'expectations') {
      return { wrong: null, expectations: plain(readExpectations({ path: 'expectations.yaml', text })) }
    }
    readLinksFile({ path: 'links.yaml', text })
    return { wrong: null, expectations: [] }
  } catch (error) {
    if (!(error instanceof CompanionFileError)) throw error
    return { wrong: error.message, expectations: null }
  }
}

/** What is wrong with a file about changes; null where nothing is. Examples of references are tried. */
export function changeFile({
  kind,
  text,
}: {
  readonly kind: 'noise' | 'checks' | 'references'
  readonly text: string
}): string | null {
  const file = { path: `${kind}.yaml`, text }
  try {
    if (kind === 'noise') readNoise(file)
    else if (kind === 'checks') {
      const { checks, sets } = readChecks(file)
      const all = [...checks, ...shippedChecks().checks]
      for (const set of sets) selectedChecks(set, all)
    } else return readReferences(file).flatMap(exampleFaults)[0] ?? null
    return null
  } catch (error) {
    if (!(error instanceof CoreError)) throw error
    return error.message
  }
}

export type Draft =
  | {
      readonly wrong: null
      readonly source: Benchmark['source']
      readonly hash: string
      readonly needs: CompiledBenchmark['needs']
    }
  | { readonly wrong: string; readonly source: null }

/** A text that is being written: the benchmark that it is, or where it is wrong and what was expected there. */
export function draft(text: string): Draft {
  try {
    const benchmark = readBenchmark(text)
    const { needs } = prepare({ benchmark, profile: widestProfile(benchmark), values: {} })
    return { wrong: null, source: benchmark.source, hash: benchmark.hash, needs }
  } catch (error) {
    return { wrong: error instanceof Error ? error.message : String(error), source: null }
  }
}

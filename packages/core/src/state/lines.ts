import { PhysicalLines } from '../syntax/index.ts'
import type { Writer } from '../model/index.ts'
import type { DeviceState } from './schema.ts'

/**
 * One way to say one thing on one line of an output; `apply` may use what earlier lines of the same output have set.
 */
export interface LineTemplate {
  /** Plain regular expression without nested repetition, so that it takes time linear in the line. */
  readonly line: RegExp
  readonly apply: (
    write: Writer<DeviceState>,
    groups: Readonly<Record<string, string>>,
    memory: Map<string, string>,
  ) => void
}

/** An output as a table of templates: a format is added as data. */
export interface OutputForm {
  readonly id: string
  /** Kinds of record (`state/<kind>`) that can hold it. */
  readonly kinds: readonly string[]
  /** What tells it from other forms of the same kind. */
  readonly looksLike: RegExp
  readonly templates: readonly LineTemplate[]
  /** Lines that are headings, legends and the like. */
  readonly noted: RegExp
}

/** Longer lines are no output of a command; they are left unread. */
const LONGEST = 2_000

/** Reads an output line by line; returns the lines that no template matched, counted from 1. */
export function readLines(text: string, form: OutputForm, write: Writer<DeviceState>): number[] {
  const lines = new PhysicalLines(text)
  const unread: number[] = []
  const memory = new Map<string, string>()
  for (let at = 0; at < lines.length; at++) {
    const line = lines.at(at).trimEnd()
    if (line.trim() === '') continue
    write.provenance.nodes = [{ line: at + 1, lastLine: at + 1 }]
    if (line.length > LONGEST || !applyFirst(line, form, write, memory)) {
      if (line.length > LONGEST || !form.noted.test(line)) unread.push(at + 1)
    }
  }
  write.provenance.nodes = []
  return unread
}

function applyFirst(
  line: string,
  { templates }: OutputForm,
  write: Writer<DeviceState>,
  memory: Map<string, string>,
): boolean {
  for (const { line: shape, apply } of templates) {
    const found = shape.exec(line)
    if (!found) continue
    apply(
      write,
      Object.fromEntries(Object.entries(found.groups ?? {}).map(([name, value]) => [name, value ?? ''])),
      memory,
    )
    return true
  }
  return false
}

import papaparse from 'papaparse'
import { z } from 'zod'
import { csvOf } from '../syntax/index.ts'
import { compileExpression, type DeviceContext, type Expression } from '../rules/index.ts'

export const LABEL_TYPES = ['text', 'number', 'date', 'person', 'choice', 'flag'] as const
export type LabelType = (typeof LABEL_TYPES)[number]
export type LabelValue = string | number | boolean

/** A fact that people attach to devices, as an engagement defines it. */
export const labelSchema = z
  .strictObject({
    name: z
      .string()
      .regex(/^[a-z]\w{0,59}$/, 'a name of small letters, digits and _, beginning with a letter')
      .refine((name) => !(name in {}), 'another name: this one means something else'),
    type: z.enum(LABEL_TYPES),
    /** What may be chosen. */
    choices: z.array(z.string().trim().min(1).max(120)).max(100).default([]),
    note: z.string().max(500).default(''),
    /** CEL over `device` that gives the value; where it cannot be evaluated the label stays as it is. */
    sets: z.string().max(500).nullable().default(null),
  })
  .superRefine(({ type, choices, sets }, context) => {
    if ((type === 'choice') !== choices.length > 0)
      context.addIssue({
        code: 'custom',
        path: ['choices'],
        message: type === 'choice' ? 'expected choices' : 'only a choice has choices',
      })
    if (sets === null) return
    try {
      compileExpression(sets)
    } catch (error) {
      context.addIssue({
        code: 'custom',
        path: ['sets'],
        message: error instanceof Error ? error.message : String(error),
      })
    }
  })
export type LabelDefinition = z.infer<typeof labelSchema>

export type LabelReading =
  { readonly ok: true; readonly value: LabelValue | null } | { readonly ok: false; readonly expected: string }

/** A value as it is typed, or as a file states it; nothing takes the label away. */
export function readLabel(
  { type, choices }: Pick<LabelDefinition, 'type' | 'choices'>,
  given: LabelValue | null,
): LabelReading {
  const text = given === null ? '' : String(given).trim()
  if (text === '') return { ok: true, value: null }
  switch (type) {
    case 'number':
      return /^-?\d+(?:\.\d+)?$/.test(text)
        ? { ok: true, value: Number(text) }
        : { ok: false, expected: 'a number, such as 12 or 0.5' }
    case 'date':
      return isDate(text) ? { ok: true, value: text } : { ok: false, expected: 'a date, such as 2026-11-30' }
    case 'flag':
      return /^(?:true|yes)$/i.test(text)
        ? { ok: true, value: true }
        : /^(?:false|no)$/i.test(text)
          ? { ok: true, value: false }
          : { ok: false, expected: 'yes or no' }
    case 'choice':
      return choices.includes(text)
        ? { ok: true, value: text }
        : { ok: false, expected: `one of ${choices.join(', ')}` }
    default:
      return text.length <= 500 ? { ok: true, value: text } : { ok: false, expected: 'at most 500 characters' }
  }
}

/** A day of the calendar as RFC 3339 writes it (`full-date`). */
function isDate(text: string): boolean {
  const time = /^\d{4}-\d{2}-\d{2}$/.test(text) ? Date.parse(`${text}T00:00:00Z`) : NaN
  return !Number.isNaN(time) && new Date(time).toISOString().startsWith(text)
}

/** A device as labels see it. */
export interface LabelledDevice {
  readonly name: string
  readonly dialect: string
  readonly facts: DeviceContext
}

/** One label of one device that is, or would be, another one. */
export interface LabelChange {
  readonly device: string
  readonly label: string
  readonly before: LabelValue | null
  readonly after: LabelValue | null
}

/**
 * What the labels that are set from facts come to.
 * @param byPerson whether a person has set a label of a device: what people say stays
 */
export function setFromFacts(
  definitions: readonly LabelDefinition[],
  devices: readonly LabelledDevice[],
  byPerson: (device: string, label: string) => boolean,
): {
  readonly changes: LabelChange[]
  readonly refused: { readonly device: string; readonly label: string; readonly reason: string }[]
} {
  const changes: LabelChange[] = []
  const refused: { device: string; label: string; reason: string }[] = []
  for (const definition of definitions) {
    if (definition.sets === null) continue
    const expression = compileExpression(definition.sets)
    for (const device of devices) {
      if (byPerson(device.name, definition.name)) continue
      const given = valueOf(expression, device)
      if (given === undefined) continue
      const read = readLabel(definition, given)
      if (!read.ok)
        refused.push({
          device: device.name,
          label: definition.name,
          reason: `“${String(given)}” (expected ${read.expected})`,
        })
      else if (read.value !== (device.facts.labels[definition.name] ?? null))
        changes.push({
          device: device.name,
          label: definition.name,
          before: device.facts.labels[definition.name] ?? null,
          after: read.value,
        })
    }
  }
  return { changes, refused }
}

/** Undefined where the expression cannot be evaluated: a fact that it asks for is not stated. */
function valueOf(expression: Expression, { name, dialect, facts }: LabelledDevice): LabelValue | null | undefined {
  let value: unknown
  try {
    value = expression.evaluate({ device: { name, dialect, groups: [], ...facts } })
  } catch {
    // A fact that is not stated: nothing is concluded from it.
    return undefined
  }
  if (typeof value === 'bigint') return Number(value)
  return value === null || typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean'
    ? value
    : undefined
}

/** Facts that a list of devices states beside labels. */
const FACTS = ['site', 'role', 'model', 'os', 'version', 'managementAddress'] as const
type FactName = (typeof FACTS)[number]

/** Facts of devices as people state them. */
export type StatedDevice = LabelledDevice & { readonly facts: { readonly managementAddress?: string | undefined } }

/** Devices with their labels as CSV (RFC 4180): `device`, facts, then `label:NAME` for each label. */
export function writeDevices(devices: readonly StatedDevice[], labels: readonly string[]): string {
  const fields = ['device', 'dialect', ...FACTS, ...labels.map((label) => `label:${label}`)]
  const data = devices.map(({ name, dialect, facts }) => [
    name,
    dialect,
    ...FACTS.map((fact) => facts[fact] ?? ''),
    ...labels.map((label) => cellOf(facts.labels[label])),
  ])
  return csvOf(fields, data)
}

function cellOf(value: LabelValue | undefined): string {
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : value === undefined ? '' : String(value)
}

export interface DeviceImport {
  readonly labels: readonly LabelChange[]
  readonly facts: readonly {
    readonly device: string
    readonly fact: FactName
    readonly before: string | null
    readonly after: string
  }[]
  /** Lines that were not taken, counted from 1, with what was expected there. */
  readonly refused: readonly { readonly line: number; readonly reason: string }[]
}

/**
 * What a list of devices would change. Cells that are empty leave what is there; a column that is not known is refused
 * as a whole.
 * @param text CSV with a first line of names, as `writeDevices` gives it
 */
export function readDevices(
  text: string,
  devices: readonly StatedDevice[],
  definitions: readonly LabelDefinition[],
): DeviceImport {
  const refused: { line: number; reason: string }[] = []
  const labels: LabelChange[] = []
  const facts: { device: string; fact: FactName; before: string | null; after: string }[] = []
  const { data, errors } = papaparse.parse<string[]>(text.replace(/^\ufeff/, ''), { skipEmptyLines: false })
  const [head = [], ...rows] = data
  const columns = head.map((cell) => cell.trim())
  for (const { row, message } of errors)
    if (message !== "Unable to auto-detect delimiting character; defaulted to ','")
      refused.push({ line: (row ?? 0) + 1, reason: message })
  const device = columns.findIndex((column) => /^(?:device|name)$/i.test(column))
  if (device < 0)
    return {
      labels,
      facts,
      refused: [{ line: 1, reason: 'there is no column “device” (expected a first line with the names of columns)' }],
    }
  const known = new Map(definitions.map((definition) => [`label:${definition.name}`, definition]))
  for (const [i, column] of columns.entries()) {
    if (
      i === device ||
      column === '' ||
      column === 'dialect' ||
      known.has(column) ||
      (FACTS as readonly string[]).includes(column)
    )
      continue
    refused.push({
      line: 1,
      reason: `column “${column}” is not a fact (${FACTS.join(', ')}) or a label of this engagement (label:NAME)`,
    })
  }
  const byName = new Map(devices.map((one) => [one.name, one]))
  const seen = new Set<string>()
  rows.forEach((cells, i) => {
    const line = i + 2
    if (cells.every((cell) => cell.trim() === '')) return
    const name = plain(cells[device] ?? '')
    const one = byName.get(name)
    if (!one || seen.has(name))
      return void refused.push({
        line,
        reason: one ? `“${name}” has a duplicate line` : `there is no device “${name}”`,
      })
    seen.add(name)
    columns.forEach((column, at) => {
      const cell = plain(cells[at] ?? '')
      if (cell === '') return
      const definition = known.get(column)
      if (definition) {
        const read = readLabel(definition, cell)
        const before = one.facts.labels[definition.name] ?? null
        if (!read.ok)
          refused.push({
            line,
            reason: `“${cell}” is not a ${definition.type} for ${definition.name} (expected ${read.expected})`,
          })
        else if (read.value !== before) labels.push({ device: name, label: definition.name, before, after: read.value })
      } else if ((FACTS as readonly string[]).includes(column)) {
        const fact = column as FactName
        if (cell !== one.facts[fact]) facts.push({ device: name, fact, before: one.facts[fact] ?? null, after: cell })
      }
    })
  })
  return { labels, facts, refused: refused.sort((a, b) => a.line - b.line) }
}

/** Without the sign that keeps a spreadsheet from running a cell. */
function plain(cell: string): string {
  return cell.trim().replace(/^'(?=[=+\-@])/, '')
}

/** Places in places: the sites around a site, itself first. A circle ends where it closes. */
export function sitesAround(site: string, parentOf: ReadonlyMap<string, string | null>): string[] {
  const found: string[] = []
  for (let at: string | null = site; at !== null && !found.includes(at); at = parentOf.get(at) ?? null) found.push(at)
  return found
}

import { dialectById, maskLine, type Fault, type LocatedTree, type Mask, type Scope, type Statement } from '../config/index.ts'
import { blank } from './blank.ts'
import { DEFAULTS, type Default } from './defaults.ts'
import { HeldConfig } from './held-config.ts'
import { readHierarchyModel } from './hierarchy/index.ts'
import { readDataModel } from './data.ts'
import { readLinuxModel } from './linux.ts'
import { readIndentedModel } from './indented/index.ts'
import type { Origin, Origins } from './origins.ts'
import { deviceModelSchema, type DeviceModel } from './schema/index.ts'
import { Sheet, Writer } from './writer.ts'

/** A line that no reader used, with the block it stands in. */
export interface UnreadLine {
  readonly line: number
  readonly text: string
  readonly block: string | null
}

/** The model of one device, where its values are from, and what of its listing was of no use. */
export interface ModelledDevice {
  readonly model: DeviceModel
  readonly origins: Origins
  /** In the order of their lines; texts masked. */
  readonly unread: readonly UnreadLine[]
  /** Why the record is not whole, if it is not: what is absent from the model is then not known to be absent. */
  readonly faults: readonly Fault[]
}

export interface ModelOptions {
  /** Name of the record in origins. */
  readonly record: string
  readonly mask: Mask
  /** Whether the listing shows defaults: then what is silent is not there at all. */
  readonly listing?: 'ordinary' | 'full'
}

const READERS: Readonly<Record<string, (held: HeldConfig, write: Writer<DeviceModel>) => void>> = {
  indented: readIndentedModel,
  braced: readHierarchyModel,
  setlines: readHierarchyModel,
  data: readDataModel,
  linux: readLinuxModel,
}

/** The lines of a listing that no reader used, counted from 1. */
export function unreadLinesOf(tree: LocatedTree): number[] {
  const dialect = dialectById(tree.dialect)
  return dialect ? modelOf(HeldConfig.of(tree, dialect), { record: '', mask: () => '' }).unread.map(({ line }) => line) : [...tree.unread]
}

/** Makes the device model of a configuration. Never throws: what no reader understands is listed in `unread`. */
export function modelOf(held: HeldConfig, { record, mask, listing = 'ordinary' }: ModelOptions): ModelledDevice {
  const model = blank(deviceModelSchema)
  model.dialect = held.dialect.id
  model.listing = listing
  const sheet = new Sheet(record, mask)
  READERS[held.dialect.id]?.(held, new Writer(model, deviceModelSchema, '', sheet))
  if (listing === 'ordinary') for (const entry of DEFAULTS[held.dialect.id === 'setlines' ? 'braced' : held.dialect.id] ?? []) applyDefault(model, entry, sheet.origins)
  return { model, origins: sheet.origins, unread: unreadLines(held, sheet.used, mask), faults: held.tree.faults }
}

function applyDefault(model: DeviceModel, { path, value, source }: Default, origins: Map<string, Origin>): void {
  const steps = path.split('.')
  const visit = (at: unknown, step: number, here: string): void => {
    const name = steps[step] ?? ''
    if (typeof at !== 'object' || at === null) return
    if (name === '*') {
      if (Array.isArray(at)) at.forEach((item, i) => visit(item, step + 1, `${here}[${i}]`))
      return
    }
    const whole = here === '' ? name : `${here}.${name}`
    const holder = at as Record<string, unknown>
    if (step < steps.length - 1) visit(holder[name], step + 1, whole)
    else if (holder[name] === null) {
      holder[name] = value
      origins.set(whole, { kind: 'default', source })
    }
  }
  visit(model, 0, '')
}

function unreadLines({ scope, tree, dialect }: HeldConfig, used: ReadonlySet<Statement>, mask: Mask): UnreadLine[] {
  const lines = new Map<number, UnreadLine>()
  const collect = (at: Scope, block: string | null): void => {
    for (const statement of at.statements) {
      if (!used.has(statement)) {
        for (const node of statement.nodes) lines.set(node.line, { line: node.line, text: maskLine(node.text, block, dialect, mask), block: node.parent?.text ?? block })
      }
      if (statement.scope) collect(statement.scope, statement.text)
    }
  }
  collect(scope, null)
  for (const line of tree.unread) if (!lines.has(line)) lines.set(line, { line, text: maskLine(tree.lines.at(line - 1).trim(), null, dialect, mask), block: null })
  return [...lines.values()].sort((a, b) => a.line - b.line)
}

/** Outputs of commands, in text and JSON, as one state of the device with the lines that each value is from. */
import { PhysicalLines, parseJson, parseXml, type LocatedValue } from '../syntax/index.ts'
import { ROOT, ProvenanceRecorder, Writer, blank, type Origins } from '../model/index.ts'
import { JSON_FORMS } from './json.ts'
import { HEALTH } from './health.ts'
import { readLines, type OutputForm } from './lines.ts'
import { OUTPUTS } from './outputs.ts'
import { CONTROL } from './control.ts'
import { PROTECTION } from './protection.ts'
import { deviceStateSchema, type DeviceState } from './schema.ts'

/** Forms of output that devices of several dialects have. */
const COMMON_FORMS: readonly OutputForm[] = [...OUTPUTS, ...PROTECTION, ...HEALTH, ...CONTROL]

export interface StateReading {
  readonly state: DeviceState
  readonly origins: Origins
  /** For each record: the form that was recognised, or why none was; and the lines that nothing was made of. */
  readonly records: readonly {
    readonly record: string
    readonly form: string | null
    readonly reason: string | null
    readonly unread: readonly number[]
  }[]
}

/**
 * Reads the outputs of one device together. Never throws.
 * @param outputs `kind` without `state/`, as in the snapshot's folder
 * @param own forms that are asked before those that are common
 */
export function readOutputs(
  outputs: readonly { readonly record: string; readonly kind: string; readonly text: string }[],
  own: readonly OutputForm[],
): StateReading {
  const forms = [...own, ...COMMON_FORMS]
  const state = blank(deviceStateSchema)
  const origins = new Map<string, Origins extends ReadonlyMap<string, infer O> ? O : never>()
  const records = outputs.map(({ record, kind, text }) => {
    const provenance = new ProvenanceRecorder(record, () => '')
    const reading = readOutput(kind, text, forms, new Writer(state, deviceStateSchema, ROOT, provenance))
    for (const [path, origin] of provenance.origins.all) origins.set(path, origin)
    return { record, ...reading }
  })
  return { state, origins, records }
}

function readOutput(
  kind: string,
  text: string,
  forms: readonly OutputForm[],
  write: Writer<DeviceState>,
): { form: string | null; reason: string | null; unread: number[] } {
  if (text.trim() === '') return { form: 'an empty output', reason: null, unread: [] }
  if (/^\s*[[{<]/.test(text)) {
    const xml = text.trimStart().startsWith('<')
    const { value, fault } = xml ? parseXml(text) : parseJson(text)
    const form = value && JSON_FORMS.find(({ fits }) => fits(value))
    // An empty list says that there is nothing, in whatever form.
    if (value?.type === 'array' && value.items.length === 0) return { form: 'an empty list', reason: null, unread: [] }
    if (!value || !form)
      return {
        form: null,
        reason: fault
          ? `not ${xml ? 'XML' : 'JSON'}: ${fault.reason}`
          : `${xml ? 'XML' : 'JSON'} of an unsupported form`,
        unread: [],
      }
    form.read(value, write, noteLines(text, write.provenance))
    write.provenance.nodes = []
    return { form: form.id, reason: fault?.reason ?? null, unread: [] }
  }
  const form = forms.find(({ kinds, looksLike }) => kinds.includes(kind) && looksLike.test(text))
  if (!form) return { form: null, reason: `no form of output "${kind}" was recognised`, unread: [] }
  return { form: form.id, reason: null, unread: readLines(text, form, write) }
}

function noteLines(text: string, provenance: ProvenanceRecorder): (value: LocatedValue) => void {
  const lines = new PhysicalLines(text)
  return ({ from, to }) => {
    const line = lines.lineAt(from)
    const last = lines.lineAt(Math.max(from, to - 1))
    const start = lines.starts[line] ?? 0
    provenance.nodes = [
      line === last
        ? { line: line + 1, lastLine: last + 1, columns: [from - start + 1, to - start] }
        : { line: line + 1, lastLine: last + 1 },
    ]
  }
}

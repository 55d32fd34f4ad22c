import { isMap, isSeq, parseDocument, YAMLSeq, type Document } from 'yaml'

/** What can be asked of traffic by a form, in the order in which it is offered. */
export const MUSTS = [
  'arrive',
  'not-arrive',
  'be-answered',
  'pass-through',
  'never-through',
  'protected',
  'paths',
] as const
export type MustKind = (typeof MUSTS)[number]

/** An expectation as fields. */
export interface ExpectationFields {
  readonly id: string
  readonly title: string
  readonly from: readonly string[]
  readonly to: readonly string[]
  readonly only: string
  readonly packets: 'first' | 'all'
  readonly must: MustKind
  /** Devices to pass or to avoid. */
  readonly through: readonly string[]
  readonly by: readonly string[]
  readonly algorithms: readonly string[]
  /** From one device to another, or none for every link. */
  readonly between: readonly string[]
  readonly paths: number
  readonly severity: string
  readonly references: readonly string[]
}

export const BLANK: ExpectationFields = {
  id: '',
  title: '',
  from: [],
  to: [],
  only: '',
  packets: 'first',
  must: 'arrive',
  through: [],
  by: ['ipsec', 'macsec'],
  algorithms: [],
  between: [],
  paths: 2,
  severity: 'medium',
  references: [],
}

/** An id as expectations have them. */
export function idFor(title: string): string {
  return title
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 60)
}

const oneOrMore = (all: readonly string[]): string | string[] => (all.length === 1 ? (all[0] ?? '') : [...all])

function mustOf({ must, through, by, algorithms, between, paths }: ExpectationFields): unknown {
  switch (must) {
    case 'pass-through':
    case 'never-through':
      return { [must]: oneOrMore(through) }
    case 'protected':
      return {
        protected: {
          by: [...by],
          ...(algorithms.length > 0 ? { algorithms: [...algorithms] } : {}),
          ...(between.length === 2 ? { between: [...between] } : {}),
        },
      }
    case 'paths':
      return { paths }
    default:
      return must
  }
}

/** As it stands in the file; what is as it would be without being written is not written. */
function written(fields: ExpectationFields): Record<string, unknown> {
  const { id, title, from, to, only, packets, severity, references } = fields
  return {
    id,
    title,
    from: oneOrMore(from),
    to: oneOrMore(to),
    ...(only.trim() === '' ? {} : { only: only.trim() }),
    ...(packets === 'first' ? {} : { packets }),
    must: mustOf(fields),
    ...(severity === 'medium' ? {} : { severity }),
    ...(references.length === 0 ? {} : { references: [...references] }),
  }
}

function listIn(document: Document): YAMLSeq {
  const all: unknown = document.get('expectations')
  if (isSeq(all)) {
    all.flow = false
    return all
  }
  const fresh = new YAMLSeq()
  document.set('expectations', fresh)
  return fresh
}

const placeOf = (all: YAMLSeq, id: string): number =>
  all.items.findIndex((item) => isMap(item) && String(item.get('id')) === id)

/**
 * The file with an expectation: in the place of another, or at the end. Everything else stays as it is written.
 * @param replaces id of the one that it replaces; null: it is added
 * @throws Error where the text is no YAML, or another expectation has the id
 */
export function withExpectation(text: string, fields: ExpectationFields, replaces: string | null): string {
  const document = documentOf(text)
  const all = listIn(document)
  const at = replaces === null ? -1 : placeOf(all, replaces)
  const taken = placeOf(all, fields.id)
  if (taken >= 0 && taken !== at) throw new Error(`There is already an expectation “${fields.id}”.`)
  const node = document.createNode(written(fields))
  if (at >= 0) all.items[at] = node
  else all.add(node)
  return document.toString({ lineWidth: 0 })
}

/** The file without an expectation. @throws Error where the text is no YAML */
export function withoutExpectation(text: string, id: string): string {
  const document = documentOf(text)
  const all = listIn(document)
  const at = placeOf(all, id)
  if (at >= 0) all.items.splice(at, 1)
  return document.toString({ lineWidth: 0 })
}

/** The fields of an expectation of the file; null where it has none of that id. @throws Error where it is no YAML */
export function fieldsOf(text: string, id: string): ExpectationFields | null {
  const all: unknown = (documentOf(text).toJS({ maxAliasCount: 50 }) as { expectations?: unknown } | null)?.expectations
  const found = (Array.isArray(all) ? all : []).find(
    (one): one is Record<string, unknown> =>
      typeof one === 'object' && one !== null && (one as { id?: unknown }).id === id,
  )
  if (!found) return null
  const list = (value: unknown): string[] => [value ?? []].flat().map(String)
  const must: unknown = found['must']
  const [kind, body] =
    typeof must === 'object' && must !== null ? (Object.entries(must)[0] ?? ['arrive', null]) : [String(must), null]
  const layer = (kind === 'protected' ? body : null) as Record<string, unknown> | null
  return {
    ...BLANK,
    id,
    title: String(found['title'] ?? ''),
    from: list(found['from']),
    to: list(found['to']),
    only: String(found['only'] ?? ''),
    packets: found['packets'] === 'all' ? 'all' : 'first',
    must: MUSTS.find((one) => one === kind) ?? 'arrive',
    through: kind === 'pass-through' || kind === 'never-through' ? list(body) : [],
    by: layer ? list(layer['by'] ?? BLANK.by) : BLANK.by,
    algorithms: list(layer?.['algorithms']),
    between: list(layer?.['between']),
    paths: kind === 'paths' ? Number(body) : BLANK.paths,
    severity: String(found['severity'] ?? 'medium'),
    references: list(found['references']),
  }
}

/** What the form still needs: a field, by its name; null where nothing is missing. */
export function missingField({
  title,
  id,
  from,
  to,
  must,
  through,
  by,
  between,
}: ExpectationFields): 'title' | 'id' | 'from' | 'to' | 'through' | 'by' | 'between' | null {
  if (title.trim() === '') return 'title'
  if (from.length === 0) return 'from'
  if (to.length === 0) return 'to'
  if (id === '') return 'id'
  if (must === 'pass-through' || must === 'never-through') return through.length > 0 ? null : 'through'
  if (must !== 'protected') return null
  return by.length === 0 ? 'by' : between.length === 1 ? 'between' : null
}

function documentOf(text: string): Document {
  const document = parseDocument(text.trim() === '' ? 'expectations: []\n' : text)
  if (document.errors[0]) throw new Error(document.errors[0].message.split('\n')[0])
  return document
}

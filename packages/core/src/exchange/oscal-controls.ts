/** Requirements, benchmarks and their fitting as OSCAL: catalogs, profiles and component definitions, in and out. */
import {
  frameworkSchema,
  statedSchema,
  type BenchmarkSource,
  type Fitting,
  type Framework,
  type Requirement,
} from '../benchmarks/index.ts'
import { OSCAL_VERSION, type OscalOf, type Prop } from './oscal-schema.ts'
import { NAMESPACE, idOf, token } from './uuid.ts'

export const REMARK = 'OSCAL 1.1 as remembered from its published models; not validated by their publisher.'

export function metadataOf(title: string, version: string, at: string): OscalOf<'catalog'>['metadata'] {
  return { title, 'last-modified': at, version, 'oscal-version': OSCAL_VERSION, remarks: REMARK }
}
export const prop = (name: string, value: string): Prop => ({ name, value, ns: NAMESPACE })
/** The value of a property; ours, or one of OSCAL itself. */
export function propOf(props: readonly Prop[] | undefined, name: string): string | undefined {
  return props?.find((one) => one.name === name && (one.ns === undefined || one.ns === NAMESPACE))?.value
}

const controlId = (framework: string, requirement: string): string => token(`${framework}_${requirement}`)
const ruleId = ({ id }: Pick<BenchmarkSource, 'id'>, rule: string): string => token(`${id}_${rule}`)
const valueId = ({ id }: Pick<BenchmarkSource, 'id'>, name: string): string => token(`${id}_value_${name}`)

/** The requirements of a framework. @param at RFC 3339 */
export function frameworkCatalog(framework: Framework, at: string): OscalOf<'catalog'> {
  const { id, title, remark, parts, requirements } = framework
  const partOf = (number: string): string => Object.keys(parts).find((begin) => number.startsWith(begin)) ?? ''
  const numbers = Object.keys(requirements)
  const groups = [...new Set(numbers.map(partOf))].map((begin) => ({
    id: token(`${id}_part_${begin}`),
    title: parts[begin] ?? title,
    props: [prop('begin', begin === '' ? '-' : begin)],
    controls: numbers
      .filter((number) => partOf(number) === begin)
      .map((number) => {
        const own = requirements[number]
        return {
          id: controlId(id, number),
          title: own?.title ?? number,
          props: [
            { name: 'label', value: number },
            ...(own?.by === undefined ? [] : [prop('decided-by', own.by)]),
            ...(own?.same ?? []).map((same) => prop('same-as', same)),
            ...(own?.traffic === undefined ? [] : [prop('traffic', own.traffic)]),
            ...(own?.group === undefined ? [] : [prop('group', own.group)]),
            ...(own?.review === undefined ? [] : [prop('review-days', String(own.review))]),
          ],
        }
      }),
  }))
  return {
    uuid: idOf('catalog', 'framework', id),
    metadata: {
      ...metadataOf(title, '1', at),
      props: [prop('framework', id), ...(remark === '' ? [] : [prop('remark', remark)])],
    },
    groups,
  }
}

/** A framework out of a catalog, and what of the catalog it does not hold. */
export function readFrameworkCatalog(catalog: OscalOf<'catalog'>): {
  readonly framework: Framework
  readonly lost: readonly string[]
} {
  const about = catalog.metadata['props'] as readonly Prop[] | undefined
  const lost: string[] = []
  const parts: Record<string, string> = {}
  const requirements: Record<string, Requirement> = {}
  const groups = [...(catalog.groups ?? []), ...(catalog.controls ? [{ title: '', controls: catalog.controls }] : [])]
  for (const group of groups) {
    const begin = propOf((group as { props?: readonly Prop[] }).props, 'begin')
    if (begin !== undefined && begin !== '-') parts[begin] = group.title
    if ('groups' in group) lost.push(`groups within the group “${group.title}”`)
    for (const control of group.controls ?? []) {
      const number = propOf(control.props, 'label') ?? control.id
      if (number in requirements) lost.push(`${control.id}: its number ${number} is taken`)
      else requirements[number] = requirementOf(control)
      if (control.parts) lost.push(`prose of ${control.id}`)
      if (control.params) lost.push(`parameters of ${control.id}`)
      if ('controls' in control) lost.push(`controls within ${control.id}`)
    }
  }
  const framework = frameworkSchema.parse({
    id: propOf(about, 'framework') ?? `catalog-${catalog.uuid.toLowerCase()}`,
    title: catalog.metadata.title,
    remark: propOf(about, 'remark') ?? '',
    parts,
    requirements,
  })
  return { framework, lost }
}

/** What a property is called in a catalog where a framework calls it otherwise. */
const PROPERTIES: Readonly<Record<string, string>> = { by: 'decided-by', review: 'review-days', same: 'same-as' }

/** @throws Error that names the control and the property where one is not as expected */
function requirementOf({ id, title, props = [] }: Control): Requirement {
  const review = propOf(props, 'review-days')
  const [by, traffic, group] = ['decided-by', 'traffic', 'group'].map((name) => propOf(props, name))
  const read = statedSchema.safeParse({
    title,
    ...(by === undefined ? {} : { by }),
    ...(traffic === undefined ? {} : { traffic }),
    ...(group === undefined ? {} : { group }),
    ...(review === undefined ? {} : { review: Number(review) }),
    same: props.filter(({ name, ns }) => name === 'same-as' && ns === NAMESPACE).map(({ value }) => value),
  })
  if (read.success) return read.data
  const [issue] = read.error.issues
  const field = String(issue?.path[0] ?? '')
  throw new Error(`Control ${id}, property ${PROPERTIES[field] ?? field}: ${issue?.message ?? ''}`)
}

interface Control {
  readonly id: string
  readonly title: string
  readonly props?: readonly Prop[] | undefined
}

/** The rules of a benchmark as controls, with its values as parameters. */
export function benchmarkCatalog(source: BenchmarkSource, at: string): OscalOf<'catalog'> {
  const topics = [...new Set([...source.topics, ...source.rules.map(({ topic }) => topic)])]
  const params = Object.entries(source.values).map(([name, value]) => ({
    id: valueId(source, name),
    label: value.title,
    ...('default' in value && value.default !== undefined ? { values: [value.default].flat().map(String) } : {}),
  }))
  return {
    uuid: idOf('catalog', 'benchmark', source.id, source.version),
    metadata: { ...metadataOf(source.title, source.version, at), props: [prop('benchmark', source.id)] },
    ...(params.length > 0 ? { params } : {}),
    groups: topics
      .map((topic) => ({ topic, rules: source.rules.filter((rule) => rule.topic === topic) }))
      .filter(({ rules }) => rules.length > 0)
      .map(({ topic, rules }) => ({
        id: token(`${source.id}_topic_${topic}`),
        title: topic,
        controls: rules.map((rule) => ({
          id: ruleId(source, rule.id),
          title: rule.title,
          props: [
            { name: 'label', value: rule.id },
            prop('severity', rule.severity),
            prop('profile', rule.profile),
            ...rule.references.map((reference) => prop('reference', reference)),
          ],
          parts: [{ id: token(`${ruleId(source, rule.id)}_smt`), name: 'statement', prose: rule.statement }],
        })),
      })),
  }
}

/** A benchmark as it is fitted: which rules are judged, with which values and severities. */
export function fittingProfile(
  source: BenchmarkSource,
  { profile, values, tailoring }: Pick<Fitting, 'profile' | 'values' | 'tailoring'>,
  at: string,
): OscalOf<'profile'> {
  const left = tailoring.filter(({ selected }) => selected === false)
  const said = tailoring.filter(({ selected, severity }) => selected !== undefined || severity !== undefined)
  const alters = said.map(({ rule, selected, severity, reason, by }) => ({
    'control-id': ruleId(source, rule),
    adds: [
      {
        props: [
          ...(severity === undefined ? [] : [prop('severity', severity)]),
          ...(selected === true ? [prop('selected', 'yes')] : []),
          prop('reason', reason),
          ...(by === '' ? [] : [prop('by', by)]),
        ],
      },
    ],
  }))
  const set = Object.entries(values).map(([name, value]) => ({
    'param-id': valueId(source, name),
    values: [value].flat().map(String),
    props: [prop('kind', Array.isArray(value) ? 'list' : typeof value)],
  }))
  return {
    uuid: idOf('profile', source.id, source.version, JSON.stringify({ profile, values, tailoring })),
    metadata: {
      ...metadataOf(`${source.title}, as fitted`, source.version, at),
      props: [prop('benchmark', source.id), ...(profile === null ? [] : [prop('profile', profile)])],
    },
    imports: [
      {
        href: `#${idOf('catalog', 'benchmark', source.id, source.version)}`,
        'include-all': {},
        ...(left.length > 0
          ? { 'exclude-controls': [{ 'with-ids': left.map(({ rule }) => ruleId(source, rule)) }] }
          : {}),
      },
    ],
    ...(set.length + alters.length === 0
      ? {}
      : { modify: { ...(set.length > 0 ? { 'set-parameters': set } : {}), ...(alters.length > 0 ? { alters } : {}) } }),
    'back-matter': {
      resources: [
        {
          uuid: idOf('catalog', 'benchmark', source.id, source.version),
          title: source.title,
          rlinks: [{ href: `${source.id}.catalog.json` }],
        },
      ],
    },
  }
}

/**
 * The fitting that a profile says of a benchmark, and what of the profile it does not hold.
 * @throws Error for a control, a parameter or a severity that the benchmark does not have
 */
export function readFittingProfile(
  profile: OscalOf<'profile'>,
  source: BenchmarkSource,
): { readonly fitting: Fitting; readonly lost: readonly string[] } {
  const lost: string[] = []
  const rules = new Map(source.rules.map(({ id }) => [ruleId(source, id), id]))
  const values = new Map(Object.keys(source.values).map((name) => [valueId(source, name), name]))
  const ruleOf = (control: string): string => {
    const rule = rules.get(control) ?? source.rules.find(({ id }) => id === control)?.id
    if (rule === undefined) throw new Error(`The benchmark "${source.id}" has no control "${control}".`)
    return rule
  }
  const ids = (selection: readonly { 'with-ids'?: string[] | undefined }[] | undefined): string[] =>
    (selection ?? []).flatMap((one) => one['with-ids'] ?? [])
  const tailored = new Map<string, Fitting['tailoring'][number]>()
  const tailor = (rule: string, more: Partial<Fitting['tailoring'][number]>): void =>
    void tailored.set(rule, { rule, reason: 'As the profile says', by: '', ...tailored.get(rule), ...more })
  for (const imported of profile.imports) {
    const included = ids(imported['include-controls']).map(ruleOf)
    // What a profile does not include is not judged.
    if (included.length > 0)
      for (const { id } of source.rules) if (!included.includes(id)) tailor(id, { selected: false })
    for (const control of ids(imported['exclude-controls'])) tailor(ruleOf(control), { selected: false })
  }
  for (const { 'control-id': control, adds = [], ...rest } of profile.modify?.alters ?? []) {
    const props = adds.flatMap((one) => one.props ?? [])
    const severity = propOf(props, 'severity')
    if (severity !== undefined && !isSeverity(severity)) throw new Error(`"${severity}" is no severity (${control}).`)
    const [reason, by] = [propOf(props, 'reason'), propOf(props, 'by')]
    tailor(ruleOf(control), {
      ...(severity === undefined ? {} : { severity }),
      ...(propOf(props, 'selected') === 'yes' ? { selected: true } : {}),
      ...(reason === undefined ? {} : { reason }),
      ...(by === undefined ? {} : { by }),
    })
    if ('removes' in rest) lost.push(`what is removed from ${control}`)
  }
  const set: Fitting['values'] = {}
  for (const { 'param-id': id, values: given = [], ...rest } of profile.modify?.['set-parameters'] ?? []) {
    const name = values.get(id)
    if (name === undefined) throw new Error(`The benchmark "${source.id}" has no parameter "${id}".`)
    const kind =
      propOf((rest as { props?: readonly Prop[] }).props, 'kind') ??
      (source.values[name]?.type === 'int' ? 'number' : '')
    set[name] =
      kind === 'list' ? given : kind === 'number' ? Number(given[0]) : given.length === 1 ? (given[0] ?? '') : given
  }
  const about = profile.metadata['props'] as readonly Prop[] | undefined
  return {
    fitting: {
      benchmark: source.id,
      profile: propOf(about, 'profile') ?? null,
      values: set,
      overrides: [],
      tailoring: [...tailored.values()],
    },
    lost,
  }
}

const isSeverity = (text: string): text is BenchmarkSource['rules'][number]['severity'] =>
  ['high', 'medium', 'low', 'info'].includes(text)

/** What a benchmark checks of each framework that its rules and questions speak to. */
export function benchmarkComponents(
  source: BenchmarkSource,
  frameworks: readonly Framework[],
  at: string,
): OscalOf<'component-definition'> {
  const implementations = frameworks.flatMap(({ id, title }) => {
    const requirements = new Map<string, string[]>()
    for (const { id: own, references } of [...source.rules, ...source.attestations])
      for (const reference of references)
        if (reference.startsWith(`${id}:`)) {
          const number = reference.slice(id.length + 1)
          requirements.set(number, [...(requirements.get(number) ?? []), own])
        }
    if (requirements.size === 0) return []
    return [
      {
        uuid: idOf('implementation', source.id, source.version, id),
        source: `#${idOf('catalog', 'framework', id)}`,
        description:
          `What ${source.title} checks of ${title}; ` + 'a rule speaks to a requirement without deciding it whole.',
        'implemented-requirements': [...requirements].map(([number, rules]) => ({
          uuid: idOf('implemented', source.id, source.version, id, number),
          'control-id': controlId(id, number),
          description: rules.join(', '),
          props: rules.map((rule) => prop('checked-by', rule)),
        })),
      },
    ]
  })
  return {
    uuid: idOf('component-definition', source.id, source.version),
    metadata: metadataOf(source.title, source.version, at),
    components: [
      {
        uuid: idOf('component', source.id, source.version),
        type: 'validation',
        title: source.title,
        description: source.statement,
        ...(implementations.length > 0 ? { 'control-implementations': implementations } : {}),
      },
    ],
    'back-matter': {
      resources: frameworks.map(({ id, title }) => ({
        uuid: idOf('catalog', 'framework', id),
        title,
        rlinks: [{ href: `${id}.catalog.json` }],
      })),
    },
  }
}

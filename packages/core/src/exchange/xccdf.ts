/** XCCDF 1.2 (NIST IR 7275 revision 4) from memory: benchmark and results out, results in. */
import { SaxesParser } from 'saxes'
import type { AuditDocument, Verdict } from '../audit/index.ts'
import type { BenchmarkSource } from '../benchmarks/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { xmlCharacters } from '../syntax/index.ts'
import { outcomeSchema } from '../rules/index.ts'
import { verdictsIn, type Told } from './told.ts'

export const XCCDF = 'http://checklists.nist.gov/xccdf/1.2'
/** The product in identifiers: a name turned round, of a domain that nobody owns (RFC 2606). */
const OWNER = 'example.jurybox'
/** The target of what is of no single device. */
const NETWORK = '-'

const escaped = (text: string): string =>
  xmlCharacters(text)
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    // A line break within an attribute would come back as a space, and a carriage return as a line break.
    .replaceAll('\r', '&#13;')

function element(name: string, attributes: Readonly<Record<string, string>>, ...children: readonly string[]): string {
  const said = Object.entries(attributes)
    .map(([key, value]) => ` ${key}="${escaped(value).replaceAll('\n', '&#10;').replaceAll('\t', '&#9;')}"`)
    .join('')
  return children.length === 0 ? `<${name}${said}/>` : `<${name}${said}>${children.join('')}</${name}>`
}
const texts = (name: string, text: string): string => element(name, {}, escaped(text))
/** Identifiers are NCNames (XML Namespaces §3). */
const ncName = (text: string): string =>
  text.replace(/[^\p{L}\p{N}._-]/gu, (one) => `_x${one.codePointAt(0)?.toString(16) ?? ''}_`)
const idOf = (kind: string, name: string): string => `xccdf_${OWNER}_${kind}_${ncName(name)}`
const ruleId = (benchmark: string, rule: string): string => idOf('rule', `${benchmark}_${rule}`)

/** A rule as it stands in a document. */
interface Stated {
  readonly benchmark: string
  readonly rule: string
  readonly topic: string
  readonly title: string
  readonly statement: string
  readonly severity: Verdict['severity']
  readonly references: readonly string[]
}

/** A benchmark with its profiles, values and rules. */
export function writeXccdfBenchmark(source: BenchmarkSource): string {
  return documentOf({ id: source.id, title: source.title, statement: source.statement, version: source.version }, [
    ...profilesXml(source),
    ...groupsXml([source], []),
  ])
}

/** An audit: what it was judged by, and a result for each device. XCCDF has one benchmark to a document. */
export function writeXccdf(told: Told): string {
  const { document, benchmarks } = told
  const judged = judgedBy(document, benchmarks)
  const [only, ...more] = judged
  const head =
    only && more.length === 0
      ? { id: only.id, title: only.title, statement: only.statement, version: only.version }
      : { id: judged.map(({ id }) => id).join('_') || 'audit', title: told.title, statement: told.title, version: '1' }
  return documentOf(head, [
    ...(only && more.length === 0 ? profilesXml(only) : []),
    ...groupsXml(judged, document.expected),
    ...testResults(told, head),
  ])
}

interface Head {
  readonly id: string
  readonly title: string
  readonly statement: string
  readonly version: string
}

function documentOf({ id, title, statement, version }: Head, body: readonly string[]): string {
  return `<?xml version="1.0" encoding="UTF-8"?>\n${element(
    'Benchmark',
    { xmlns: XCCDF, id: idOf('benchmark', id), resolved: 'true', 'xml:lang': 'en' },
    element('status', {}, 'draft'),
    texts('title', title),
    texts('description', statement),
    texts('version', version),
    ...body,
  )}\n`
}

function profilesXml(source: BenchmarkSource): string[] {
  const ranks = source.profiles.map(({ id }) => id)
  const holds = (profile: string, rule: string): boolean => ranks.indexOf(rule) <= ranks.indexOf(profile)
  return [
    ...source.profiles.map(({ id, title }) =>
      element(
        'Profile',
        { id: idOf('profile', id) },
        texts('title', title),
        ...source.rules.map((rule) =>
          element('select', { idref: ruleId(source.id, rule.id), selected: String(holds(id, rule.profile)) }),
        ),
      ),
    ),
    ...Object.entries(source.values).map(([name, value]) =>
      element(
        'Value',
        { id: idOf('value', name), type: value.type === 'int' ? 'number' : 'string' },
        texts('title', value.title),
        texts('value', [value.default ?? ''].flat().join(' ')),
      ),
    ),
  ]
}

function groupsXml(sources: readonly BenchmarkSource[], expected: AuditDocument['expected']): string[] {
  const rules: Stated[] = [
    ...sources.flatMap(({ id: benchmark, rules: own }) => own.map((rule) => ({ ...rule, benchmark, rule: rule.id }))),
    ...expected.map((one) => ({ ...one, topic: 'Expectations of traffic' })),
  ]
  return [...grouped(rules, ({ benchmark, topic }) => `${benchmark}_${topic}`)].map(([name, own]) =>
    element('Group', { id: idOf('group', name) }, texts('title', own[0]?.topic ?? ''), ...own.map(ruleXml)),
  )
}

function ruleXml({ benchmark, rule, title, statement, severity, references }: Stated): string {
  return element(
    'Rule',
    { id: ruleId(benchmark, rule), severity, selected: 'true' },
    texts('title', title),
    texts('description', statement),
    ...references.map((reference) => texts('reference', reference)),
  )
}

/** One result for each device, as XCCDF has it: a result is of one target. */
function testResults(told: Told, { id, version }: Head): string[] {
  const { document, madeAt } = told
  return [...grouped(verdictsIn(told), ({ device }) => device)].map(([device, verdicts]) => {
    const applying = verdicts.filter(({ outcome }) => outcome !== 'notapplicable' && outcome !== 'notchecked')
    const passed = applying.filter(({ outcome }) => outcome === 'pass').length
    return element(
      'TestResult',
      { id: idOf('testresult', `${id}_${device}`), 'end-time': madeAt, version },
      element('benchmark', { href: `#${idOf('benchmark', id)}`, id: idOf('benchmark', id) }),
      texts('title', document.snapshot.title),
      texts('target', device === '' ? NETWORK : device),
      ...verdicts.map(({ benchmark, rule, outcome, severity, note }) =>
        element(
          'rule-result',
          { idref: ruleId(benchmark, rule), severity },
          texts('result', outcome),
          ...(note === ''
            ? []
            : [element('message', { severity: outcome === 'fail' ? 'error' : 'info' }, escaped(note))]),
        ),
      ),
      element('score', { system: 'urn:xccdf:scoring:flat', maximum: String(applying.length) }, String(passed)),
    )
  })
}

export interface XccdfOutcome {
  readonly device: string
  /** The identifier of the rule as the document has it. */
  readonly id: string
  readonly outcome: Verdict['outcome']
  readonly note: string
}
/** XCCDF has `notselected`, `informational` and `fixed` too, which no verdict has. */
const OUTCOMES = outcomeSchema.options

/**
 * The results that a document holds, also a document of somebody else.
 * @throws Error that says at which line it is no XCCDF
 */
export function readXccdf(text: string): {
  readonly outcomes: readonly XccdfOutcome[]
  readonly lost: readonly string[]
} {
  const parser = new SaxesParser({ xmlns: true, position: true })
  const outcomes: XccdfOutcome[] = []
  const lost: string[] = []
  const path: string[] = []
  let fault: string | null = null
  let said = ''
  let [device, id, outcome, note] = ['', '', '', '']
  parser.on('error', (error) => {
    fault ??= error.message.split('\n')[0] ?? ''
  })
  parser.on('opentag', (tag) => {
    if (path.length >= 64) fault ??= `line ${parser.line}: elements are nested deeper than 64`
    path.push(tag.uri === XCCDF ? tag.local : `{${tag.uri}}${tag.local}`)
    said = ''
    if (tag.local === 'TestResult') device = ''
    if (tag.local === 'rule-result') [id, outcome, note] = [tag.attributes['idref']?.value ?? '', '', '']
  })
  parser.on('text', (chars) => {
    said += chars
  })
  parser.on('closetag', () => {
    const name = path.pop()
    const around = path.at(-1)
    if (name === 'target' && around === 'TestResult') device = said.trim()
    if (name === 'result' && around === 'rule-result') outcome = said.trim()
    if (name === 'message' && around === 'rule-result') note = said
    if (name === 'override' && around === 'rule-result') lost.push(`the override of ${id}`)
    if (name !== 'rule-result') return
    const known = OUTCOMES.find((one) => one === outcome)
    if (known) outcomes.push({ device: device === NETWORK ? '' : device, id, outcome: known, note })
    else lost.push(`${id} on ${device}: the result “${outcome}”`)
  })
  for (let from = 0; from < text.length && fault === null; from += 65_536) parser.write(text.slice(from, from + 65_536))
  if (fault === null) parser.close()
  if (fault !== null) throw new Error(`The file is no XML: ${String(fault)}`)
  if (outcomes.length === 0 && lost.length === 0) throw new Error('The file holds no results of XCCDF 1.2.')
  return { outcomes, lost }
}

/** Which rule of a benchmark an identifier names; null where it is of somebody else. */
export function ruleOfXccdf(
  { benchmark, rules }: { benchmark: string; rules: readonly string[] },
  id: string,
): string | null {
  return rules.find((rule) => ruleId(benchmark, rule) === id) ?? null
}

/** The benchmarks of an audit that documents are written of. */
function judgedBy(document: AuditDocument, benchmarks: readonly BenchmarkSource[]): BenchmarkSource[] {
  return benchmarks.filter(({ id }) => document.benchmarks.some((one) => one.id === id))
}

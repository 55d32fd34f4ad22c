/** Comparisons of two snapshots as a document: JSON, plain text, Markdown and one HTML file. */
import type { CheckResult } from '../checks/index.ts'
import { rowWords, type Check } from '../checks/index.ts'
import {
  accessListWords,
  doubtWords,
  modelWords,
  stateWords,
  statementWords,
  type DeviceComparison,
} from '../compare/index.ts'
import { code, esc, htmlDocument } from './html-parts.ts'

/** A device of either side. */
export interface ComparedDevice {
  readonly name: string
  /** `unreadable`: what was captured could not be read on one side, so that nothing is said. */
  readonly standing: 'same' | 'changed' | 'added' | 'removed' | 'unreadable'
  /** Null where there is nothing to compare with. */
  readonly comparison: DeviceComparison | null
}

/** A connection with another fate, or another protection, in words. */
export interface ComparedFlow {
  readonly from: readonly string[]
  readonly to: readonly string[]
  readonly before: readonly string[]
  readonly after: readonly string[]
  readonly classes: readonly string[]
}

/** The checks of one device; of the network as a whole, `device` is null. */
export interface ComparedChecks {
  readonly device: string | null
  readonly results: readonly CheckResult[]
}

export interface ComparisonDocument {
  readonly schema: 1
  readonly title: string
  readonly a: { readonly title: string; readonly takenAt: string | null }
  readonly b: { readonly title: string; readonly takenAt: string | null }
  readonly devices: readonly ComparedDevice[]
  /** Null where they were not asked for. */
  readonly flows: readonly ComparedFlow[] | null
  readonly checks: readonly ComparedChecks[] | null
  /** What else is said of the comparison at its head. */
  readonly notes?: readonly string[]
}

/** Outcomes of checks that are objected to. */
const OBJECTED = new Set(['fail', 'unknown', 'error'])

/** Whether a document holds a check that failed or could not be decided; without checks, whether anything differs. */
export function hasObjection({ devices, flows, checks }: ComparisonDocument): boolean {
  if (checks) return checks.some(({ results }) => results.some(({ outcome }) => OBJECTED.has(outcome)))
  return devices.some(({ standing }) => standing !== 'same') || (flows?.length ?? 0) > 0
}

/** A section of a document: a heading and its lines. */
interface ReportSection {
  readonly heading: string
  readonly lines: readonly string[]
  /** Whether the lines are of a configuration. */
  readonly mono?: boolean
}

function sectionsOf(
  { devices, flows, checks }: ComparisonDocument,
  titles: ReadonlyMap<string, string>,
): ReportSection[] {
  const counted = (standing: ComparedDevice['standing']): string[] =>
    devices.filter((device) => device.standing === standing).map(({ name }) => name)
  const named = (heading: string, names: readonly string[]): ReportSection[] =>
    names.length === 0 ? [] : [{ heading, lines: [names.join(', ')] }]
  return [
    ...(checks ?? []).flatMap((one) => checkSection(one, titles)),
    ...named('Devices only in A', counted('removed')),
    ...named('Devices only in B', counted('added')),
    ...named('Devices that could not be read', counted('unreadable')),
    ...(flows === null
      ? []
      : [{ heading: 'Connections with another fate', lines: flows.length === 0 ? ['none'] : flows.map(flowWords) }]),
    ...devices.flatMap(({ name, comparison }) => (comparison ? deviceSections(name, comparison) : [])),
    ...named('Devices without a change', counted('same')),
  ]
}

function checkSection({ device, results }: ComparedChecks, titles: ReadonlyMap<string, string>): ReportSection[] {
  const own = results.filter(({ outcome }) => OBJECTED.has(outcome))
  const count = (of: CheckResult['outcome']): number => results.filter(({ outcome }) => outcome === of).length
  const counts = [
    `${count('pass')} pass`,
    `${count('fail')} fail`,
    `${own.length - count('fail')} unknown or error`,
    `${count('notchecked')} not checked`,
  ]
  return [
    {
      heading: `Checks of ${device ?? 'the network'}`,
      lines: [
        counts.join(', '),
        ...own.flatMap((result) => [
          `${result.outcome}: ${titles.get(result.check) ?? result.check}${whyOf(result)}`,
          ...result.failing.map((row) => `  ${rowWords(row)}`),
        ]),
      ],
    },
  ]
}

/** Why a check has its outcome, where no row says it. */
function whyOf({ failing, doubt, error }: CheckResult): string {
  const said = [error, failing.length === 0 && doubt ? doubt.code : null]
  return said.flatMap((one) => (one === null ? [] : [` (${one})`])).join('')
}

function flowWords({ from, to, before, after, classes }: ComparedFlow): string {
  const ends = `${from.join(', ')} to ${to.join(', ')}`
  return `${ends}: ${before.join(', ')} → ${after.join(', ')} (${classes.join('; or ')})`
}

function deviceSections(
  name: string,
  { records, model, accessLists, state, doubts }: DeviceComparison,
): ReportSection[] {
  const part = (heading: string, lines: readonly string[], mono = false): ReportSection[] =>
    lines.length === 0 ? [] : [{ heading: `${name}: ${heading}`, lines, mono }]
  return [
    ...part('what changed', [...model.map(modelWords), ...accessLists.flatMap(accessListWords)]),
    ...part(
      'lines',
      records.flatMap(({ statements }) => statements.map(statementWords)),
      true,
    ),
    ...part('state', state.map(stateWords)),
    ...part('not compared', doubts.map(doubtWords)),
  ]
}

/** Titles of checks by their ids. */
function titlesOf(checks: readonly Check[]): ReadonlyMap<string, string> {
  return new Map(checks.map(({ id, title }) => [id, title]))
}

function headLines({ a, b, devices, notes = [] }: ComparisonDocument): string[] {
  const changed = devices.filter(({ standing }) => standing === 'changed').length
  const when = (takenAt: string | null): string => (takenAt === null ? '' : ` (${takenAt})`)
  return [
    `A: ${a.title}${when(a.takenAt)}`,
    `B: ${b.title}${when(b.takenAt)}`,
    `${changed} of ${devices.length} devices changed`,
    ...notes,
  ]
}

export function comparisonText(document: ComparisonDocument, checks: readonly Check[] = []): string {
  return [
    ...headLines(document),
    ...sectionsOf(document, titlesOf(checks)).flatMap(({ heading, lines }) => [
      '',
      heading,
      ...lines.map((line) => `  ${line}`),
    ]),
    '',
  ].join('\n')
}

export function comparisonMarkdown(document: ComparisonDocument, checks: readonly Check[] = []): string {
  return [
    `# ${document.title}`,
    '',
    ...headLines(document).map((line) => `- ${plainMarkdown(line)}`),
    ...sectionsOf(document, titlesOf(checks)).flatMap(({ heading, lines, mono }) => [
      '',
      `## ${plainMarkdown(heading)}`,
      '',
      ...(mono ? ['```', ...lines, '```'] : lines.map((line) => `- ${plainMarkdown(line.trim())}`)),
    ]),
    '',
  ].join('\n')
}

/** Text in which Markdown finds no markup: names and lines come from outside. */
export function plainMarkdown(text: string): string {
  return text.replace(/[\\`*_[\]<>#|~]/g, (mark) => `\\${mark}`)
}

export function comparisonHtml(document: ComparisonDocument, checks: readonly Check[] = []): string {
  const body = sectionsOf(document, titlesOf(checks)).map(({ heading, lines, mono }) => {
    const own = mono
      ? `<pre>${lines.map(esc).join('\n')}</pre>`
      : `<ul>${lines.map((line) => `<li>${line.startsWith('  ') ? code(line.trim()) : esc(line)}</li>`).join('')}</ul>`
    return `<section><h2>${esc(heading)}</h2>${own}</section>`
  })
  return htmlDocument(document.title, [
    `<header><h1>${esc(document.title)}</h1>${headLines(document)
      .map((line) => `<p>${esc(line)}</p>`)
      .join('')}</header>`,
    ...body,
  ])
}

import type { Log, Result } from 'sarif'
import type { AuditDocument, Verdict } from '../audit/index.ts'
import type { BenchmarkSource } from '../benchmarks/index.ts'
import type { ReportFormat } from './format.ts'

const LEVEL = { high: 'error', medium: 'warning', low: 'note', info: 'note' } as const
const KIND = {
  pass: 'pass',
  fail: 'fail',
  unknown: 'review',
  error: 'review',
  notapplicable: 'notApplicable',
  notchecked: 'open',
} as const

/** SARIF 2.1.0 (OASIS), so that a change review can show the lines. Every verdict is a result with its kind. */
export function writeSarif(document: AuditDocument, benchmarks: readonly BenchmarkSource[]): string {
  const paths = new Map(document.records.map((record) => [record.id, record.path]))
  const used = new Set(document.verdicts.map((verdict) => `${verdict.benchmark}/${verdict.rule}`))
  const rules = benchmarks.flatMap((benchmark) =>
    benchmark.rules
      .filter((rule) => used.has(`${benchmark.id}/${rule.id}`))
      .map((rule) => ({
        id: `${benchmark.id}/${rule.id}`,
        shortDescription: { text: rule.title },
        fullDescription: { text: rule.statement },
        defaultConfiguration: { level: LEVEL[rule.severity] },
        properties: { tags: rule.references, severity: rule.severity },
      })),
  )
  rules.push(
    ...document.expected.map((verdict) => ({
      id: `${verdict.benchmark}/${verdict.rule}`,
      shortDescription: { text: verdict.title },
      fullDescription: { text: verdict.statement },
      defaultConfiguration: { level: LEVEL[verdict.severity] },
      properties: { tags: verdict.references, severity: verdict.severity },
    })),
  )
  const index = new Map(rules.map((rule, i) => [rule.id, i]))
  // Typed by the published schema: what it does not know does not compile.
  const log: Log = {
    $schema: 'https://json.schemastore.org/sarif-2.1.0.json',
    version: '2.1.0',
    runs: [
      {
        tool: { driver: { name: 'Jury Box', semanticVersion: '0.1.0', rules } },
        columnKind: 'utf16CodeUnits',
        artifacts: document.records.map((record) => ({
          location: { uri: uri(record.path) },
          hashes: { 'hmac-sha-256': record.fingerprint.replace(/^[\w-]+:/, '') },
        })),
        results: [...document.verdicts, ...document.expected].map((verdict) => resultOf(verdict, index, paths)),
        invocations: [
          {
            executionSuccessful: true,
            toolExecutionNotifications: document.refused.map(({ path, reason }) => ({
              level: 'warning',
              message: { text: reason },
              locations: [{ physicalLocation: { artifactLocation: { uri: uri(path) } } }],
            })),
          },
        ],
      },
    ],
  }
  return `${JSON.stringify(log, null, 2)}\n`
}

function resultOf(verdict: Verdict, index: ReadonlyMap<string, number>, paths: ReadonlyMap<string, string>): Result {
  const ruleId = `${verdict.benchmark}/${verdict.rule}`
  const kind = KIND[verdict.outcome]
  const remedy =
    verdict.remedy === null
      ? ''
      : 'words' in verdict.remedy
        ? `\nRemediation: ${verdict.remedy.words}`
        : `\nRemediation:\n${verdict.remedy.commands.join('\n')}`
  return {
    ruleId,
    ruleIndex: index.get(ruleId) ?? -1,
    kind,
    // SARIF 2.1.0 §3.27.10: a result whose kind is not "fail" has the level "none".
    level: kind === 'fail' ? LEVEL[verdict.severity] : 'none',
    message: { text: `${verdict.device}: ${verdict.note}${kind === 'pass' ? '' : remedy}` },
    locations: verdict.exhibits
      .slice(0, 20)
      .map((exhibit) => ({
        physicalLocation: {
          artifactLocation: { uri: uri(paths.get(exhibit.record) ?? exhibit.record) },
          region: {
            startLine: exhibit.from,
            endLine: exhibit.to,
            ...(exhibit.text === '' ? {} : { snippet: { text: exhibit.text } }),
          },
        },
        ...(exhibit.absent ? { message: { text: 'Searched without finding the line' } } : {}),
      })),
    partialFingerprints: { 'deviceRule/v1': `${verdict.device}/${ruleId}` },
  }
}

function uri(path: string): string {
  return path.split('/').map(encodeURIComponent).join('/')
}

export const sarifFormat: ReportFormat = {
  form: 'sarif',
  title: 'SARIF',
  what: 'lines, for a change review',
  type: 'application/sarif+json; charset=utf-8',
  write: ({ document, benchmarks }) => writeSarif(document, benchmarks),
}

import { analysisOf, linesOf, type DeviceAnalysis } from '../analysis/index.ts'
import { answersTo, prepare, type AttestationAnswer, type Benchmark, type Choice } from '../benchmarks/index.ts'
import { dialectById } from '../dialects/index.ts'
import {
  ExhibitTexts,
  Walker,
  answerTo,
  networkOfParts,
  networkPart,
  readLinksFile,
  type Expectation,
} from '../forwarding/index.ts'
import { Clock, EstateView } from '../rules/index.ts'
import type { Snapshot, SnapshotDevice } from '../snapshot/index.ts'
import type { ReadRecord } from '../state/index.ts'
import { MaskedLines, type Fingerprint, type Mask } from '../syntax/index.ts'
import { AuditedDevice, asksAcross, joinAnswers } from './audited-device.ts'
import { noCounts, type AuditDocument, type Counts, type Verdict } from './document.ts'
import { withElsewhere, type ElsewhereRecord } from './elsewhere.ts'
import { expectedVerdicts } from './expected.ts'
import { scoreOf } from './score.ts'
import { plainTree } from './verdict.ts'
import { applyWaivers, type Waiver } from './waivers.ts'

export function countVerdicts(verdicts: Iterable<Pick<Verdict, 'outcome' | 'waived'>>, notselected = 0): Counts {
  const counts = noCounts()
  for (const { outcome, waived } of verdicts) {
    counts[outcome]++
    if (waived) counts.waived++
  }
  return { ...counts, notselected }
}

export interface AuditOptions {
  readonly build: string
  readonly mask: Mask
  readonly fingerprint: Fingerprint
  /** Milliseconds since 1970; what ages and expiries are judged by. */
  readonly now?: number
  /** The snapshot that this one is compared with. */
  readonly before?: Snapshot
  readonly waivers?: readonly Waiver[]
  readonly answers?: readonly AttestationAnswer[]
  /** What is expected of traffic. */
  readonly expectations?: readonly Expectation[]
}

/** Judges every device of a snapshot and gives the whole document. */
export function auditSnapshot(
  snapshot: Snapshot,
  choices: readonly Choice[],
  { build, mask, fingerprint, now = 0, before, waivers = [], answers = [], expectations = [] }: AuditOptions,
): AuditDocument {
  const benches = choices.map(prepare)
  const analyses = new Map(snapshot.devices.map((device) => [device, analysisOf(device, mask)] as const))
  const earlier = new Map((before?.devices ?? []).map((device) => [device.name, analysisOf(device, mask)] as const))
  const devices = [...analyses].flatMap(([{ name, facts }, analysis]) => {
    const then = earlier.get(name)
    return AuditedDevice.of(name, analysis, { facts, ...(then ? { before: then } : {}) }) ?? []
  })
  const estate = asksAcross(benches)
    ? joinAnswers(devices.map((device) => [device.device.name, device.answers(benches)] as const))
    : joinAnswers([])
  const judged = devices.flatMap((device) =>
    device.quoted(device.at(new Clock(now), new EstateView(estate)).verdicts(benches)),
  )
  const verdicts = applyWaivers(
    withElsewhere(judged, (device, kind) => elsewhereOf(snapshot, device, kind, mask)),
    waivers,
    now,
  )
  const left = benches.reduce((sum, bench) => sum + bench.choice.benchmark.rules.length - bench.rules.length, 0)
  return {
    schema: 1,
    build,
    benchmarks: choices.map(({ benchmark, profile }) => ({
      id: benchmark.source.id,
      title: benchmark.source.title,
      version: benchmark.source.version,
      profile: profile ?? widestProfile(benchmark),
    })),
    snapshot: { title: snapshot.title, takenAt: snapshot.takenAt },
    devices: [...analyses].map(([{ name, dialect }, { records, unread }]) => {
      const counted = records.map((record) => ({
        kind: record.kind,
        lineCount: lineCountOf(record),
        unread: unread.get(record.id) ?? [],
      }))
      return { name, dialect: dialect.id, ...linesOf(counted) }
    }),
    records: snapshot.devices.flatMap((device) =>
      device.records.map(({ id, kind, path, sha256, takenAt, timeSource }) => ({
        id,
        device: device.name,
        kind,
        path,
        fingerprint: fingerprint(sha256),
        takenAt,
        timeSource,
      })),
    ),
    refused: snapshot.refused.map((refusal) => ({ ...refusal })),
    verdicts,
    attested: attestedIn(choices, answers, now),
    expected: applyWaivers(expectedOf(snapshot, analyses, expectations, mask), waivers, now),
    tailored: tailoredIn(choices),
    scores: scoresIn(choices, verdicts),
    counts: countVerdicts(verdicts, left * snapshot.devices.length),
  }
}

function expectedOf(
  { devices, links }: Snapshot,
  analyses: ReadonlyMap<SnapshotDevice, DeviceAnalysis>,
  expectations: readonly Expectation[],
  mask: Mask,
): AuditDocument['expected'] {
  if (expectations.length === 0) return []
  const parts = [...analyses].map(([{ name, facts }, analysis]) => networkPart({ name, facts, analysis }))
  const walker = new Walker(networkOfParts(parts, links ? readLinksFile(links) : undefined))
  const texts = new ExhibitTexts(devices, mask)
  return expectedVerdicts(
    expectations.map((stated) => ({ stated, answer: answerTo(walker, stated) })),
    (exhibit) => texts.show(exhibit).text,
  )
}

/** The questions to people of some benchmarks, with the answers that count at a time. */
export function attestedIn(
  choices: readonly Choice[],
  answers: readonly AttestationAnswer[],
  now: number,
): AuditDocument['attested'] {
  return choices.flatMap(({ benchmark }) =>
    answersTo(benchmark.source, answers, now).map(({ source, benchmark: id, outcome, answer, expired }) => ({
      benchmark: id,
      id: source.id,
      title: source.title,
      topic: source.topic,
      severity: source.severity,
      question: source.question,
      evidence: source.evidence,
      outcome,
      note: answer?.note ?? '',
      by: answer?.by ?? null,
      at: answer?.at ?? null,
      until: answer?.until ?? null,
      expired,
      files: [...(answer?.files ?? [])],
      references: source.references,
    })),
  )
}

export function tailoredIn(choices: readonly Choice[]): AuditDocument['tailored'] {
  return choices.flatMap(({ benchmark, tailoring = [] }) =>
    tailoring.map(({ rule, selected, severity, reason, by }) => ({
      benchmark: benchmark.source.id,
      rule,
      what: selected === false ? 'left out' : `severity ${severity ?? 'as stated'}`,
      reason,
      by,
    })),
  )
}

export function scoresIn(choices: readonly Choice[], verdicts: readonly Verdict[]): AuditDocument['scores'] {
  return choices.map(({ benchmark: { source } }) => {
    const topics = new Map(source.rules.map(({ id, topic }) => [id, topic]))
    return scoreOf(
      source.id,
      verdicts.filter(({ benchmark }) => benchmark === source.id),
      (rule) => topics.get(rule) ?? '',
    )
  })
}

function lineCountOf(record: ReadRecord): number {
  return record.tree === null ? record.text.split('\n').length : record.tree.lines.length
}

/** Where no profile is named, every rule counts. */
export function widestProfile(benchmark: Benchmark): string {
  return benchmark.source.profiles.at(-1)?.id ?? ''
}

/** A record of another device of the snapshot, as it is cited. */
function elsewhereOf({ devices }: Snapshot, name: string, kind: string, mask: Mask): ElsewhereRecord | null {
  const device = devices.find((one) => one.name === name)
  const record = device?.records.find((one) => one.kind === kind)
  if (!device || !record) return null
  const tree = record.tree ?? plainTree(record.text)
  const lines = new MaskedLines(tree, dialectById(tree.dialect) ?? device.dialect, mask)
  return { id: record.id, text: (from, to) => lines.range(from, to) }
}

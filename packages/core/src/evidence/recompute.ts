/** Judges the records of a pack by the rules of the pack, and holds what comes out against the verdicts of the pack. */
import {
  applyWaivers,
  attestedIn,
  auditSnapshot,
  countVerdicts,
  type AuditDocument,
  type ExpectedVerdict,
  type Verdict,
} from '../audit/index.ts'
import { readBenchmark, type Choice } from '../benchmarks/index.ts'
import { readExpectations } from '../forwarding/index.ts'
import { readSnapshot, type Snapshot } from '../snapshot/index.ts'
import { CompanionFileError, sha256Hex } from '../syntax/index.ts'
import type { z } from 'zod'
import {
  ANSWERS,
  AUDIT,
  BEFORE_FOLDER,
  CHOICES,
  CONTENT_SCHEMAS,
  FACTS,
  RECORDS,
  SNAPSHOT_FOLDER,
  WAIVERS,
  type PackedFacts,
  type PackedRecords,
} from './content.ts'
import type { Manifest, PackFiles } from './manifest.ts'

/** A verdict that does not come out as the pack states it. */
export interface Differing {
  readonly device: string
  readonly benchmark: string
  readonly rule: string
  /** Null where the other side alone has it. */
  readonly stated: string | null
  readonly computed: string | null
  /** Parts of the verdict that differ. */
  readonly parts: readonly string[]
}

export interface Recomputed {
  readonly verdicts: number
  readonly differing: readonly Differing[]
  /** Parts of the document beside the verdicts that do not come out: `counts`, `scores`, `attested`. */
  readonly parts: readonly string[]
}

/** A file of a pack that is not there, or is not what it is meant to be. */
export class PackContentError extends Error {
  constructor(
    readonly file: string,
    readonly detail: string,
  ) {
    super(`${file}: ${detail}`)
    this.name = 'PackContentError'
  }
}

/** @throws PackContentError where a file is missing or is not as its format says */
export function recompute(
  files: PackFiles,
  { audit: { judgedAt }, madeAt }: Pick<Manifest, 'audit' | 'madeAt'>,
): Recomputed {
  const stated = jsonOf(files, AUDIT)
  const records = jsonOf(files, RECORDS)
  const waivers = jsonOf(files, WAIVERS)
  const snapshot = snapshotIn(files, SNAPSHOT_FOLDER, jsonOf(files, FACTS), records)
  const before = [...files.keys()].some((path) => path.startsWith(BEFORE_FOLDER))
    ? snapshotIn(files, BEFORE_FOLDER, {}, records)
    : null
  const choices = choicesIn(files)
  const computed = auditSnapshot(snapshot, choices, {
    build: stated.build,
    mask: markOf,
    fingerprint: (hash) => hash,
    now: Date.parse(judgedAt),
    ...(before ? { before } : {}),
    expectations: expectationsIn(snapshot),
  })
  const inScope = new Set(stated.devices.map(({ name }) => name))
  const at = Date.parse(madeAt)
  const verdicts = applyWaivers(
    computed.verdicts.filter(({ device }) => inScope.has(device)),
    waivers,
    at,
  )
  const expected = applyWaivers(computed.expected, waivers, at)
  const [statedNames, computedNames] = [recordNames(stated.records), recordNames(computed.records)]
  return {
    verdicts: stated.verdicts.length + stated.expected.length,
    differing: [
      ...differingIn(stated.verdicts, verdicts, statedNames, computedNames),
      ...differingIn(stated.expected, expected, statedNames, computedNames),
    ],
    parts: partsOf(stated, attestedIn(choices, jsonOf(files, ANSWERS), at)),
  }
}

function jsonOf<F extends keyof typeof CONTENT_SCHEMAS>(
  files: PackFiles,
  file: F,
): z.output<(typeof CONTENT_SCHEMAS)[F]> {
  const bytes = files.get(file)
  if (!bytes) throw new PackContentError(file, 'is not there')
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    throw new PackContentError(file, 'is no JSON')
  }
  const parsed = CONTENT_SCHEMAS[file].safeParse(data)
  if (!parsed.success) {
    const [issue] = parsed.error.issues
    throw new PackContentError(file, `${issue?.path.join('.') ?? ''}: ${issue?.message ?? 'is not as expected'}`)
  }
  return parsed.data as z.output<(typeof CONTENT_SCHEMAS)[F]>
}

function choicesIn(files: PackFiles): Choice[] {
  return jsonOf(files, CHOICES).map(({ file, ...choice }) => {
    const bytes = files.get(file)
    if (!bytes) throw new PackContentError(file, 'is not there')
    try {
      return { ...choice, benchmark: readBenchmark(new TextDecoder().decode(bytes)) }
    } catch (error) {
      throw new PackContentError(file, error instanceof Error ? error.message : String(error))
    }
  })
}

/** A snapshot folder of the pack, with what was said of its devices and when its records were captured. */
function snapshotIn(files: PackFiles, folder: string, facts: PackedFacts, records: PackedRecords): Snapshot {
  const own = [...files].flatMap(([path, bytes]) =>
    path.startsWith(folder) ? [{ path: path.slice(folder.length), bytes }] : [],
  )
  const byFile = new Map(records.map((record) => [record.file, record]))
  const snapshot = readSnapshot(own)
  return {
    ...snapshot,
    devices: snapshot.devices.map((device) => ({
      ...device,
      facts: { ...device.facts, ...(facts[device.name] as typeof device.facts | undefined) },
      records: device.records.map((record) => {
        const known = byFile.get(`${folder}${record.path}`)
        return known
          ? { ...record, takenAt: known.takenAt, timeSource: known.timeSource as typeof record.timeSource }
          : record
      }),
    })),
  }
}

function expectationsIn({ expectations }: Snapshot): ReturnType<typeof readExpectations> {
  try {
    return expectations ? readExpectations(expectations) : []
  } catch (error) {
    if (!(error instanceof CompanionFileError)) throw error
    throw new PackContentError('expectations.yaml', error.message)
  }
}

/** What is a mark already stays one; a secret that is there gets one of its own, which no other report has. */
function markOf(secret: string): string {
  return secret.includes('‹') ? secret : `‹secret:${sha256Hex(new TextEncoder().encode(secret)).slice(0, 8)}›`
}

type Named = ReadonlyMap<string, string>

/** Records by id, as they are called in every pack: by device and kind. */
function recordNames(records: AuditDocument['records']): Named {
  return new Map(records.map(({ id, device, kind }) => [id, `${device} ${kind}`]))
}

type AnyVerdict = Verdict | ExpectedVerdict
const keyOf = ({ device, benchmark, rule }: AnyVerdict): string => JSON.stringify([device, benchmark, rule])

function differingIn(
  stated: readonly AnyVerdict[],
  computed: readonly AnyVerdict[],
  statedNames: Named,
  computedNames: Named,
): Differing[] {
  const byKey = new Map(computed.map((verdict) => [keyOf(verdict), verdict]))
  const known = new Set<string>()
  const differing = stated.flatMap((one): Differing[] => {
    const { device, benchmark, rule, outcome } = one
    const key = keyOf(one)
    const other = byKey.get(key)
    const twice = known.has(key)
    known.add(key)
    if (!other || twice)
      return [{ device, benchmark, rule, stated: outcome, computed: null, parts: [twice ? 'twice' : 'outcome'] }]
    const [left, right] = [comparable(one, statedNames), comparable(other, computedNames)]
    const parts = Object.keys(left).filter((part) => left[part] !== right[part])
    return parts.length === 0 ? [] : [{ device, benchmark, rule, stated: outcome, computed: other.outcome, parts }]
  })
  const added = computed
    .filter((verdict) => !known.has(keyOf(verdict)))
    .map(({ device, benchmark, rule, outcome }) => ({
      device,
      benchmark,
      rule,
      stated: null,
      computed: outcome,
      parts: ['outcome'],
    }))
  return [...differing, ...added]
}

/** Parts of a verdict as texts that can be held against each other. Marks differ with the key that made them. */
function comparable(verdict: AnyVerdict, names: Named): Record<string, string> {
  // Lines of several records come in the order of their ids, which every place gives anew.
  const exhibits = verdict.exhibits
    .map(({ record, device: _, ...rest }) => canonical({ ...rest, record: names.get(record) ?? record }))
    .sort()
  const parts = {
    outcome: verdict.outcome,
    severity: verdict.severity,
    branch: verdict.branch,
    note: verdict.note,
    subjects: verdict.subjects,
    exhibits,
    missing: verdict.missing,
    extra: verdict.extra,
    remedy: verdict.remedy,
    references: verdict.references,
    values: verdict.values,
    waived: verdict.waived ?? [],
  }
  return Object.fromEntries(
    Object.entries(parts).map(([part, value]) => [
      part,
      canonical(value).replace(/(‹secret:|<[a-z]+ )[\da-f]{8}/g, '$1'),
    ]),
  )
}

/** JSON with the names of objects in order. */
function canonical(value: unknown): string {
  return JSON.stringify(value, (_, inner: unknown) =>
    inner !== null && typeof inner === 'object' && !Array.isArray(inner)
      ? Object.fromEntries(Object.entries(inner).sort(([a], [b]) => (a < b ? -1 : 1)))
      : inner,
  )
}

/** Parts of the document beside its verdicts that do not come out: sums, and answers of people. */
function partsOf(stated: AuditDocument, attested: AuditDocument['attested']): string[] {
  const { notselected, ...counts } = stated.counts
  const { notselected: _, ...counted } = countVerdicts(stated.verdicts, notselected)
  const answered = new Set(attested.map(canonical))
  return [
    ...(canonical(counts) === canonical(counted) ? [] : ['counts']),
    ...(stated.attested.every((one) => answered.has(canonical(one))) ? [] : ['attested']),
  ]
}

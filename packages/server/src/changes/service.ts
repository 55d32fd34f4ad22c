import type { Check, CheckResult } from '@jurybox/core/checks'
import {
  readReferences,
  type Feature,
  type Reference,
  type ReferenceAnswer,
  type deriveReference,
} from '@jurybox/core/references'
import { effectiveValues, readBenchmark } from '@jurybox/core/benchmarks'
import { comparisonLines, readNoise, type Listing } from '@jurybox/core/compare'
import { configurationChangeIn, type SyslogMessage } from '@jurybox/core/state'
import { SizedCache, maskText, type NoiseRule } from '@jurybox/core/syntax'
import type { DataSource } from 'typeorm'
import type { AnalysisTask } from '../analysis/analyses.ts'
import type { AnalysisPool } from '../analysis/pool.ts'
import { numbered } from '../analysis/task-records.ts'
import type { User } from '../auth/entity.ts'
import type { Workbench } from '../outside/workbench.ts'
import type { TaskChoice } from '../audits/audit-task.ts'
import type { AuditService } from '../audits/service.ts'
import type { BenchmarkRepository } from '../benchmarks/repository.ts'
import { DeviceConnections } from '../collect/entity.ts'
import type { EstateDevice, EstateService } from '../estate/service.ts'
import { waitFor } from '../estate/still-reading.ts'
import { Problem, notFound } from '../http/problem.ts'
import { intactText } from '../snapshots/damage.ts'
import type { RecordStore } from '../snapshots/records.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import { sha256 } from '../vault/vault.ts'
import type { Compared, SideTexts, TaskSide } from './compare-task.ts'
import { ApprovedStates, ChangeFiles, ChangeMessages, type ChangeFile } from './entity.ts'
import { Explanations, type Author, type Explanation } from './explanations.ts'
import { findingChanges, type FindingChange } from './finding-changes.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly analyses: AnalysisPool
  readonly audits: AuditService
  readonly benchmarks: BenchmarkRepository
  readonly build: string
  readonly database: DataSource
  readonly estate: EstateService
  readonly outside: Workbench
  readonly records: RecordStore
  readonly snapshots: SnapshotService
}

/** One side of a comparison. */
export interface Side {
  readonly snapshot: SnapshotRow
  readonly device: EstateDevice
  readonly listing: Listing
}

export type Standing = 'changed' | 'added' | 'removed' | 'unreadable' | 'same' | 'carried'

/** How a device of two snapshots changed. */
export interface DeviceChange {
  readonly device: EstateDevice
  readonly standing: Standing
  /** Null where there is only one side, or nothing differs in what was captured. */
  readonly compared: Compared | null
  readonly authors: readonly Author[]
  readonly configured: boolean
  readonly explained: Explanation | null
  readonly findings: readonly FindingChange[]
}

/** Comparisons that stay ready, by the characters that they take as JSON. */
const KEPT = 40_000_000
/** Devices that are compared at a time. */
const AT_ONCE = 8
/** Characters of what a device says that are kept. */
const LONGEST_NAME = 160
const LONGEST_TEXT = 2000
const UNREADABLE = 'no-configuration'

interface Comparing {
  readonly work: Promise<void>
  readonly state: { done: number; total: number; readonly of: string }
}

/** The results of checks on a device that two snapshots have. */
export interface CheckedPair {
  readonly before: EstateDevice
  readonly device: EstateDevice
  readonly results: readonly CheckResult[]
}

/**
 * Compares snapshots, devices and listings. Each pair of records is compared once, and remembered under all that the
 * answer rests on; devices whose records are the same are not compared at all.
 */
export class ChangeService {
  readonly #kept = new SizedCache<Compared | 'none'>(KEPT)
  /** Results of checks and answers of references, by what they rest on. */
  readonly #results = new SizedCache<readonly CheckResult[] | readonly ReferenceAnswer[]>(KEPT)
  readonly #comparing = new Map<string, Comparing>()
  readonly explanations: Explanations
  #closed = false

  constructor(readonly services: Needs) {
    this.explanations = new Explanations(services)
  }

  /** A version of a file, the newest where none is named; null where there is none. */
  async file(engagementId: number, kind: ChangeFile['kind'], version?: number): Promise<ChangeFile | null> {
    return this.services.database
      .getRepository(ChangeFiles)
      .findOne({
        where: { engagementId, kind, ...(version === undefined ? {} : { version }) },
        order: { version: 'DESC' },
      })
  }

  /** Every version of a file, newest first, without its text. */
  async versions(engagementId: number, kind: ChangeFile['kind']): Promise<Omit<ChangeFile, 'text'>[]> {
    return this.services.database
      .getRepository(ChangeFiles)
      .find({
        where: { engagementId, kind },
        order: { version: 'DESC' },
        select: { engagementId: true, kind: true, version: true, setBy: true, setByName: true, setAt: true },
      })
  }

  /** Keeps a new version. @throws Problem with the place where it is not as it should be */
  async save(engagementId: number, kind: ChangeFile['kind'], text: string, user: User): Promise<number> {
    const wrong = await this.services.outside.read('changeFile', { kind, text })
    if (wrong !== null) throw new Problem(422, wrong)
    return this.services.database.transaction(async (manager) => {
      const last = await manager.findOne(ChangeFiles, {
        where: { engagementId, kind },
        order: { version: 'DESC' },
        lock: { mode: 'pessimistic_write' },
      })
      const version = (last?.version ?? 0) + 1
      await manager.insert(ChangeFiles, {
        engagementId,
        kind,
        version,
        text,
        setBy: user.id,
        setByName: user.fullName,
        setAt: new Date(),
      })
      return version
    })
  }

  /** Approves the configurations of devices as they are in a snapshot; how many of them the snapshot has. */
  async approve(
    snapshot: SnapshotRow,
    ids: readonly number[],
    reason: string,
    user: User,
    at = new Date(),
  ): Promise<EstateDevice[]> {
    const devices = (await this.services.estate.devices(snapshot)).filter(({ id }) => ids.includes(id))
    if (devices.length > 0)
      await this.services.database
        .getRepository(ApprovedStates)
        .insert(
          devices.map(({ id, config }) => ({
            engagementId: snapshot.engagementId,
            deviceId: id,
            settled: config.settled,
            snapshotId: snapshot.id,
            reason,
            approvedBy: user.id,
            approvedByName: user.fullName,
            approvedAt: at,
          })),
        )
    return devices
  }

  async noise(engagementId: number): Promise<readonly NoiseRule[]> {
    const file = await this.file(engagementId, 'noise')
    return file ? readNoise({ path: 'noise.yaml', text: file.text }) : []
  }

  /** The snapshots that a question names: B, else the latest; A, else the one before B. */
  async snapshotsOf(
    engagementId: number,
    { a, b }: { readonly a?: number | undefined; readonly b?: number | undefined },
  ): Promise<{ readonly a: SnapshotRow; readonly b: SnapshotRow } | null> {
    const { snapshots } = this.services
    const after = await snapshots.asOf(engagementId, b)
    const before = after && (a === undefined ? await snapshots.before(after) : await snapshots.find(a, engagementId))
    return after && before ? { a: before, b: after } : null
  }

  /**
   * How every device of two snapshots changed, by name.
   * @throws StillReading where comparing takes longer than whoever asks waits
   */
  async between(a: SnapshotRow, b: SnapshotRow, patience = 1500): Promise<DeviceChange[]> {
    const { estate } = this.services
    const [before, after] = [await estate.devices(a), await estate.devices(b)]
    const then = new Map(before.map((device) => [device.id, device]))
    const pairs = after.flatMap((device) => {
      const earlier = then.get(device.id)
      return earlier ? [{ a: side(a, earlier), b: side(b, device) }] : []
    })
    const noise = await this.noise(b.engagementId)
    await this.#ready(pairs, noise, patience)
    const now = new Set(after.map(({ id }) => id))
    const [explained, findings] = [await this.explanations.between(a, b), await findingChanges(this.services, a, b)]
    const told = (device: EstateDevice, earlier: EstateDevice | null, standing: Standing | null): DeviceChange => {
      const compared = earlier && this.#of(side(a, earlier), side(b, device), noise)
      const configured = earlier !== null && earlier.config.settled !== device.config.settled
      const authors = configured ? explained.authorsOf(device.name, compared?.lastChange ?? null) : []
      return {
        device,
        compared,
        configured,
        standing: standing ?? standingOf(compared, device),
        authors,
        explained: configured ? explained.of(device, authors) : null,
        findings: findings.get(device.id) ?? [],
      }
    }
    return [
      ...after.map((device) => {
        const earlier = then.get(device.id)
        return told(device, earlier ?? null, earlier ? null : 'added')
      }),
      ...before.filter(({ id }) => !now.has(id)).map((device) => told(device, null, 'removed')),
    ].sort((x, y) => (x.device.name < y.device.name ? -1 : 1))
  }

  /** Two sides, whatever they are. @throws Problem where a side has no such listing */
  async sides(a: Side, b: Side, patience = 1500): Promise<Compared> {
    const noise = await this.noise(b.snapshot.engagementId)
    await this.#ready([{ a, b }], noise, patience)
    const compared = this.#of(a, b, noise)
    if (!compared) throw new Problem(422, 'One of the two sides has no such configuration.')
    return compared
  }

  /**
   * Checks over every device that two snapshots have in common.
   * @param names only these; null: all
   * @throws StillReading
   */
  async checked(
    a: SnapshotRow,
    b: SnapshotRow,
    checks: readonly Check[],
    names: readonly string[] | null,
    patience = 1500,
  ): Promise<CheckedPair[]> {
    const { estate } = this.services
    const then = new Map((await estate.devices(a)).map((device) => [device.id, device]))
    const pairs = (await estate.devices(b)).flatMap((device) => {
      const earlier = then.get(device.id)
      return earlier && (names?.includes(device.name) ?? true) ? [{ a: side(a, earlier), b: side(b, device) }] : []
    })
    const keys = pairs.map((pair) => `checks ${keyOf(pair.a, pair.b, [])} ${sha256(JSON.stringify(checks))}`)
    await this.#worked(
      pairs.flatMap((pair, i) =>
        this.#results.get(keys[i] ?? '') === undefined ? [{ pair, key: keys[i] ?? '' }] : [],
      ),
      async ({ pair, key }) => {
        const [left, right] = await Promise.all([this.#task(pair.a), this.#task(pair.b)])
        const results =
          left && right
            ? await this.services.analyses.run('checksTask', pair.b.device.config.sha256, {
                a: left,
                b: right,
                noise: [],
                checks,
              })
            : null
        // Of a device that cannot be read, nothing passes.
        const told = results ?? checks.map(({ id }) => unreadable(id))
        this.#results.set(key, told, JSON.stringify(told).length)
      },
      patience,
    )
    return pairs.map((pair, i) => ({
      before: pair.a.device,
      device: pair.b.device,
      results: (this.#results.get(keys[i] ?? '') ?? []) as readonly CheckResult[],
    }))
  }

  /** The benchmarks whose values references name, as the engagement fits them. */
  async #choicesOf(engagementId: number, references: readonly Reference[]): Promise<TaskChoice[]> {
    const { benchmarks } = this.services
    const named = new Set(
      references.flatMap(({ values }) =>
        Object.values(values).flatMap((value) => ('benchmark' in value ? [value.benchmark] : [])),
      ),
    )
    const known = (await benchmarks.allIn(engagementId)).map(({ benchmark }) => benchmark.source.id)
    return Promise.all(
      known
        .filter((id) => named.has(id))
        .map(async (id): Promise<TaskChoice> => {
          const { hash, values, profile, overrides = [] } = await benchmarks.choice(engagementId, id, undefined)
          const text = await benchmarks.textOf(hash)
          return { hash, text, values, profile, overrides, tailoring: [], only: null }
        }),
    )
  }

  /** A value of a benchmark, as it holds for the engagement; empty where there is none. */
  async benchmarkValues(engagementId: number, reference: Reference): Promise<(id: string, value: string) => string[]> {
    const choices = await this.#choicesOf(engagementId, [reference])
    const held = new Map(
      choices.map((choice) => {
        const { source } = readBenchmark(choice.text)
        return [source.id, effectiveValues(source, choice.values)] as const
      }),
    )
    return (id, value) => [held.get(id)?.[value] ?? []].flat().map(String)
  }

  /** What the devices of a snapshot have and lack of references, by the name of the device. @throws StillReading */
  async held(
    snapshot: SnapshotRow,
    references: readonly Reference[],
    patience = 1500,
  ): Promise<Map<string, { readonly device: EstateDevice; readonly answers: readonly ReferenceAnswer[] }>> {
    const { estate } = this.services
    const devices = await estate.devices(snapshot)
    const contexts = await estate.contexts(snapshot)
    const choices = await this.#choicesOf(snapshot.engagementId, references)
    const asked = devices.map((device) => {
      const facts = { ...device.facts, ...contexts.get(device.name), name: device.name }
      return { device, facts, key: `held ${device.digestKey} ${sha256(JSON.stringify([references, choices, facts]))}` }
    })
    await this.#worked(
      asked.filter(({ key }) => this.#results.get(key) === undefined),
      async ({ device, facts, key }) => {
        const of = await this.#task(side(snapshot, device))
        const answers = of
          ? await this.services.analyses.run('referencesTask', device.config.sha256, { of, references, choices, facts })
          : null
        this.#results.set(key, answers ?? [], JSON.stringify(answers ?? []).length)
      },
      patience,
    )
    return new Map(
      asked.map(({ device, key }) => [
        device.name,
        { device, answers: (this.#results.get(key) ?? []) as readonly ReferenceAnswer[] },
      ]),
    )
  }

  /**
   * What devices of one dialect have in common for a feature.
   * @param names only these; null: all
   */
  async derived(
    snapshot: SnapshotRow,
    feature: Feature,
    dialect: string,
    names: readonly string[] | null,
    share: number,
  ): Promise<ReturnType<typeof deriveReference>> {
    const devices = (await this.services.estate.devices(snapshot)).filter(
      (device) => device.dialect === dialect && (names?.includes(device.name) ?? true),
    )
    const tasks = await Promise.all(
      devices.map(async (device) => {
        const task = await this.#task(side(snapshot, device))
        return task ? [{ ...task, name: device.name }] : []
      }),
    )
    return this.services.analyses.run('deriveTask', `${feature.id} ${dialect}`, {
      devices: tasks.flat(),
      feature,
      dialect,
      share,
    })
  }

  async references(engagementId: number): Promise<readonly Reference[]> {
    const file = await this.file(engagementId, 'references')
    return file ? readReferences({ path: 'references.yaml', text: file.text }) : []
  }

  /** Does work for each of some things, a few at a time; whoever asks waits for as long as there is patience. */
  async #worked<T extends { readonly key: string }>(
    things: readonly T[],
    work: (thing: T) => Promise<void>,
    patience: number,
  ): Promise<void> {
    if (things.length === 0) return
    const key = sha256(JSON.stringify(things.map((thing) => thing.key)))
    let comparing = this.#comparing.get(key)
    if (!comparing) {
      const state = { done: 0, total: things.length, of: 'devices compared' }
      const all = async (): Promise<void> => {
        for (let from = 0; from < things.length && !this.#closed; from += AT_ONCE)
          await Promise.all(
            things.slice(from, from + AT_ONCE).map(async (thing) => {
              await work(thing)
              state.done++
            }),
          )
      }
      comparing = { state, work: all().finally(() => this.#comparing.delete(key)) }
      comparing.work.catch(() => undefined)
      this.#comparing.set(key, comparing)
    }
    await waitFor(comparing, patience)
  }

  /** A side by the names that people give. @throws Problem where there is no such device in the snapshot */
  async side(snapshot: SnapshotRow, name: string, listing: Listing): Promise<Side> {
    const device = (await this.services.estate.devices(snapshot)).find((one) => one.name === name)
    if (!device) throw notFound('device')
    return { snapshot, device, listing }
  }

  async texts(a: Side, b: Side): Promise<SideTexts> {
    const [left, right] = await Promise.all([this.#task(a), this.#task(b)])
    const texts =
      left &&
      right &&
      (await this.services.analyses.run('sideTextsTask', b.device.config.sha256, {
        a: left,
        b: right,
        noise: [],
        names: ['a', 'b'],
      }))
    if (!texts) throw new Problem(422, 'One of the two sides has no such configuration.')
    return texts
  }

  /** A device said something: where it says that it was changed, that is kept, for each engagement that knows it. */
  async heard(message: SyslogMessage): Promise<void> {
    const change = message.host === null ? null : configurationChangeIn(message)
    if (change === null || message.host === null) return
    const { database } = this.services
    const known = await database.getRepository(DeviceConnections).findBy({ device: message.host })
    const at = message.timestamp === null ? new Date() : new Date(message.timestamp)
    await database
      .getRepository(ChangeMessages)
      .insert(
        known.map(({ engagementId, device }) => ({
          engagementId,
          device,
          at,
          author: change.author?.slice(0, LONGEST_NAME) ?? null,
          place: change.place,
          text: maskText(message.text.slice(0, LONGEST_TEXT), () => '‹secret›'),
        })),
      )
  }

  close(): void {
    this.#closed = true
  }

  /** What is remembered of two sides; null where they hold the same records, or one cannot be read. */
  #of(a: Side, b: Side, noise: readonly NoiseRule[]): Compared | null {
    const kept = this.#kept.get(keyOf(a, b, noise))
    return kept === undefined || kept === 'none' ? null : kept
  }

  async #ready(
    pairs: readonly { readonly a: Side; readonly b: Side }[],
    noise: readonly NoiseRule[],
    patience: number,
  ): Promise<void> {
    const missing = pairs.flatMap(({ a, b }) => {
      const key = keyOf(a, b, noise)
      return isSame(a, b) || this.#kept.get(key) !== undefined ? [] : [{ a, b, key }]
    })
    await this.#worked(missing, async ({ a, b }) => this.#compare(a, b, noise), patience)
  }

  async #compare(a: Side, b: Side, noise: readonly NoiseRule[]): Promise<void> {
    const [left, right] = await Promise.all([this.#task(a), this.#task(b)])
    const compared =
      left && right
        ? await this.services.analyses.run('compareTask', b.device.config.sha256, { a: left, b: right, noise })
        : null
    this.#kept.set(keyOf(a, b, noise), compared ?? 'none', compared ? JSON.stringify(compared).length : 10)
  }

  /** Null where a record of it is damaged. */
  async #task({ snapshot, device, listing }: Side): Promise<TaskSide | null> {
    const { records } = this.services
    const [texts, maskKey] = await Promise.all([
      records.texts(device.records.map(({ sha256: hash }) => hash)),
      records.maskKeyOf(snapshot.engagementId),
    ])
    if (!device.records.every(({ sha256: hash }) => texts.has(hash))) return null
    const task: AnalysisTask = {
      dialect: device.dialect,
      maskKey,
      records: numbered(device.records, (record) => intactText(texts, record)),
    }
    return { ...task, listing }
  }
}

function side(snapshot: SnapshotRow, device: EstateDevice): Side {
  return { snapshot, device, listing: 'config' }
}

/** Two sides of the same records: nothing can differ. */
function isSame(a: Side, b: Side): boolean {
  return a.device.digestKey === b.device.digestKey && a.listing === b.listing
}

function keyOf(a: Side, b: Side, noise: readonly NoiseRule[]): string {
  const timesOf = ({ device }: Side): unknown => device.records.map(({ takenAt }) => takenAt)
  return sha256(
    JSON.stringify([a.device.digestKey, a.listing, timesOf(a), b.device.digestKey, b.listing, timesOf(b), noise]),
  )
}

function standingOf(compared: Compared | null, { all }: EstateDevice): Standing {
  if (!compared) return all.every(({ carried }) => carried) ? 'carried' : 'same'
  if (compared.comparison.doubts.some(({ code }) => code === UNREADABLE)) return 'unreadable'
  return compared.equal ? 'same' : 'changed'
}

/** The answer of a check where one of the two sides cannot be read. */
function unreadable(check: string): CheckResult {
  const doubt = { code: 'incomplete' as const, side: 'both' as const, lines: [] }
  return { check, outcome: 'unknown', rows: 0, failing: [], doubt, error: null }
}

/** The first changes of a device in words. */
export function summaryOf(compared: Compared | null, most: number): string[] {
  return compared ? comparisonLines({ ...compared.comparison, doubts: [] }).slice(0, most) : []
}

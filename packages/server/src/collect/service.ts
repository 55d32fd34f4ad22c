import type { ResponseOf } from '@jurybox/api/endpoint'
import type { testConnection } from '@jurybox/api/collecting'
import { setMaxListeners } from 'node:events'
import {
  type CollectLimits,
  type Collected,
  type Credential,
  LIMITS,
  STEPS,
  STEP_TITLES,
  type Step,
  type Target,
  collectDevice,
} from '@jurybox/collector'
import { stringify } from 'yaml'
import type { SnapshotFile } from '@jurybox/core'
import { DEFAULT_DIALECT, commandSets, netconfCommands, type CommandSet, type PROBES } from '@jurybox/core/dialects'
import { deviceFolder } from '@jurybox/core/snapshot'
import { stableText } from '@jurybox/core/syntax'
import { In } from 'typeorm'
import { Engagements } from '../engagements/entity.ts'
import { DeviceConnections, type DeviceConnection } from './entity.ts'
import type { Job } from '../jobs/entity.ts'
import { Problem } from '../http/problem.ts'
import type { ActivityLog } from '../activity/activity.ts'
import type { AlertService } from '../alerts/service.ts'
import type { AuditService } from '../audits/service.ts'
import type { DataSource } from 'typeorm'
import type { JobBoard } from '../jobs/board.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import type { Vault } from '../vault/vault.ts'
import { sha256 } from '../vault/vault.ts'
import { insideOf } from './ranges.ts'
import { CredentialStore } from './credentials.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly activity: ActivityLog
  readonly alerts: AlertService
  readonly audits: AuditService
  readonly database: DataSource
  readonly jobs: JobBoard
  readonly snapshots: SnapshotService
  readonly vault: Vault
}

type Probe = (typeof PROBES)[number]

/** Devices that are talked to at the same time. */
const AT_ONCE = 20

/** How a device came out of a collection, as the job keeps it. */
export interface DeviceResult {
  readonly device: string
  readonly ok: boolean
  /** Where it stopped, and what was seen there; null where it was collected. */
  readonly step: Step | null
  readonly reason: string | null
  readonly records: number
  /** What else was asked and did not come, with the reason. */
  readonly without: readonly string[]
}

/** Fetches records from devices and freezes them as a snapshot; what was not reached is carried over, and named. */
export class CollectService {
  readonly credentials: CredentialStore
  readonly #sets: ReadonlyMap<string, CommandSet>
  readonly #running = new Map<number, Promise<void>>()
  /** For tests: shorter than devices need. */
  limits: CollectLimits = LIMITS

  constructor(readonly services: Needs) {
    this.credentials = new CredentialStore(services.database, services.vault)
    this.#sets = commandSets
  }

  get sets(): readonly CommandSet[] {
    return [...this.#sets.values()]
  }

  get dialects(): readonly string[] {
    return [...this.#sets.keys()]
  }

  async connections(engagementId: number): Promise<DeviceConnection[]> {
    return this.services.database
      .getRepository(DeviceConnections)
      .find({ where: { engagementId }, order: { device: 'ASC' } })
  }

  /**
   * Starts a collection and returns its job at once.
   * @param names devices that are collected; all that can be reached where null
   * @param judge whether what came anew is judged at once; whoever judges it next says no
   * @throws Problem where there is nobody to ask, or no credential to ask with
   */
  async start(
    engagementId: number,
    userId: number,
    names: readonly string[] | null,
    title: string,
    judge = true,
  ): Promise<Job> {
    const all = await this.connections(engagementId)
    const chosen = names === null ? all : all.filter(({ device }) => names.includes(device))
    const unknown = (names ?? []).find((name) => !all.some(({ device }) => device === name))
    if (unknown !== undefined) throw new Problem(422, `There is no connection for “${unknown}”. Add it first.`)
    if (chosen.length === 0) throw new Problem(422, 'There are no connections. Add devices first.')
    const credentials = await this.credentials.opened(engagementId)
    if (credentials.length === 0) throw new Problem(422, 'There are no credentials. Add one first.')
    if (
      (await this.services.jobs.list(engagementId, 20)).some(
        ({ kind, state }) => kind === 'collect' && state === 'running',
      )
    )
      throw new Problem(409, 'A collection is already running. Stop it, or wait until it ends.')
    const { job, signal } = await this.services.jobs.open({
      engagementId,
      kind: 'collect',
      total: chosen.length,
      createdBy: userId,
      message: `Collecting from ${chosen.length} devices`,
      params: { devices: names, title },
    })
    const work = this.#run(job, title, chosen, credentials, signal, judge)
    this.#running.set(job.id, work)
    void work.finally(() => this.#running.delete(job.id))
    return job
  }

  async #run(
    job: Job,
    title: string,
    chosen: readonly DeviceConnection[],
    credentials: readonly Credential[],
    signal: AbortSignal,
    judge: boolean,
  ): Promise<void> {
    const { jobs } = this.services
    // Each device that is talked to listens for the stop.
    setMaxListeners(0, signal)
    const began = new Date()
    try {
      const results: Collected[] = []
      const { connectRanges } = await this.services.database
        .getRepository(Engagements)
        .findOneByOrFail({ id: job.engagementId })
      const mayConnect = insideOf(connectRanges)
      await eachOf(chosen, signal, async (reach) => {
        results.push(
          await this.#one(reach, this.#sets.get(reach.dialect), credentials, signal, {
            netconf: this.#netconfOf(reach),
            snmpPort: reach.snmpPort ?? undefined,
            mayConnect,
          }),
        )
        await jobs.progress(job, results.length)
      })
      if (!jobs.mayBeSaved(job))
        return void (await jobs.finish(
          job,
          'stopped',
          `Stopped after ${job.done} of ${job.total} devices. Nothing was saved.`,
        ))
      results.sort((a, b) => (a.name < b.name ? -1 : 1))
      Object.assign(job, { params: { ...job.params, results: results.map(resultOf) } })
      const collected = results.filter((result) => result.ok)
      const missing = results.filter((result) => !result.ok)
      if (collected.length === 0) {
        await this.services.alerts.collected(job, results.map(resultOf), null)
        return void (await jobs.finish(
          job,
          'failed',
          `No device of ${results.length} could be collected. Nothing was saved.`,
        ))
      }
      const { snapshots, activity } = this.services
      const intake = await snapshots.importFolders(
        collected.map(({ name, records }) => filesOf(name, records, chosen)),
        job.engagementId,
        job.createdBy,
      )
      const snapshot = await snapshots.freeze(intake, {
        title,
        takenAt: began,
        settled: [],
        userId: job.createdBy,
        note: `Collected from ${collected.length} of ${results.length} devices.`,
        missing: missing.map(({ name, step, reason }) => ({
          path: name,
          reason: `not collected (${step}): ${reason}`,
          step,
        })),
      })
      await this.services.alerts.collected(job, results.map(resultOf), snapshot)
      await jobs.finish(
        Object.assign(job, { done: job.total, params: { ...job.params, snapshotId: snapshot.id } }),
        'done',
        `${collected.length} collected${missing.length > 0 ? `, ${missing.length} missing` : ''}`,
      )
      await activity.add({
        userId: job.createdBy,
        engagementId: job.engagementId,
        action: 'collected',
        detail: {
          job: job.id,
          snapshot: snapshot.id,
          collected: collected.length,
          missing: missing.map(({ name, step }) => ({ name, step })),
        },
      })
      if (judge) await this.services.audits.follow(snapshot, job.createdBy)
    } catch (error) {
      await jobs.fail(job, signal, error, { what: 'The collection', kept: 'Nothing was saved.' })
    }
  }

  /**
   * A cheap look: asks devices for their configurations alone, keeps nothing, and says which are other than in the
   * latest snapshot.
   * @param names null: all that can be reached
   */
  async look(
    engagementId: number,
    names: readonly string[] | null,
    signal: AbortSignal,
  ): Promise<{ readonly looked: number; readonly changed: string[]; readonly missing: string[] }> {
    setMaxListeners(0, signal)
    const chosen = (await this.connections(engagementId)).filter(
      ({ device }) => names === null || names.includes(device),
    )
    const credentials = await this.credentials.opened(engagementId)
    const { snapshots } = this.services
    const latest = await snapshots.latest(engagementId)
    const held = new Map(
      (latest ? await snapshots.held(latest) : []).map((record) => [`${record.device} ${record.kind}`, record.settled]),
    )
    const [changed, missing]: [string[], string[]] = [[], []]
    await eachOf(chosen, signal, async (reach) => {
      const set = this.#sets.get(reach.dialect)
      const result = await this.#one(
        reach,
        set && { ...set, records: set.records.filter(({ needed }) => needed) },
        credentials,
        signal,
      )
      if (!result.ok) missing.push(reach.device)
      // In a snapshot the rules of a gateway are its configuration.
      else if (
        result.records.some(
          ({ kind, text }) =>
            held.get(`${reach.device} ${kind === 'filters' ? 'config' : kind}`) !== sha256(stableText(text)),
        )
      )
        changed.push(reach.device)
    })
    return { looked: chosen.length, changed: changed.sort(), missing: missing.sort() }
  }

  /** @param beside other ways on which it is asked as well */
  async #one(
    reach: DeviceConnection,
    set: CommandSet | undefined,
    credentials: readonly Credential[],
    signal: AbortSignal,
    beside: Pick<Target, 'netconf' | 'snmpPort' | 'mayConnect'> = {},
  ): Promise<Collected> {
    if (!set)
      return {
        name: reach.device,
        ok: false,
        step: 'command',
        reason: `no command set for dialect ${reach.dialect}`,
        hostKey: null,
        attempts: 0,
      }
    // The one that fitted last comes first.
    const ordered = [...credentials].sort(
      (a, b) => Number(b.id === String(reach.credentialId)) - Number(a.id === String(reach.credentialId)),
    )
    const result = await collectDevice(
      {
        name: reach.device,
        address: reach.address,
        port: reach.port,
        set,
        hostKey: reach.hostKey,
        old: reach.old,
        ...beside,
      },
      ordered,
      this.limits,
      signal,
    )
    const rows = this.services.database.getRepository(DeviceConnections)
    const key = { engagementId: reach.engagementId, device: reach.device }
    if (result.ok)
      await rows.update(key, { hostKey: reach.hostKey ?? result.hostKey, credentialId: Number(result.credential) })
    else if (result.step === 'key')
      await this.services.activity.add({
        userId: null,
        engagementId: reach.engagementId,
        action: 'host key changed',
        detail: { device: reach.device, before: reach.hostKey, now: result.hostKey },
      })
    return result
  }

  /**
   * A dry test of one device: logs in and asks for its configuration, as a collection would; nothing is kept.
   * @throws Problem where it has no connection, or there are no credentials
   */
  async test(engagementId: number, name: string, signal: AbortSignal): Promise<DryTest> {
    const reach = (await this.connections(engagementId)).find(({ device }) => device === name)
    if (!reach) throw new Problem(422, `There is no connection for “${name}”. Add it first.`)
    const credentials = await this.credentials.opened(engagementId)
    if (credentials.length === 0) throw new Problem(422, 'There are no credentials. Add one first.')
    const set = this.#sets.get(reach.dialect)
    const began = Date.now()
    const result = await this.#one(
      reach,
      set && { ...set, records: set.records.filter(({ needed }) => needed) },
      credentials,
      signal,
      { netconf: this.#netconfOf(reach), snmpPort: reach.snmpPort ?? undefined },
    )
    const stopped = result.ok ? STEPS.length : STEPS.indexOf(result.step)
    const without = result.ok ? result.without : []
    const asked = [
      ...(reach.netconfPort === null ? [] : (['NETCONF'] as const)),
      ...(reach.snmpPort === null ? [] : (['SNMP'] as const)),
    ]
    return {
      steps: STEPS.map((step, i) => ({
        step,
        title: STEP_TITLES[step],
        state: i < stopped ? 'passed' : i === stopped ? 'failed' : 'not-reached',
        reason: !result.ok && i === stopped ? result.reason : null,
      })),
      beside: asked.map((what) => {
        const failed = without.find((one) => one.startsWith(`${what}: `))
        if (!result.ok) return { what, ok: false, reason: 'not tried, since the login failed' }
        return { what, ok: failed === undefined, reason: failed?.slice(what.length + 2) ?? '' }
      }),
      took: Date.now() - began,
    }
  }

  #netconfOf({ netconfPort }: DeviceConnection): Target['netconf'] {
    const set = netconfCommands
    return netconfPort === null || !set ? undefined : { port: netconfPort, set }
  }

  /**
   * Asks a device about another; what it answers is kept as a record. Returns the job at once.
   * @param target a name or an address
   */
  async probe(engagementId: number, userId: number, name: string, probe: Probe, target: string): Promise<Job> {
    const reach = (await this.connections(engagementId)).find(({ device }) => device === name)
    if (!reach) throw new Problem(422, `There is no connection for “${name}”. Add it first.`)
    const set = this.#sets.get(reach.dialect)
    const command = set?.probes[probe]?.replace('{target}', target)
    if (!set || command === undefined)
      throw new Problem(422, `This test is not available for dialect ${reach.dialect}.`)
    const credentials = await this.credentials.opened(engagementId)
    const { jobs, snapshots, activity } = this.services
    const { job, signal } = await jobs.open({
      engagementId,
      kind: 'probe',
      total: 1,
      createdBy: userId,
      message: `“${command}” on ${name}`,
      params: { device: name, probe, target },
    })
    const work = (async (): Promise<void> => {
      try {
        const result = await this.#one(
          reach,
          { ...set, records: [{ kind: `state/probe-${probe}`, command, needed: true, form: 'text' }] },
          credentials,
          signal,
        )
        if (!jobs.mayBeSaved(job)) return void (await jobs.finish(job, 'stopped', 'Stopped. Nothing was saved.'))
        if (!result.ok) return void (await jobs.finish(job, 'failed', `${result.step}: ${result.reason}`))
        const text = result.records[0]?.text ?? ''
        const lines = text.split('\n').filter((line) => line.trim() !== '').length
        const { snapshot, record } = await snapshots.add(
          engagementId,
          name,
          { kind: `state/probe-${probe}`, text, takenAt: new Date(), about: target },
          { title: `“${command}” on ${name}`, note: 'Output of the test; all other records are carried over.', userId },
        )
        await jobs.finish(
          Object.assign(job, { done: 1, params: { ...job.params, snapshotId: snapshot.id, recordId: record } }),
          'done',
          lines === 1 ? '1 line' : `${lines} lines`,
        )
        await activity.add({ userId, engagementId, action: 'probed', detail: { device: name, command } })
        await this.services.audits.follow(snapshot, userId)
      } catch (error) {
        await jobs.fail(job, signal, error, { what: 'The probe', kept: 'Nothing was saved.' })
      }
    })()
    this.#running.set(job.id, work)
    void work.finally(() => this.#running.delete(job.id))
    return job
  }

  async close(): Promise<void> {
    // A device may not answer for long: shutting down does not wait for it.
    for (const id of this.#running.keys()) this.services.jobs.stop(id)
    await Promise.allSettled(this.#running.values())
  }
}

/** How far a device was reached, rung by rung. */
type DryTest = ResponseOf<typeof testConnection>

/** As many at the same time as are talked to; none that a stop came before. */
export async function eachOf<T extends object>(
  all: readonly T[],
  signal: AbortSignal,
  work: (one: T) => Promise<void>,
): Promise<void> {
  let next = 0
  const lane = async (): Promise<void> => {
    for (let one = all[next++]; one && !signal.aborted; one = all[next++]) await work(one)
  }
  await Promise.all(Array.from({ length: Math.min(AT_ONCE, all.length) }, lane))
}

function resultOf(result: Collected): DeviceResult {
  return result.ok
    ? {
        device: result.name,
        ok: true,
        step: null,
        reason: null,
        records: result.records.length,
        without: result.without,
      }
    : { device: result.name, ok: false, step: result.step, reason: result.reason, records: 0, without: [] }
}

/** The folder of a device, as a snapshot folder has it. */
function filesOf(
  name: string,
  records: Extract<Collected, { ok: true }>['records'],
  reaches: readonly DeviceConnection[],
): SnapshotFile[] {
  const { folder, named } = deviceFolder(name)
  const file = (path: string, text: string): SnapshotFile => ({
    path: `${folder}/${path}`,
    bytes: new TextEncoder().encode(text),
  })
  return [
    file(
      'device.yaml',
      stringify({ ...named, dialect: reaches.find(({ device }) => device === name)?.dialect ?? DEFAULT_DIALECT }),
    ),
    ...records.map(({ kind, form, text }) => file(`${kind}.${form === 'json' ? 'json' : 'txt'}`, text)),
  ]
}

export async function forgetKey(services: Needs, engagementId: number, devices: readonly string[]): Promise<void> {
  await services.database
    .getRepository(DeviceConnections)
    .update({ engagementId, device: In([...devices]) }, { hostKey: null })
}

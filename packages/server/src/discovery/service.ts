import { type DiscoveryPlan } from '@jurybox/api/discovery'
import { isPrefix } from '@jurybox/api/text'
import { lookup } from 'node:dns/promises'
import { setMaxListeners } from 'node:events'
import { isIPv6 } from 'node:net'
import { detectDialect } from '@jurybox/core'
import { stateOf } from '@jurybox/core/analysis'
import type { CommandSet } from '@jurybox/core/dialects'
import {
  recognise,
  vanishedOf,
  type DeviceDigest,
  type FoundDevice,
  type KnownDevice,
  type Sighting,
  nameOfModel,
} from '@jurybox/core/estate'
import { addressOf, addressWords, parsePrefix, prefixMatch } from '@jurybox/core/model'
import { sameName } from '@jurybox/core/rules'
import { answers, collectDevice, snmpRecord, type Credential } from '@jurybox/collector'
import { Engagements, type Engagement } from '../engagements/entity.ts'
import { DeviceConnections, type FirstFacts } from '../collect/entity.ts'
import type { Job } from '../jobs/entity.ts'
import { Sightings, type StoredSighting } from './entity.ts'
import { insideOf } from '../collect/ranges.ts'
import { eachOf } from '../collect/service.ts'
import { Problem } from '../http/problem.ts'
import type { ActivityLog } from '../activity/activity.ts'
import type { AlertService } from '../alerts/service.ts'
import type { CollectService } from '../collect/service.ts'
import type { DataSource } from 'typeorm'
import type { EstateService } from '../estate/service.ts'
import type { JobBoard } from '../jobs/board.ts'
import type { RecordStore } from '../snapshots/records.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import { MOST_TRIED } from './plan.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly activity: ActivityLog
  readonly alerts: AlertService
  readonly collecting: CollectService
  readonly database: DataSource
  readonly estate: EstateService
  readonly jobs: JobBoard
  readonly records: RecordStore
  readonly snapshots: SnapshotService
}

/** Most devices that one discovery looks at. */
const MOST = 2000
/** A port that answers later than this answers not. */
const CONNECT_MS = 1000
/** A device that is silent for so long does not speak the dialect. */
const SILENCE_MS = 5000
/** What is asked of a device to know who it is. */
const ASKED = ['state/version', 'state/neighbours', 'state/hardware', 'state/interfaces', 'state/arp', 'filters6']

/** An address that is tried, and why. */
interface Try {
  readonly address: string
  readonly hops: number
  /** The device that has it as a neighbour; null for a first device or one of a range. */
  readonly seenBy: string | null
  /** The dialect of that device: often the same. */
  readonly hint: string | null
  /** An address of a range, at which there may be no device. */
  readonly blind: boolean
}

/** How an address came out, as the job keeps it. */
export interface Tried {
  readonly address: string
  readonly device: string | null
  readonly reason: string | null
}

export type FoundWithKey = FoundDevice & {
  readonly hostKey: string
  readonly credential: number
  readonly address: string
  readonly port: number
}

/**
 * Finds devices by the neighbours of a first one, and by trying addresses that a lead allowed. What is found waits to
 * be looked over.
 */
export class DiscoveryService {
  readonly #running = new Map<number, Promise<void>>()

  constructor(readonly services: Needs) {}

  /** How many addresses a plan tries blindly. @throws Problem where its range is none, too large, or not allowed */
  async tries(engagementId: number, { range, first }: DiscoveryPlan): Promise<number> {
    const { connectRanges } = await this.#engagement(engagementId)
    if (first.length === 0 && range === null)
      throw new Problem(422, 'A discovery needs a first device or a scan range.')
    const allowed = insideOf(connectRanges)
    if (connectRanges.length === 0) throw new Problem(422, 'There are no scan ranges. A lead has to add one first.')
    const outside = first.find((address) => parsePrefix(address) && !allowed(address))
    if (outside !== undefined)
      throw new Problem(422, `${outside} is outside the scan ranges (${connectRanges.join(', ')}).`)
    if (range === null) return 0
    if (!isPrefix(range)) throw new Problem(422, `“${range}” is not a prefix, such as 10.40.255.0/26.`)
    const addresses = addressesIn(range)
    if (addresses === null)
      throw new Problem(422, `${range} has more than ${MOST_TRIED} addresses. Use a smaller range.`)
    const odd = addresses.find((address) => !allowed(address))
    if (odd !== undefined) throw new Problem(422, `${odd} is outside the scan ranges (${connectRanges.join(', ')}).`)
    return addresses.length
  }

  /**
   * Starts a discovery and returns its job at once.
   * @param confirmed how many addresses of the range whoever asks has agreed to
   * @throws Problem where the plan may not be carried out
   */
  async start(engagementId: number, userId: number, plan: DiscoveryPlan, confirmed: number | null): Promise<Job> {
    const tries = await this.tries(engagementId, plan)
    if (tries > 0 && confirmed !== tries)
      throw new Problem(422, `${tries} addresses of ${plan.range} would be tried. Confirm the number first.`, { tries })
    const credentials = await this.services.collecting.credentials.opened(engagementId)
    if (credentials.length === 0) throw new Problem(422, 'There are no credentials. Add one first.')
    const { jobs } = this.services
    if ((await jobs.list(engagementId, 20)).some(({ kind, state }) => kind === 'discover' && state === 'running'))
      throw new Problem(409, 'A discovery is already running. Stop it, or wait until it ends.')
    const { job, signal } = await jobs.open({
      engagementId,
      kind: 'discover',
      total: Math.max(1, tries + plan.first.length),
      createdBy: userId,
      message:
        `Discovering devices${plan.first.length > 0 ? ` from ${plan.first.join(', ')}` : ''}` +
        (plan.range ? ` in ${plan.range}` : ''),
      params: { plan },
    })
    const work = this.#run(job, plan, credentials, signal)
    this.#running.set(job.id, work)
    void work.finally(() => this.#running.delete(job.id))
    return job
  }

  async #run(job: Job, plan: DiscoveryPlan, credentials: readonly Credential[], signal: AbortSignal): Promise<void> {
    const { jobs, activity } = this.services
    setMaxListeners(0, signal)
    try {
      const { found, tried } = await this.#looked(job, plan, credentials, signal)
      if (!jobs.mayBeSaved(job))
        return void (await jobs.finish(job, 'stopped', `Stopped after ${job.done} addresses. Nothing was saved.`))
      const known = await this.known(job.engagementId)
      const sightings = recognise(found, known)
      const gone = vanishedOf(sightings, await this.#lookedFor(job, plan, known))
      await this.#keep(job, sightings, gone)
      await this.services.alerts.discovered(job, sightings, gone)
      const count = (kind: string): number => sightings.filter((one) => one.kind === kind).length
      const said = [
        [count('appeared'), 'new'],
        [count('moved'), 'moved'],
        [count('replaced'), 'replaced'],
        [count('duplicate'), 'perhaps known'],
        [gone.length, 'vanished'],
        [count('known'), 'as before'],
      ]
        .filter(([n]) => n !== 0)
        .map(([n, word]) => `${n} ${word}`)
      await jobs.finish(
        Object.assign(job, {
          done: job.total,
          params: {
            ...job.params,
            tried: tried
              .filter(({ reason }) => reason !== null)
              .sort((a, b) => (`${a.address} ${a.device}` < `${b.address} ${b.device}` ? -1 : 1)),
          },
        }),
        'done',
        said.length > 0 ? said.join(', ') : 'No device was found',
      )
      await activity.add({
        userId: job.createdBy,
        engagementId: job.engagementId,
        action: 'discovered',
        detail: {
          job: job.id,
          plan,
          found: sightings.map(({ kind, as, found: { reachedAt } }) => `${kind} ${as} ${reachedAt}`),
          vanished: gone.map(({ name }) => name),
        },
      })
    } catch (error) {
      await jobs.fail(job, signal, error, { what: 'The discovery', kept: 'Nothing was saved.' })
    }
  }

  /**
   * Goes from device to device. Each address is tried once, and each device asked once, whatever circles the links
   * make.
   */
  async #looked(
    job: Job,
    plan: DiscoveryPlan,
    credentials: readonly Credential[],
    signal: AbortSignal,
  ): Promise<{ found: FoundWithKey[]; tried: Tried[] }> {
    const engagement = await this.#engagement(job.engagementId)
    const allowed = insideOf(engagement.connectRanges)
    const maskKey = await this.services.records.maskKeyOf(job.engagementId)
    const first: readonly Try[] = [
      ...plan.first.map((address) => ({ address, hops: 0, seenBy: null, hint: null, blind: false })),
      ...(plan.range === null
        ? []
        : (addressesIn(plan.range) ?? []).map((address) => ({
            address,
            hops: plan.hops,
            seenBy: null,
            hint: null,
            blind: true,
          }))),
    ]
    const before = new Map(
      (await this.services.collecting.connections(job.engagementId)).map((reach) => [reach.device, reach]),
    )
    const reached = new Map(
      [...before.values()].filter(({ port }) => port === plan.port).map((reach) => [reach.address, reach]),
    )
    const seen = new Map<string, Set<string>>()
    const given = new Set(first.map(({ address }) => address))
    const found = new Map<string, FoundWithKey>()
    const tried: Tried[] = []
    let next: Try[] = []
    const look = async ({ address: named, hops, seenBy, hint, blind }: Try): Promise<void> => {
      const address = await resolved(named)
      if (address === null) return void tried.push({ address: named, device: null, reason: 'this name has no address' })
      // Where a device of the estate is reached, a lead has said already that it may be.
      if (!allowed(address) && !reached.has(address))
        return void tried.push({ address: named, device: null, reason: 'outside the scan ranges' })
      const at = translated(address, engagement.translations)
      if (blind && !(await answers(at, plan.port, CONNECT_MS))) return
      const pinned = plan.otherKeys ? null : (reached.get(at)?.hostKey ?? null)
      const answer = await this.#asked(at, plan.port, hint, pinned, credentials, signal)
      if (!answer.ok) return void tried.push({ address, device: null, reason: answer.reason })
      const read = await this.services.estate.digested(answer.dialect, answer.records, maskKey)
      if (!read)
        return void tried.push({
          address,
          device: null,
          reason: 'its output is not a configuration that can be parsed',
        })
      const snmp = read.software.serial === null ? await this.#overSnmp(at, plan, answer.credential, credentials) : null
      const name = read.hostname ?? address
      const twin = [...found.values()].find(
        (one) =>
          one.name === name && one.serial !== null && one.serial === (read.software.serial ?? snmp?.serial ?? null),
      )
      if (seenBy !== null) seen.set(name, (seen.get(name) ?? new Set()).add(seenBy))
      tried.push({ address, device: name, reason: null })
      // The same device at another address of its own: asked once, and its neighbours followed once.
      if (twin && read.interfaces.some(({ addresses }) => addresses.some((one) => one.address === address))) return
      found.set(address, {
        name,
        reachedAt: `${at}:${plan.port}`,
        dialect: answer.dialect,
        model: nameOfModel(read.software.model ?? snmp?.model ?? null, engagement.modelNames),
        version: read.software.version ?? snmp?.version ?? null,
        serial: read.software.serial ?? snmp?.serial ?? null,
        addresses: [
          ...new Set([...read.interfaces.flatMap(({ addresses }) => addresses.map((one) => one.address)), address]),
        ],
        neighbourOf: [],
        hostKey: answer.hostKey,
        credential: Number(answer.credential),
        address: at,
        port: plan.port,
      })
      if (hops >= plan.hops) return
      for (const neighbour of read.neighbours) {
        const far =
          neighbour.managementAddress ??
          farEnd(read, neighbour.interface) ??
          before.get(neighbour.system)?.address ??
          null
        if (far === null)
          tried.push({
            address: '',
            device: neighbour.system,
            reason: `neighbour of ${name} at ${neighbour.interface}; its management address is unknown`,
          })
        else {
          seen.set(neighbour.system, (seen.get(neighbour.system) ?? new Set()).add(name))
          if (given.has(far) || given.size >= MOST) continue
          given.add(far)
          next.push({ address: far, hops: hops + 1, seenBy: name, hint: answer.dialect, blind: false })
          job.total += 1
        }
      }
    }
    // One step of links after the other: however fast a device answers, each is met by its shortest way.
    for (let level: readonly Try[] = first; level.length > 0 && !signal.aborted; level = next) {
      next = []
      await eachOf(level, signal, async (one) => {
        await look(one)
        await this.services.jobs.progress(job, job.done + 1)
      })
    }
    return {
      found: [...found.values()].map((one) => ({ ...one, neighbourOf: [...(seen.get(one.name) ?? [])].sort() })),
      tried,
    }
  }

  /**
   * What a device prints of itself, in the dialect that it speaks: those that do not fit are refused by it.
   * @param pinned the host key that was seen there before: to another one no password is given
   */
  async #asked(
    address: string,
    port: number,
    hint: string | null,
    pinned: string | null,
    credentials: readonly Credential[],
    signal: AbortSignal,
  ) {
    // Devices with a command line are asked there first.
    const place = ({ dialect, talk }: CommandSet): number => (dialect === hint ? -1 : talk === 'netconf' ? 1 : 0)
    const sets = [...this.services.collecting.sets].sort((a, b) => place(a) - place(b))
    let reason = 'its dialect is not supported'
    for (const set of sets) {
      const some: CommandSet = {
        ...set,
        records: set.records.filter(({ kind, needed }) => needed || ASKED.includes(kind)),
      }
      const result = await collectDevice(
        { name: address, address, port, set: some, hostKey: pinned, old: false },
        credentials,
        {
          ...this.services.collecting.limits,
          again: 0,
          silence: Math.min(this.services.collecting.limits.silence, SILENCE_MS),
        },
        signal,
      )
      if (result.ok) {
        const config = result.records.find(({ kind }) => kind === 'config' || kind === 'filters')
        const detected = config ? detectDialect(config.text) : null
        if (detected?.ok)
          return {
            ok: true as const,
            dialect: detected.dialect.id,
            records: result.records,
            hostKey: result.hostKey,
            credential: result.credential,
          }
        reason = detected && !detected.ok ? detected.reason : reason
      } else {
        reason = `${result.step}: ${result.reason}`
        // What stops it before a word is understood stops it in every dialect.
        if (!['command', 'listing', 'privilege'].includes(result.step)) return { ok: false as const, reason }
      }
      if (signal.aborted) break
    }
    return { ok: false as const, reason }
  }

  async #overSnmp(
    address: string,
    { snmpPort }: DiscoveryPlan,
    fitted: string,
    credentials: readonly Credential[],
  ): Promise<Pick<DeviceDigest['software'], 'model' | 'serial' | 'version'> | null> {
    const credential = credentials.find(({ id }) => id === fitted)
    if (snmpPort === null || !credential) return null
    try {
      const text = await snmpRecord(
        address,
        snmpPort,
        credential.snmp ?? { user: credential.user, auth: credential.password, privacy: credential.password },
        3000,
      )
      return stateOf([{ record: 'snmp', kind: 'counters', text }]).state.software
    } catch {
      // It does not answer there: nothing more is known of it.
      return null
    }
  }

  /** The devices of the estate, as far as they tell who they are. */
  async known(engagementId: number): Promise<KnownDevice[]> {
    const { collecting, snapshots, estate } = this.services
    const reaches = new Map(
      (await collecting.connections(engagementId)).map(({ device, address, port }) => [device, `${address}:${port}`]),
    )
    const snapshot = await snapshots.latest(engagementId)
    const inSnapshot: KnownDevice[] = []
    if (snapshot) {
      const running = await estate.patiently(() => estate.running(snapshot))
      const { links } = await estate.patiently(() => estate.ask(snapshot, { ask: 'links' }))
      const { by } = await estate.patiently(() => estate.ask(snapshot, { ask: 'addresses' }))
      const last = await this.#lastSerials(engagementId)
      for (const { name, key, facts, config } of await estate.devices(snapshot)) {
        inSnapshot.push({
          name,
          serial: serialOf(running.get(name)?.serial ?? null, config.takenAt, last.get(name)),
          addresses: [...new Set([...(by[key] ?? []), ...(facts.managementAddress ? [facts.managementAddress] : [])])],
          reachedAt: reaches.get(name) ?? null,
          neighbourOf: links.flatMap(({ a, b, standing }) =>
            standing === 'subnet'
              ? []
              : b.device === name && a.at
                ? [a.device]
                : a.device === name && b.at
                  ? [b.device]
                  : [],
          ),
        })
      }
    }
    const others = [...reaches].filter(([name]) => !inSnapshot.some((one) => one.name === name))
    const last = await this.#lastSerials(engagementId)
    return [
      ...inSnapshot,
      ...others.map(([name, reachedAt]) => ({
        name,
        serial: last.get(name)?.serial ?? null,
        addresses: [],
        reachedAt,
      })),
    ]
  }

  /** Serial numbers that a discovery saw and somebody accepted. */
  async #lastSerials(engagementId: number): Promise<Map<string, SeenSerial>> {
    const rows = await this.services.database
      .getRepository(Sightings)
      .find({ where: { engagementId, state: 'taken' }, order: { id: 'ASC' } })
    return new Map(
      rows.flatMap(({ device, found, createdAt }) =>
        found?.serial ? [[device, { serial: found.serial, at: createdAt }] as const] : [],
      ),
    )
  }

  /**
   * Devices that this discovery should have met: those whose addresses it tried, and those that the same plan found
   * last time.
   */
  async #lookedFor(job: Job, plan: DiscoveryPlan, known: readonly KnownDevice[]): Promise<KnownDevice[]> {
    const { translations } = await this.#engagement(job.engagementId)
    const range = new Set(
      plan.range === null
        ? []
        : (addressesIn(plan.range) ?? []).map((address) => `${translated(address, translations)}:${plan.port}`),
    )
    const earlier = await this.services.jobs.lastDone(
      job.engagementId,
      'discover',
      (params) => JSON.stringify(params['plan']) === JSON.stringify(plan),
    )
    const then = new Set(
      earlier
        ? (await this.services.database.getRepository(Sightings).findBy({ jobId: earlier.id }))
            // One that was away then, on which nobody has decided, is still looked for.
            .filter(({ kind, state }) =>
              kind === 'vanished' ? state === 'waiting' : kind !== 'duplicate' && state === 'taken',
            )
            .map(({ device }) => device)
        : [],
    )
    return known.filter(({ name, reachedAt }) => then.has(name) || (reachedAt !== null && range.has(reachedAt)))
  }

  async #keep(job: Job, sightings: readonly Sighting[], gone: readonly KnownDevice[]): Promise<void> {
    const rows = this.services.database.getRepository(Sightings)
    const common = { engagementId: job.engagementId, jobId: job.id, decidedByName: '', createdAt: new Date() }
    // What an earlier discovery left open is seen anew, or has gone by.
    await rows.update(
      { engagementId: job.engagementId, state: 'waiting' },
      { state: 'left', decidedByName: 'a later discovery', decidedAt: new Date() },
    )
    await rows.save([
      ...sightings.map(({ kind, found, as, why }) =>
        rows.create({
          ...common,
          kind,
          device: as,
          found,
          why,
          state: kind === 'known' ? 'taken' : 'waiting',
          decidedAt: kind === 'known' ? new Date() : null,
        }),
      ),
      ...gone.map(({ name, reachedAt }) =>
        rows.create({
          ...common,
          kind: 'vanished',
          device: name,
          found: null,
          why: `not found${reachedAt === null ? '' : `; it was reached at ${reachedAt}`}`,
          state: 'waiting',
          decidedAt: null,
        }),
      ),
    ])
  }

  /**
   * A decision on a sighting. `take`: it is accepted and the estate follows; `apart`: it only looks like a known device
   * and joins under its own name; `leave`: nothing changes.
   * @throws Problem where it was decided already
   */
  async decide(
    sighting: StoredSighting,
    decision: 'take' | 'apart' | 'leave',
    by: { id: number; fullName: string },
    facts: FirstFacts = {},
  ): Promise<string> {
    if (sighting.state !== 'waiting')
      throw new Problem(409, `Already decided${sighting.decidedByName ? ` by ${sighting.decidedByName}` : ''}.`)
    const said = decision === 'leave' ? 'left as it is' : await this.#follow(sighting, decision, facts)
    const { database, activity } = this.services
    await database
      .getRepository(Sightings)
      .update(
        { id: sighting.id },
        {
          state: decision === 'leave' ? 'left' : 'taken',
          device: decision === 'apart' ? (sighting.found?.name ?? sighting.device) : sighting.device,
          decidedByName: by.fullName,
          decidedAt: new Date(),
        },
      )
    await activity.add({
      userId: by.id,
      engagementId: sighting.engagementId,
      action: 'discovery decided',
      detail: { kind: sighting.kind, device: sighting.device, why: sighting.why, decision, said },
    })
    return said
  }

  async #follow(
    { engagementId, kind, device, found }: StoredSighting,
    decision: 'take' | 'apart',
    facts: FirstFacts,
  ): Promise<string> {
    const rows = this.services.database.getRepository(DeviceConnections)
    if (kind === 'vanished' || found === null) {
      await rows.delete({ engagementId, device })
      return 'removed from collection; its records are kept'
    }
    if (kind === 'duplicate' && decision === 'take') return `same as ${device}; nothing added`
    const name = decision === 'apart' ? found.name : device
    const known = await rows.findOneBy({ engagementId, device: name })
    if ((kind === 'appeared' || decision === 'apart') && known)
      throw new Problem(409, `The device “${name}” already exists at ${known.address}:${known.port}.`)
    const { address, port, hostKey, credential } = found as FoundWithKey
    await rows.save(
      rows.create({
        netconfPort: null,
        snmpPort: null,
        old: false,
        facts: Object.keys(facts).length > 0 ? facts : null,
        ...known,
        engagementId,
        device: name,
        dialect: found.dialect,
        address,
        port,
        hostKey,
        credentialId: credential,
      }),
    )
    return kind === 'replaced' && decision !== 'apart'
      ? 'replacement accepted; its history continues'
      : kind === 'moved'
        ? `now reached at ${address}:${port}`
        : 'added with the next collection'
  }

  async #engagement(id: number): Promise<Engagement> {
    return this.services.database.getRepository(Engagements).findOneByOrFail({ id })
  }

  async close(): Promise<void> {
    for (const id of this.#running.keys()) this.services.jobs.stop(id)
    await Promise.allSettled(this.#running.values())
  }
}

interface SeenSerial {
  readonly serial: string
  readonly at: Date
}

/** The serial number of a device: that of its records, or of what was accepted after they were taken. */
function serialOf(recorded: string | null, takenAt: Date | null, seen: SeenSerial | undefined): string | null {
  if (seen && (recorded === null || (takenAt !== null && seen.at > takenAt))) return seen.serial
  return recorded
}

/** An address as it is, a name by its address; null where it has none. */
async function resolved(name: string): Promise<string | null> {
  if (isAddressText(name)) return name
  try {
    return (await lookup(name)).address
  } catch {
    // Nobody knows the name: that is the answer.
    return null
  }
}

function isAddressText(text: string): boolean {
  return parsePrefix(text) !== null && !text.includes('/')
}

/** The other address of a link between two, where the port has one end of it. */
function farEnd({ interfaces }: DeviceDigest, port: string): string | null {
  const own = interfaces.find(({ name }) => sameName(port, name))
  for (const { address, prefixLength, family } of own?.addresses ?? []) {
    const words = family === 'ipv4' && prefixLength >= 30 && prefixLength < 32 ? addressWords(address, family) : null
    if (!words) continue
    const base = prefixMatch(words, prefixLength).value[0] ?? 0
    const [low, high] = prefixLength === 31 ? [base, base + 1] : [base + 1, base + 2]
    return addressOf([words[0] === low ? high : low])
  }
  return null
}

/** Every address of a prefix that a device can have; null where there are too many. */
export function addressesIn(prefix: string): string[] | null {
  const parsed = parsePrefix(prefix)
  const length = Number(prefix.split('/')[1])
  if (!parsed) return null
  const bits = (parsed.family === 'ipv4' ? 32 : 128) - length
  if (bits > 11) return null
  const size = 2 ** bits
  // The first names the subnet, the last is for all in it (RFC 1812 §4.2.2.11); of two and of one, both are devices
  // (RFC 3021).
  const [from, to] = parsed.family === 'ipv4' && bits > 1 ? [1, size - 1] : [0, size]
  if (to - from > MOST_TRIED) return null
  const last = parsed.value.length - 1
  return Array.from({ length: to - from }, (_, i) =>
    addressOf(parsed.value.map((word, at) => (at === last ? (word + from + i) >>> 0 : word))),
  )
}

/** Where an address is reached, through the translation on the way. */
export function translated(
  address: string,
  translations: readonly { readonly from: string; readonly to: string }[],
): string {
  const family = isIPv6(address) ? 'ipv6' : 'ipv4'
  const words = addressWords(address, family)
  if (!words) return address
  for (const { from, to } of translations) {
    const [outer, inner] = [parsePrefix(from), parsePrefix(to)]
    if (!outer || !inner || outer.family !== family || inner.family !== family) continue
    const length = Number(from.split('/')[1])
    if (prefixMatch(words, length).value.some((word, i) => word !== outer.value[i])) continue
    const care = prefixMatch(words, length).care
    return addressOf(
      words.map((word, i) => (((inner.value[i] ?? 0) & (care[i] ?? 0)) | (word & ~(care[i] ?? 0))) >>> 0),
    )
  }
  return address
}

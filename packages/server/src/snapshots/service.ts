import { randomBytes } from 'node:crypto'
import { In, LessThan, LessThanOrEqual, type DataSource } from 'typeorm'
import type { SnapshotFile } from '@jurybox/core'
import { deviceFolder, type RecordKind } from '@jurybox/core/snapshot'
import { stableText } from '@jurybox/core/syntax'
import { DeviceConnections, type FirstFacts } from '../collect/entity.ts'
import { Devices, type Device } from '../estate/entity.ts'
import { Records, SnapshotRecords, Snapshots, type SnapshotRow, type StoredRecord } from './entity.ts'
import { TrafficFiles } from '../traffic/entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { sha256 } from '../vault/vault.ts'
import type { Taken, ImportedDevice } from '../outside/worker.ts'
import type { Workbench } from '../outside/workbench.ts'
import type { RecordStore } from './records.ts'

/** Files that were read and wait for the person to say when they were taken and to freeze them. */
/** Unparsed lines of one file that are shown before it is frozen. */
const UNPARSED_SHOWN = 1000

export interface Intake {
  readonly id: string
  readonly engagementId: number
  readonly userId: number
  readonly taken: Taken
  readonly at: number
}

export interface Freeze {
  readonly title: string
  readonly note: string
  /** Time of capture for records that do not state their own. */
  readonly takenAt: Date
  /** Files of a name that another file has too: taken under a name of their own, or in place of the other. */
  readonly settled: readonly { path: string; as: string }[]
  readonly userId: number
  /** Names of devices that are not carried over. */
  readonly without?: readonly string[]
  /** Devices that should be there and are not. */
  readonly missing?: readonly { path: string; reason: string; step: string }[]
}

/** A record of a snapshot, with its device. */
export interface HeldRecord extends StoredRecord {
  readonly device: string
  readonly carried: boolean
}

const INTAKE_MS = 60 * 60_000
const INTAKES_PER_USER = 4

export class SnapshotService {
  readonly #intakes = new Map<string, Intake>()
  /** Called for each snapshot that was frozen. */
  whenFrozen: (snapshot: SnapshotRow) => Promise<void> = async () => undefined

  constructor(
    readonly database: DataSource,
    readonly records: RecordStore,
    readonly outside: Workbench,
    readonly build: string,
  ) {}

  /**
   * Reads files without keeping them yet.
   * @param folders files that belong together, each read by itself
   */
  async importFolders(
    folders: readonly (readonly SnapshotFile[])[],
    engagementId: number,
    userId: number,
  ): Promise<Intake> {
    const taken = await this.outside.importFolders(folders)
    const now = Date.now()
    const own = [...this.#intakes.values()].filter((intake) => intake.userId === userId).sort((a, b) => a.at - b.at)
    const surplus = own.slice(0, Math.max(0, own.length - INTAKES_PER_USER + 1))
    for (const intake of this.#intakes.values())
      if (now - intake.at > INTAKE_MS || surplus.includes(intake)) this.#intakes.delete(intake.id)
    const intake: Intake = { id: randomBytes(12).toString('base64url'), engagementId, userId, taken, at: now }
    this.#intakes.set(intake.id, intake)
    return intake
  }

  /** @throws Problem where it is gone (an hour has passed, or the server was started again) */
  intake(id: string, engagementId: number): Intake {
    const found = this.#intakes.get(id)
    if (!found || found.engagementId !== engagementId)
      throw new Problem(410, 'These files have expired. Import them again.')
    return found
  }

  forget(id: string): void {
    this.#intakes.delete(id)
  }

  /**
   * Freezes a snapshot: the imported devices, and every other device of the snapshot before with its own records and
   * their own age.
   */
  async freeze(intake: Intake, freeze: Freeze): Promise<SnapshotRow> {
    const { engagementId } = intake
    const devices = await this.#withSettled(intake, freeze.settled)
    if (devices.length === 0) throw new Problem(422, 'No device was imported, so there is nothing to freeze.')
    const before = await this.latest(engagementId, freeze.takenAt)
    const settledPaths = new Set(freeze.settled.map(({ path }) => path))
    const frozen = await this.database.transaction(async (manager) => {
      const now = new Date()
      const row = await manager.save(
        Snapshots,
        manager.create(Snapshots, {
          engagementId,
          title: freeze.title,
          note: freeze.note,
          takenAt: freeze.takenAt,
          refused: [
            ...intake.taken.refused.filter(({ path }) => !settledPaths.has(path)),
            ...(freeze.missing ?? []),
          ].map((refusal) => ({ ...refusal })),
          createdBy: freeze.userId,
          createdAt: now,
        }),
      )
      for (const kind of ['links', 'expectations'] as const) {
        const file = intake.taken[kind]
        if (file)
          await manager.save(TrafficFiles, { engagementId, kind, text: file.text, setBy: freeze.userId, setAt: now })
      }
      const contents = new Map(
        devices.flatMap((device) => device.records.map((record) => [record.sha256, record.bytes] as const)),
      )
      await this.records.keep(manager, contents)
      const known = new Map((await manager.findBy(Devices, { engagementId })).map((device) => [device.name, device]))
      const firstFacts = new Map(
        (await manager.findBy(DeviceConnections, { engagementId })).map(({ device, facts }) => [device, facts]),
      )
      const brought = new Set<number>()
      for (const device of devices) {
        const stored = await manager.save(
          Devices,
          manager.create(Devices, {
            ...known.get(device.name),
            engagementId,
            name: device.name,
            dialect: device.dialect,
            facts: factsOf(device, known.get(device.name), firstFacts.get(device.name) ?? {}),
            createdAt: known.get(device.name)?.createdAt ?? now,
          }),
        )
        brought.add(stored.id)
        for (const record of device.records) {
          const kept = await manager.save(
            Records,
            manager.create(Records, {
              deviceId: stored.id,
              kind: record.kind,
              path: record.path,
              sha256: record.sha256,
              dialect: record.dialect,
              lineCount: record.lineCount,
              unread: record.unread,
              settled: record.settled,
              readBy: this.build,
              faults: [...record.faults],
              takenAt: record.takenAt === null ? freeze.takenAt : new Date(record.takenAt),
              timeSource: record.takenAt === null ? 'stated' : record.timeSource,
              broughtBy: freeze.userId,
              createdAt: now,
            }),
          )
          await manager.insert(SnapshotRecords, { snapshotId: row.id, recordId: kept.id, carried: false })
        }
      }
      const carried = before
        ? (await this.#held(before.id)).filter(
            (record) => !brought.has(record.deviceId) && !freeze.without?.includes(record.device),
          )
        : []
      if (carried.length > 0)
        await manager.insert(
          SnapshotRecords,
          carried.map((record) => ({ snapshotId: row.id, recordId: record.id, carried: true })),
        )
      this.#intakes.delete(intake.id)
      return row
    })
    await this.whenFrozen(frozen)
    return frozen
  }

  /** The devices of an intake, with the files whose names had to be settled by a person. */
  async #withSettled({ taken }: Intake, settled: Freeze['settled']): Promise<readonly ImportedDevice[]> {
    const devices = new Map(taken.devices.map((device) => [device.name, device]))
    if (settled.length === 0) return [...devices.values()]
    const files = new Map(taken.unsettled.map((file) => [file.path, file.bytes]))
    const folders = settled.map(({ path, as }): SnapshotFile[] => {
      const bytes = files.get(path)
      if (!bytes) throw new Problem(422, `The file ${path} is not one of the imported files.`)
      const { folder, named } = deviceFolder(as)
      return [
        { path: `${folder}/device.yaml`, bytes: new TextEncoder().encode(JSON.stringify(named)) },
        { path: `${folder}/config.txt`, bytes },
      ]
    })
    const read = await this.outside.importFolders(folders)
    for (const { path, as } of settled) {
      const device = read.devices.find(({ name }) => name === as)
      if (!device) throw new Problem(422, `The file ${path} is not a configuration.`)
      devices.set(as, { ...device, records: device.records.map((record) => ({ ...record, path })) })
    }
    return [...devices.values()]
  }

  /**
   * A snapshot that is the latest one with one more record: nothing else was looked at, so all else is carried over.
   */
  async add(
    engagementId: number,
    deviceName: string,
    {
      kind,
      text,
      takenAt,
      about = null,
    }: {
      readonly kind: string
      readonly text: string
      readonly takenAt: Date
      /** What the record is of, such as the address that was asked about: its path names it. */
      readonly about?: string | null
    },
    { title, note, userId }: { readonly title: string; readonly note: string; readonly userId: number },
  ): Promise<{ readonly snapshot: SnapshotRow; readonly record: number }> {
    const latest = await this.latest(engagementId)
    const device = await this.database.getRepository(Devices).findOneBy({ engagementId, name: deviceName })
    if (!latest || !device) throw new Problem(422, `There are no records of “${deviceName}”. Collect from it first.`)
    const held = await this.#held(latest.id)
    const bytes = new TextEncoder().encode(text)
    const hash = sha256(bytes)
    const named = about === null ? '' : ` ${about.replace(/[^\w.:-]/g, '_')}`
    return this.database.transaction(async (manager) => {
      const now = new Date()
      const snapshot = await manager.save(
        Snapshots,
        manager.create(Snapshots, {
          engagementId,
          title,
          note,
          takenAt,
          refused: [],
          createdBy: userId,
          createdAt: now,
        }),
      )
      await this.records.keep(manager, new Map([[hash, bytes]]))
      const record = await manager.save(
        Records,
        manager.create(Records, {
          deviceId: device.id,
          kind,
          path: `${deviceFolder(deviceName).folder}/${kind}${named}.txt`,
          sha256: hash,
          dialect: 'none',
          lineCount: text.split('\n').length,
          unread: [],
          readBy: this.build,
          settled: sha256(stableText(text)),
          faults: [],
          takenAt,
          timeSource: 'stated',
          broughtBy: userId,
          createdAt: now,
        }),
      )
      const others = held.filter((one) => one.deviceId !== device.id || one.kind !== kind)
      await manager.insert(SnapshotRecords, [
        { snapshotId: snapshot.id, recordId: record.id, carried: false },
        ...others.map(({ id }) => ({ snapshotId: snapshot.id, recordId: id, carried: true })),
      ])
      return { snapshot, record: record.id }
    })
  }

  /** Unparsed lines of a file that is not frozen yet, masked. @throws Problem where there is no such file */
  async unparsed(
    { engagementId, taken }: Intake,
    path: string,
  ): Promise<{ total: number; lines: { line: number; text: string }[] }> {
    const record = taken.devices.flatMap(({ records }) => records).find((one) => one.path === path)
    if (!record) throw new Problem(404, `There is no file “${path}” among these.`)
    const maskKey = await this.records.maskKeyOf(engagementId)
    const texts = await this.outside.maskedLines({ bytes: record.bytes, dialect: record.dialect, maskKey })
    return {
      total: record.unread.length,
      lines: record.unread.slice(0, UNPARSED_SHOWN).map((line) => ({ line, text: texts[line - 1] ?? '' })),
    }
  }

  /** Names of devices that a snapshot of these files, taken at a time, would carry over from the one before it. */
  async wouldCarry({ engagementId, taken }: Intake, takenAt: Date): Promise<string[]> {
    const names = new Set(taken.devices.map((device) => device.name))
    const before = await this.latest(engagementId, takenAt)
    const held = before ? await this.#held(before.id) : []
    return [...new Set(held.map((record) => record.device))].filter((name) => !names.has(name)).sort()
  }

  async latest(engagementId: number, at?: Date): Promise<SnapshotRow | null> {
    return this.database
      .getRepository(Snapshots)
      .findOne({
        where: at ? { engagementId, takenAt: LessThanOrEqual(at) } : { engagementId },
        order: { takenAt: 'DESC', id: 'DESC' },
      })
  }

  /**
   * A snapshot that is named, else the latest; null where there is none. @throws Problem where the engagement has no
   * such snapshot
   */
  async asOf(engagementId: number, id: number | undefined): Promise<SnapshotRow | null> {
    return id === undefined ? this.latest(engagementId) : this.find(id, engagementId)
  }

  /** The snapshot taken last before another. */
  async before(snapshot: SnapshotRow): Promise<SnapshotRow | null> {
    return this.database
      .getRepository(Snapshots)
      .findOne({
        where: { engagementId: snapshot.engagementId, takenAt: LessThan(snapshot.takenAt) },
        order: { takenAt: 'DESC', id: 'DESC' },
      })
  }

  async list(engagementId: number): Promise<SnapshotRow[]> {
    return this.database
      .getRepository(Snapshots)
      .find({ where: { engagementId }, order: { takenAt: 'ASC', id: 'ASC' } })
  }

  /** @throws Problem where the engagement has no such snapshot */
  async find(id: number, engagementId: number): Promise<SnapshotRow> {
    const row = await this.database.getRepository(Snapshots).findOneBy({ id, engagementId })
    if (!row) throw new Problem(404, 'There is no such snapshot in this engagement.')
    return row
  }

  /** @throws Problem where the engagement has no such record */
  async record(id: number, engagementId: number): Promise<StoredRecord & { device: string }> {
    const record = await this.database.getRepository(Records).findOneBy({ id })
    const device =
      record && (await this.database.getRepository(Devices).findOneBy({ id: record.deviceId, engagementId }))
    if (!record || !device) throw notFound('record')
    return { ...record, device: device.name }
  }

  async held(snapshot: SnapshotRow): Promise<HeldRecord[]> {
    return this.#held(snapshot.id)
  }

  async #held(snapshotId: number): Promise<HeldRecord[]> {
    const links = new Map(
      (await this.database.getRepository(SnapshotRecords).findBy({ snapshotId })).map((link) => [
        link.recordId,
        link.carried,
      ]),
    )
    if (links.size === 0) return []
    const records = await this.database
      .getRepository(Records)
      .find({ where: { id: In([...links.keys()]) }, order: { id: 'ASC' } })
    const devices = new Map(
      (
        await this.database
          .getRepository(Devices)
          .findBy({ id: In([...new Set(records.map((record) => record.deviceId))]) })
      ).map((device) => [device.id, device.name]),
    )
    return records.map((record) => ({
      ...record,
      device: devices.get(record.deviceId) ?? '',
      carried: Boolean(links.get(record.id)),
    }))
  }
}

function factsOf(device: ImportedDevice, known: Device | undefined, first: FirstFacts): Record<string, unknown> {
  const { labels, ...facts } = device.facts
  const before = (known?.facts ?? {}) as { labels?: Record<string, unknown> }
  // What somebody said when the device was discovered holds until its first records; later it is changed elsewhere.
  return { ...(known ? {} : first), ...before, ...facts, labels: { ...before.labels, ...labels } }
}

export function kindTitle(kind: RecordKind | string): string {
  return (
    {
      config: 'running configuration',
      'config.full': 'running configuration with defaults',
      'config.saved': 'saved configuration',
    }[kind] ?? kind.replace('state/', 'output: ')
  )
}

import { In } from 'typeorm'
import { readLabel, setFromFacts, type LabelChange, type LabelDefinition, type LabelValue } from '@jurybox/core/estate'
import { Devices, type Device } from '../estate/entity.ts'
import type { User } from '../auth/entity.ts'
import { LabelChanges, Labels, type LabelEntry } from './entity.ts'
import { Problem } from '../http/problem.ts'
import type { ActivityLog } from '../activity/activity.ts'
import type { DataSource } from 'typeorm'
import type { EstateService } from '../estate/service.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly activity: ActivityLog
  readonly database: DataSource
  readonly estate: EstateService
}

type Labelled = Record<string, LabelValue>

/** Most rows in one statement. */
const BATCH = 1000

/** What became of one device in a change of many. */
export interface Came {
  readonly device: string
  readonly what: string
}

/** The labels of an engagement: what they are, and what people, lists and rules have set. */
export class LabelService {
  constructor(readonly services: Needs) {}

  async defined(engagementId: number): Promise<LabelDefinition[]> {
    const rows = await this.services.database
      .getRepository(Labels)
      .find({ where: { engagementId }, order: { name: 'ASC' } })
    return rows.map(({ name, type, choices, note, sets }) => ({ name, type, choices, note, sets }))
  }

  /** Defines a label, or defines it anew. @throws Problem that names a device whose value the new definition refuses */
  async define(engagementId: number, user: User, definition: LabelDefinition): Promise<void> {
    const odd = (await this.#devices(engagementId)).flatMap(({ name, facts }) => {
      const value = labelsOf(facts)[definition.name]
      const read = value === undefined ? null : readLabel(definition, value)
      return read && !read.ok ? [`${name}: “${String(value)}” (expected ${read.expected})`] : []
    })
    if (odd.length > 0)
      throw new Problem(
        422,
        `Devices have values that the label ${definition.name} does not allow: ` +
          `${odd.slice(0, 5).join('; ')}${odd.length > 5 ? `; and ${odd.length - 5} more` : ''}.`,
      )
    const rows = this.services.database.getRepository(Labels)
    await rows.save(rows.create({ ...definition, engagementId, createdBy: user.id, createdAt: new Date() }))
    await this.services.activity.add({
      userId: user.id,
      engagementId,
      action: 'label defined',
      detail: { ...definition },
    })
  }

  /** Takes a label and its values away. @returns devices that had a value */
  async undefine(engagementId: number, user: User, name: string): Promise<string[] | null> {
    const { database, activity } = this.services
    if (((await database.getRepository(Labels).delete({ engagementId, name })).affected ?? 0) === 0) return null
    const had = (await this.#devices(engagementId)).filter(({ facts }) => labelsOf(facts)[name] !== undefined)
    await this.apply(
      engagementId,
      user,
      'person',
      had.map((device) => ({
        device: device.name,
        label: name,
        before: labelsOf(device.facts)[name] ?? null,
        after: null,
      })),
    )
    await activity.add({
      userId: user.id,
      engagementId,
      action: 'label deleted',
      detail: { name, devices: had.map((device) => device.name) },
    })
    return had.map((device) => device.name)
  }

  /**
   * Sets one label of many devices. @throws Problem where the label is not defined, or the value is none of its type
   */
  async set(
    engagementId: number,
    user: User,
    label: string,
    given: LabelValue | null,
    names: readonly string[],
  ): Promise<Came[]> {
    const definition = (await this.defined(engagementId)).find(({ name }) => name === label)
    if (!definition) throw new Problem(422, `There is no label “${label}”. Define it first.`)
    const read = readLabel(definition, given)
    if (!read.ok) throw new Problem(422, `“${String(given)}” is not a ${definition.type} (expected ${read.expected}).`)
    const devices = new Map((await this.#devices(engagementId)).map((device) => [device.name, device]))
    const changes: LabelChange[] = []
    const came = names.map((name): Came => {
      const device = devices.get(name)
      if (!device) return { device: name, what: 'there is no such device' }
      const before = labelsOf(device.facts)[label] ?? null
      if (before === read.value) return { device: name, what: 'no change' }
      changes.push({ device: name, label, before, after: read.value })
      return { device: name, what: read.value === null ? 'removed' : 'set' }
    })
    await this.apply(engagementId, user, 'person', changes)
    await this.services.activity.add({
      userId: user.id,
      engagementId,
      action: 'label set',
      detail: { label, value: read.value, devices: changes.map(({ device }) => device) },
    })
    return came
  }

  /** What labels that are set from facts would change now. */
  async fromFacts(engagementId: number): Promise<ReturnType<typeof setFromFacts>> {
    const definitions = await this.defined(engagementId)
    const last = await this.last(engagementId)
    const devices = await this.#devices(engagementId)
    const byPerson = new Set(
      devices.flatMap(({ id, name }) =>
        [...(last.get(id) ?? [])].flatMap(([label, { how }]) => (how === 'rule' ? [] : [`${name} ${label}`])),
      ),
    )
    return setFromFacts(
      definitions,
      devices.map(({ name, dialect, facts }) => ({ name, dialect, facts: { ...facts, labels: labelsOf(facts) } })),
      (device, label) => byPerson.has(`${device} ${label}`),
    )
  }

  /** Sets the labels: after an import, and on request. */
  async applyRules(engagementId: number): Promise<number> {
    const { changes } = await this.fromFacts(engagementId)
    await this.apply(engagementId, null, 'rule', changes)
    return changes.length
  }

  /** Writes changes down and makes them. @param user null: a rule did it */
  async apply(
    engagementId: number,
    user: User | null,
    how: LabelEntry['how'],
    changes: readonly LabelChange[],
  ): Promise<void> {
    if (changes.length === 0) return
    const { database, estate } = this.services
    const devices = new Map((await this.#devices(engagementId)).map((device) => [device.name, device]))
    const at = new Date()
    await database.transaction(async (manager) => {
      const touched = new Map<number, Device>()
      const entries: Omit<LabelEntry, 'id'>[] = []
      for (const { device: name, label, after } of changes) {
        const device = devices.get(name)
        if (!device) continue
        const { [label]: _, ...others } = labelsOf(device.facts)
        device.facts = { ...device.facts, labels: after === null ? others : { ...others, [label]: after } }
        touched.set(device.id, device)
        entries.push({
          engagementId,
          deviceId: device.id,
          label,
          value: after,
          how,
          setBy: user?.id ?? null,
          setByName: user?.fullName ?? '',
          at,
        })
      }
      for (let from = 0; from < entries.length; from += BATCH)
        await manager.insert(LabelChanges, entries.slice(from, from + BATCH))
      if (touched.size > 0) await manager.save(Devices, [...touched.values()])
    })
    estate.changed(engagementId)
  }

  /** The last change of each label, by device and label. */
  async last(engagementId: number, deviceId?: number): Promise<Map<number, Map<string, LabelEntry>>> {
    const rows = await this.services.database
      .getRepository(LabelChanges)
      .find({ where: deviceId === undefined ? { engagementId } : { engagementId, deviceId }, order: { id: 'ASC' } })
    const last = new Map<number, Map<string, LabelEntry>>()
    for (const row of rows)
      last.set(row.deviceId, (last.get(row.deviceId) ?? new Map<string, LabelEntry>()).set(row.label, row))
    return last
  }

  async #devices(engagementId: number): Promise<Device[]> {
    return this.services.database.getRepository(Devices).find({ where: { engagementId }, order: { name: 'ASC' } })
  }
}

export function labelsOf(facts: Record<string, unknown>): Labelled {
  return (facts['labels'] as Labelled | undefined) ?? {}
}

/** Facts that a list states, set at the devices that it names. */
export async function setFacts(
  { database }: Pick<Needs, 'database'>,
  engagementId: number,
  facts: readonly { readonly device: string; readonly fact: string; readonly after: string }[],
): Promise<void> {
  const names = [...new Set(facts.map(({ device }) => device))]
  const devices =
    names.length === 0 ? [] : await database.getRepository(Devices).findBy({ engagementId, name: In(names) })
  await database
    .getRepository(Devices)
    .save(
      devices.map((device) => ({
        ...device,
        facts: {
          ...device.facts,
          ...Object.fromEntries(
            facts.filter((one) => one.device === device.name).map(({ fact, after }) => [fact, after]),
          ),
        },
      })),
    )
}

import type { LastChange } from '@jurybox/core/snapshot'
import { Between, In, type DataSource } from 'typeorm'
import { SnapshotTags } from '../archive/entity.ts'
import { Users } from '../auth/entity.ts'
import type { EstateDevice, EstateService } from '../estate/service.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import { ChangeWindows } from '../windows/entity.ts'
import { ApprovedStates, ChangeMessages } from './entity.ts'

/** The tag that says that a snapshot is as it should be. */
export const APPROVED = 'approved'

/** Who changed a configuration, from where and when, as far as anybody said. */
export interface Author {
  readonly by: string | null
  readonly place: string | null
  /** RFC 3339. */
  readonly at: string | null
  readonly source: 'syslog' | 'listing'
}

/** Why a change was meant. */
export interface Explanation {
  readonly kind: 'window' | 'approval'
  readonly id: number
  readonly title: string
  readonly by: string
}

interface Needs {
  readonly database: DataSource
  readonly estate: EstateService
}

/** A device as far as explaining needs it. */
type Changed = Pick<EstateDevice, 'id' | 'name'> & { readonly config: Pick<EstateDevice['config'], 'settled'> }

/** What explains the changes between two snapshots. */
export interface Explained {
  /** @param listing what the listing of the later snapshot says */
  authorsOf(device: string, listing: LastChange | null): Author[]
  /** @param authors who changed it, with the times that are known */
  of(device: Changed, authors: readonly Author[]): Explanation | null
}

/** Who changed devices, and whether somebody meant it. */
export class Explanations {
  constructor(readonly services: Needs) {}

  async between(a: SnapshotRow, b: SnapshotRow): Promise<Explained> {
    const { database } = this.services
    const messages = await database
      .getRepository(ChangeMessages)
      .find({
        where: { engagementId: b.engagementId, at: Between(a.takenAt, b.takenAt) },
        order: { at: 'ASC', id: 'ASC' },
      })
    const approved = await this.#approved(b)
    const windows = await this.#windows(a, b)
    return {
      authorsOf: (device, listing) => {
        const own = messages
          .filter((message) => message.device === device)
          .map(({ author, place, at }): Author => ({ by: author, place, at: at.toISOString(), source: 'syslog' }))
        return distinct(own.length > 0 || listing === null ? own : [{ ...listing, place: null, source: 'listing' }])
      },
      of: (device, authors) => approved(device) ?? windows(device, authors),
    }
  }

  /** Windows that plan a device: a change whose time is known has to lie within. */
  async #windows(
    a: SnapshotRow,
    b: SnapshotRow,
  ): Promise<(device: Changed, authors: readonly Author[]) => Explanation | null> {
    const windows = (
      await this.services.database.getRepository(ChangeWindows).findBy({ engagementId: b.engagementId })
    ).filter(
      ({ state, beginsAt, endsAt, changedAt }) =>
        state !== 'cancelled' && beginsAt <= b.takenAt && later(endsAt, changedAt) >= a.takenAt,
    )
    return ({ name }, authors) => {
      const times = authors.flatMap(({ at }) => (at === null ? [] : [Date.parse(at)]))
      const own = windows.find(
        ({ devices, beginsAt, endsAt, changedAt }) =>
          devices.includes(name) &&
          times.every((at) => at >= beginsAt.getTime() && at <= later(endsAt, changedAt).getTime()),
      )
      return own ? { kind: 'window', id: own.id, title: own.title, by: own.createdByName } : null
    }
  }

  /** Approvals of the configurations that a snapshot holds: of each by itself, or of the snapshot as a whole. */
  async #approved(snapshot: SnapshotRow): Promise<(device: Changed) => Explanation | null> {
    const { database } = this.services
    const [states, tag] = await Promise.all([
      database.getRepository(ApprovedStates).findBy({ engagementId: snapshot.engagementId }),
      database.getRepository(SnapshotTags).findOneBy({ snapshotId: snapshot.id, tag: APPROVED }),
    ])
    const tagger =
      tag &&
      (await database.getRepository(Users).findOne({ where: { id: In([tag.setBy]) }, select: { fullName: true } }))
    return ({ id, config }) => {
      const own = states.find(({ deviceId, settled }) => deviceId === id && settled === config.settled)
      if (own) return { kind: 'approval', id: own.id, title: own.reason, by: own.approvedByName }
      return tag ? { kind: 'approval', id: snapshot.id, title: snapshot.title, by: tagger?.fullName ?? '' } : null
    }
  }
}

/** A window ends when the change was said to be made, where that is later than planned. */
function later(endsAt: Date, changedAt: Date | null): Date {
  return changedAt !== null && changedAt > endsAt ? changedAt : endsAt
}

function distinct(authors: readonly Author[]): Author[] {
  return [...new Map(authors.map((one) => [`${one.by ?? ''} ${one.place ?? ''}`, one])).values()]
}

/** `Changed by bosun from 10.40.0.7`; empty where nobody is known. */
export function authorsWords(authors: readonly Author[]): string {
  const named = authors.map(({ by, place }) => `${by ?? 'an unknown author'}${place === null ? '' : ` from ${place}`}`)
  return named.length === 0 ? '' : `Changed by ${named.join(', ')}`
}

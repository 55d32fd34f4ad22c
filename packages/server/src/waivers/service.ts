import type { Waiving } from '@jurybox/api/findings'
import type { Waiver } from '@jurybox/core/audit'
import { In, IsNull, type DataSource } from 'typeorm'
import type { ActivityLog } from '../activity/activity.ts'
import { Devices } from '../estate/entity.ts'
import { Waivers, type StoredWaiver } from './entity.ts'
import { Problem, notFound } from '../http/problem.ts'

/** What is waived: a rule on one device or, with null, on all of them; one subject of it or, with null, all. */
export type Waivee = Pick<StoredWaiver, 'benchmark' | 'rule' | 'device' | 'subject'>

/** Who accepts the risk, why, and until when. */
export type Acceptance = Pick<StoredWaiver, 'reason' | 'owner' | 'expires'>

/** Findings that are accepted for a time. */
export class WaiverService {
  constructor(
    readonly database: DataSource,
    readonly activity: ActivityLog,
  ) {}

  /** Those of an engagement, withdrawn ones included, the newest first. */
  async list(engagementId: number): Promise<StoredWaiver[]> {
    return this.#rows.find({ where: { engagementId }, order: { id: 'DESC' } })
  }

  /** Those of an engagement that were not withdrawn. */
  async standing(engagementId: number): Promise<Waiver[]> {
    const rows = await this.#rows.findBy({ engagementId, endedAt: IsNull() })
    return rows.map(({ benchmark, rule, device, subject, reason, owner, expires }) => ({
      benchmark,
      rule,
      device,
      subject,
      reason,
      owner,
      expires: expires.toISOString(),
    }))
  }

  /**
   * Waives all of them in one transaction.
   * @returns for each, what became of it
   * @throws Problem where the end has passed
   */
  async add(engagementId: number, userId: number, all: readonly Waivee[], accepted: Acceptance): Promise<Waiving[]> {
    if (accepted.expires.getTime() <= Date.now()) throw new Problem(422, 'The end of a waiver must be in the future.')
    const rules = [...new Set(all.map(({ rule }) => rule))]
    const came = await this.database.transaction(async (manager) => {
      const known = new Set((await manager.findBy(Devices, { engagementId })).map(({ name }) => name))
      const standing = await manager.find(Waivers, {
        where: { engagementId, rule: In(rules), endedAt: IsNull() },
        lock: { mode: 'pessimistic_write' },
      })
      const answers = all.map(({ benchmark, rule, device, subject }): Waiving => {
        if (device !== null && !known.has(device)) return 'no-such-device'
        const isCovered = standing.some(
          (one) =>
            one.benchmark === benchmark &&
            one.rule === rule &&
            one.device === device &&
            one.subject === subject &&
            one.expires >= accepted.expires,
        )
        return isCovered ? 'already-waived' : 'waived'
      })
      const at = new Date()
      await manager.insert(
        Waivers,
        all
          .filter((_, i) => answers[i] === 'waived')
          .map((one) => ({ ...one, ...accepted, engagementId, createdBy: userId, createdAt: at, endedAt: null })),
      )
      return answers
    })
    for (const [benchmark, rule, subject] of distinct(all))
      await this.activity.add({
        userId,
        engagementId,
        action: 'waived',
        detail: {
          benchmark,
          rule,
          subject,
          reason: accepted.reason,
          owner: accepted.owner,
          expires: accepted.expires.toISOString(),
          devices: all.flatMap((one, i) =>
            came[i] === 'waived' && one.benchmark === benchmark && one.rule === rule && one.subject === subject
              ? [one.device]
              : [],
          ),
        },
      })
    return came
  }

  /** Ends a waiver; it stays on record. @throws Problem where there is none that stands */
  async withdraw(engagementId: number, userId: number, id: number): Promise<void> {
    const waiver = await this.#rows.findOneBy({ id, engagementId, endedAt: IsNull() })
    if (!waiver) throw notFound('waiver')
    await this.#rows.update({ id }, { endedAt: new Date() })
    const { benchmark, rule, device, subject } = waiver
    await this.activity.add({
      userId,
      engagementId,
      action: 'waiver withdrawn',
      detail: { benchmark, rule, device, subject },
    })
  }

  get #rows() {
    return this.database.getRepository(Waivers)
  }
}

function distinct(all: readonly Waivee[]): [string, string, string | null][] {
  return [
    ...new Map(
      all.map(({ benchmark, rule, subject }) => [
        `${benchmark} ${rule} ${subject ?? ''}`,
        [benchmark, rule, subject] as [string, string, string | null],
      ]),
    ).values(),
  ]
}

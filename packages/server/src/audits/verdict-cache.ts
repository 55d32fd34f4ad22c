import type { CitingVerdict } from '@jurybox/core/audit'
import { grouped } from '@jurybox/core/syntax'
import { alteredBy, concerns, type Altered, type Estate, type Seen } from '@jurybox/core/rules'
import { In, type DataSource } from 'typeorm'
import { Judgements, type Judgement } from './entity.ts'
import { sha256 } from '../vault/vault.ts'
import { answersIn, estateFrom } from './answers.ts'
import type { VerdictHead } from './packed-verdicts.ts'
import type { SealedVerdicts } from './sealed-verdicts.ts'
import type { AuditAnswer } from './audit-task.ts'

/** A judgement as an audit needs it: without what it was found by. */
export type KeptJudgement = Pick<Judgement, 'id' | 'memoKey' | 'counts' | 'answersHash'>

/** Most keys or ids in one statement. */
const MANY = 1000
/** Judgements under the same key that are tried, the newest first: what changes to and fro is found again. */
const TRIED = 5

/** Estates that are compared with the one at hand: most judgements were found under the last. */
const COMPARED = 3

/** What devices came to by the rules that ask themselves. */
export type OwnJudgements = readonly {
  readonly device: string
  readonly judgement: Pick<Judgement, 'id' | 'answersHash'>
}[]

/** The answers of all devices as they are needed: by their hash alone where nothing has to be looked up in them. */
export interface EstateAtHand {
  readonly hash: string
  readonly own: OwnJudgements
  /** Read when first asked for. */
  load(): Promise<{ readonly estate: Estate; readonly serialized: Uint8Array }>
}

/** What devices came to, kept under everything that it depends on. What is kept is never changed. */
export class VerdictCache {
  constructor(
    readonly database: DataSource,
    readonly sealed: SealedVerdicts,
  ) {}

  /**
   * Those of the keys whose judgement still holds.
   * @param now milliseconds since 1970; a judgement that rests on the time holds until the time it names
   * @param estate for judgements that rest on the answers of all devices
   */
  async recall(keys: readonly string[], now: number, estate: EstateAtHand | null): Promise<Map<string, KeptJudgement>> {
    const found = new Map<string, KeptJudgement>()
    const doubtful: Judgement[] = []
    for (const some of chunks(keys)) {
      const rows = await this.#rows.find({
        where: { memoKey: In(some) },
        select: { id: true, memoKey: true, validUntil: true, counts: true, answersHash: true, estateHash: true },
        order: { id: 'DESC' },
      })
      for (const row of rows) {
        if (found.has(row.memoKey) || (row.validUntil !== null && row.validUntil.getTime() <= now)) continue
        if (row.estateHash === (estate?.hash ?? '')) found.set(row.memoKey, row)
        else doubtful.push(row)
      }
    }
    const open = doubtful.filter(({ memoKey }) => !found.has(memoKey))
    if (estate && open.length > 0) await this.#lookAgain(open, found, estate)
    return found
  }

  /**
   * Other answers than those it was found under: it holds where nothing that it rests on was altered, and where all
   * that it looked up is the same.
   * @param open the newest under a key first
   */
  async #lookAgain(open: readonly Judgement[], found: Map<string, KeptJudgement>, estate: EstateAtHand): Promise<void> {
    const newest = [...new Map([...open].reverse().map((row) => [row.memoKey, row])).values()]
    const again = await this.#unconcerned(newest, estate)
    for (const row of again) found.set(row.memoKey, row)
    const left = open.filter(({ memoKey }) => !found.has(memoKey))
    if (left.length > 0) {
      const held = await this.#holding(left, (await estate.load()).estate)
      for (const row of held) found.set(row.memoKey, row)
      again.push(...held)
    }
    for (const rows of chunks(again))
      await this.#rows.update({ id: In(rows.map(({ id }) => id)) }, { estateHash: estate.hash })
  }

  /** Those that rest on nothing that was altered since. */
  async #unconcerned(rows: readonly Judgement[], estate: EstateAtHand): Promise<Judgement[]> {
    const found: Judgement[] = []
    for (const [hash, some] of [...grouped(rows, ({ estateHash }) => estateHash)]
      .sort((a, b) => b[1].length - a[1].length)
      .slice(0, COMPARED)) {
      const altered = await this.#alteredSince(hash, estate)
      if (!altered) continue
      for (const part of chunks(some)) {
        const rests: { id: number; rests_on: Buffer }[] = await this.database.query(
          'SELECT id, rests_on FROM judgements WHERE id IN (?)',
          [part.map(({ id }) => id)],
        )
        const untouched = new Set(
          rests.filter((row) => !concerns(altered, numbersIn(row.rests_on))).map(({ id }) => id),
        )
        found.push(...part.filter(({ id }) => untouched.has(id)))
      }
    }
    return found
  }

  /** What is other than in an earlier estate; null where no audit names that. */
  async #alteredSince(hash: string, { own }: EstateAtHand): Promise<Altered | null> {
    const then: { device: string; id: number; answersHash: string }[] = await this.database.query(
      `SELECT d.name AS device, j.id, j.answers_hash AS answersHash
        FROM audit_judgements a
        JOIN judgements j ON j.id = a.judgement_id AND j.estate_hash = ''
        JOIN devices d ON d.id = a.device_id
        WHERE a.audit_id = (SELECT MAX(id) FROM audits WHERE estate_hash = ?)`,
      [hash],
    )
    if (then.length === 0) return null
    const [before, after] = [
      new Map(then.map((one) => [one.device, one])),
      new Map(own.map(({ device, judgement }) => [device, judgement])),
    ]
    const changed = [...new Set([...before.keys(), ...after.keys()])].filter(
      (device) => before.get(device)?.answersHash !== after.get(device)?.answersHash,
    )
    const answers = await this.#answersOf(
      changed.flatMap((device) => [before.get(device)?.id ?? [], after.get(device)?.id ?? []].flat()),
    )
    const answered = (id: number | undefined): ReadonlyMap<string, unknown> =>
      answersIn(answers.get(id ?? 0) ?? Buffer.alloc(0))
    return alteredBy(
      changed.map((device) => ({
        device,
        before: answered(before.get(device)?.id),
        after: answered(after.get(device)?.id),
      })),
    )
  }

  /** Those whose looks find what they found then, the first of each key. */
  async #holding(rows: readonly Judgement[], estate: Estate): Promise<Judgement[]> {
    const found = new Map<string, Judgement>()
    const tries = new Map<string, number>()
    for (const some of chunks(rows)) {
      const seen = new Map(
        (await this.#rows.find({ where: { id: In(some.map(({ id }) => id)) }, select: { id: true, seen: true } })).map(
          (row) => [row.id, row.seen] as const,
        ),
      )
      for (const row of some) {
        const tried = tries.get(row.memoKey) ?? 0
        if (found.has(row.memoKey) || tried >= TRIED) continue
        tries.set(row.memoKey, tried + 1)
        // Written by this build, which the key names, so it is not checked again.
        if (estate.stillHolds(JSON.parse(seen.get(row.id) ?? '[]') as Seen[])) found.set(row.memoKey, row)
      }
    }
    return [...found.values()]
  }

  /** Keeps what was computed, with its verdicts: both or neither. */
  async keep(
    memoKey: string,
    { packed, answers, until, seen, restsOn }: AuditAnswer,
    estateHash: string,
    placeOf: (verdict: VerdictHead) => number,
  ): Promise<KeptJudgement> {
    if (!packed) throw new Error('what is kept is packed')
    const { counts } = packed
    const answersHash = sha256(answers)
    return this.database.transaction(async (manager) => {
      const { id } = await manager.save(
        Judgements,
        manager.create(Judgements, {
          memoKey,
          validUntil: until === null ? null : new Date(until),
          counts,
          answers: Buffer.from(answers),
          answersHash,
          estateHash,
          seen: JSON.stringify(seen),
          restsOn: Buffer.from(restsOn),
        }),
      )
      await this.sealed.keep(id, packed, placeOf, manager)
      return { id, memoKey, counts, answersHash }
    })
  }

  /** What devices have answered, as kept with their judgements. */
  estateOf(own: OwnJudgements): EstateAtHand {
    let loaded: ReturnType<EstateAtHand['load']> | null = null
    return {
      own,
      hash: sha256(JSON.stringify(own.map(({ device, judgement }) => [device, judgement.answersHash]))),
      load: () =>
        (loaded ??= (async () => {
          const answers = await this.#answersOf(own.map(({ judgement }) => judgement.id))
          return estateFrom(
            own.map(({ device, judgement }) => [device, answers.get(judgement.id) ?? Buffer.alloc(0)] as const),
          )
        })()),
    }
  }

  async #answersOf(ids: readonly number[]): Promise<Map<number, Buffer>> {
    const answers = new Map<number, Buffer>()
    for (const some of chunks(ids)) {
      for (const row of await this.#rows.find({ where: { id: In([...some]) }, select: { id: true, answers: true } }))
        answers.set(row.id, row.answers)
    }
    return answers
  }

  get #rows() {
    return this.database.getRepository(Judgements)
  }
}

/** In what is remembered, records are known by their places among those of the device: here they get their ids. */
export const BEFORE = 'before'
/** As older versions wrote it before the place. */
const NOW = 'now'

export function placed<V extends CitingVerdict>(
  verdict: V,
  records: readonly (string | number)[],
  before: readonly (string | number)[],
): V {
  const ids = new Map<string, string>([
    ...records.flatMap((id, i) => [[String(i), String(id)] as const, [`${NOW}${i}`, String(id)] as const]),
    ...before.map((id, i) => [`${BEFORE}${i}`, String(id)] as const),
  ])
  return {
    ...verdict,
    exhibits: verdict.exhibits.map((exhibit) =>
      exhibit.device === undefined ? { ...exhibit, record: ids.get(exhibit.record) ?? exhibit.record } : exhibit,
    ),
  }
}

/** Numbers of 64 bits as they were kept, wherever in a buffer. */
function numbersIn(bytes: Buffer): Float64Array {
  return new Float64Array(Uint8Array.from(bytes).buffer)
}

function chunks<T>(all: readonly T[]): T[][] {
  return Array.from({ length: Math.ceil(all.length / MANY) }, (_, i) => all.slice(i * MANY, (i + 1) * MANY))
}

import { countVerdicts, verdictSchema, type Estate, type Seen, type Verdict } from '@jurybox/core'
import { In, type DataSource } from 'typeorm'
import { Judgements, type Judgement, type StoredVerdict } from '../db/entities.ts'
import { sha256 } from '../vault/vault.ts'
import { estateFrom } from './answers.ts'
import type { AuditAnswer } from './worker.ts'

/** A judgement as an audit needs it: without what it was found by. */
export type KeptJudgement = Pick<Judgement, 'id' | 'memoKey' | 'counts' | 'answersHash'>

/** Most keys or ids in one statement. */
const MANY = 1000
/** Judgements under the same key that are tried, the newest first: what changes to and fro is found again. */
const TRIED = 5

/** The answers of all devices as they are needed: by their hash alone where nothing has to be looked up in them. */
export interface EstateAtHand {
  readonly hash: string
  /** Read when first asked for. */
  load(): Promise<{ readonly estate: Estate; readonly serialized: Uint8Array }>
}

/** What devices came to, kept under everything that it depends on. What is kept is never changed. */
export class JudgementMemory {
  constructor(readonly database: DataSource) {}

  /**
   * Those of the keys whose judgement still holds.
   * @param now milliseconds since 1970; a judgement that rests on the time holds until the time it names
   * @param estate for judgements that rest on the answers of all devices
   */
  async recall(keys: readonly string[], now: number, estate: EstateAtHand | null): Promise<Map<string, KeptJudgement>> {
    const found = new Map<string, KeptJudgement>()
    const doubtful: Judgement[] = []
    for (const some of chunks(keys)) {
      const rows = await this.#rows.find({ where: { memoKey: In(some) }, select: { id: true, memoKey: true, validUntil: true, counts: true, answersHash: true, estateHash: true }, order: { id: 'DESC' } })
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

  /** Other answers than those it was found under: it holds where all that it looked up is the same. */
  async #lookAgain(open: readonly Judgement[], found: Map<string, KeptJudgement>, { hash, load }: EstateAtHand): Promise<void> {
    const { estate } = await load()
    const tries = new Map<string, number>()
    const again: number[] = []
    for (const some of chunks(open)) {
      const seen = new Map((await this.#rows.find({ where: { id: In(some.map(({ id }) => id)) }, select: { id: true, seen: true } })).map((row) => [row.id, row.seen] as const))
      for (const row of some) {
        const tried = tries.get(row.memoKey) ?? 0
        if (found.has(row.memoKey) || tried >= TRIED) continue
        tries.set(row.memoKey, tried + 1)
        // Written by this build, which the key names, so it is not checked again.
        if (!estate.stillHolds(JSON.parse(seen.get(row.id) ?? '[]') as Seen[])) continue
        found.set(row.memoKey, row)
        again.push(row.id)
      }
    }
    for (const ids of chunks(again)) await this.#rows.update({ id: In(ids) }, { estateHash: hash })
  }

  /** Keeps what was computed, with its verdicts: both or neither. */
  async keep(memoKey: string, { verdicts, answers, until, seen }: AuditAnswer, estateHash: string, placeOf: (verdict: Verdict) => number): Promise<KeptJudgement> {
    const counts = countVerdicts(verdicts)
    const answersHash = sha256(answers)
    return this.database.transaction(async (manager) => {
      const { id } = await manager.save(
        Judgements,
        manager.create(Judgements, { memoKey, validUntil: until === null ? null : new Date(until), counts, answers: Buffer.from(answers), answersHash, estateHash, seen: JSON.stringify(seen) }),
      )
      const rows = verdicts.map((v) => [id, v.device, v.benchmark, v.rule, v.outcome, v.severity, v.branch, v.note, placeOf(v), JSON.stringify(v)])
      // Without an object of the mapper for each of a hundred rows.
      if (rows.length > 0) await manager.query('INSERT INTO verdicts (judgement_id, device, benchmark, rule, outcome, severity, branch, note, place, body) VALUES ?', [rows])
      return { id, memoKey, counts, answersHash }
    })
  }

  /** What devices have answered, as kept with their judgements. */
  estateOf(own: readonly { readonly device: string; readonly judgement: KeptJudgement }[]): EstateAtHand {
    let loaded: ReturnType<EstateAtHand['load']> | null = null
    return {
      hash: sha256(JSON.stringify(own.map(({ device, judgement }) => [device, judgement.answersHash]))),
      load: () =>
        (loaded ??= (async () => {
          const answers = new Map<number, Buffer>()
          for (const ids of chunks(own.map(({ judgement }) => judgement.id))) {
            for (const row of await this.#rows.find({ where: { id: In(ids) }, select: { id: true, answers: true } })) answers.set(row.id, row.answers)
          }
          return estateFrom(own.map(({ device, judgement }) => [device, answers.get(judgement.id) ?? Buffer.alloc(0)] as const))
        })()),
    }
  }

  get #rows() {
    return this.database.getRepository(Judgements)
  }
}

/** In what is remembered, records are known by their places among those of the device: here they get their ids. */
export const [NOW, BEFORE] = ['now', 'before']

export function placed(verdict: Verdict, records: readonly (string | number)[], before: readonly (string | number)[]): Verdict {
  const ids = new Map<string, string>([...records.map((id, i) => [`${NOW}${i}`, String(id)] as const), ...before.map((id, i) => [`${BEFORE}${i}`, String(id)] as const)])
  return { ...verdict, exhibits: verdict.exhibits.map((exhibit) => ({ ...exhibit, record: ids.get(exhibit.record) ?? exhibit.record })) }
}

/** The whole verdict of a row, with the records of its audit. */
export function verdictOf({ body, records, beforeRecords }: Pick<StoredVerdict, 'body' | 'records' | 'beforeRecords'>): Verdict {
  return placed(verdictSchema.parse(JSON.parse(body)), records, beforeRecords)
}

function chunks<T>(all: readonly T[]): T[][] {
  return Array.from({ length: Math.ceil(all.length / MANY) }, (_, i) => all.slice(i * MANY, (i + 1) * MANY))
}

import { openPool } from '../jobs/pool.ts'
import type { Verdict } from '@jurybox/core'
import { judgedOf } from '@jurybox/core/analysis'
import type { CompiledBenchmark } from '@jurybox/core/benchmarks'
import {
  subjectKey,
  subjectsOf,
  taskRecordsOf,
  type JudgedSubject,
  type Needs as JudgingNeeds,
} from '../audits/judging.ts'
import { placed } from '../audits/verdict-cache.ts'
import type { ExampleAnswer } from '../audits/audit-task.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { TrialAnswer, TrialTask } from './trial-worker.ts'

/** What is needed of the rest of the server. */
export type Needs = Pick<JudgingNeeds, 'database' | 'estate' | 'records' | 'snapshots'>

export interface TriedDevice {
  readonly deviceId: number
  readonly device: string
  readonly verdicts: readonly Verdict[]
}

/** Devices that are sent to the worker at a time: between two loads a trial can be stopped. */
const AT_ONCE = 40

/** Rules that are being written, put to devices that stay read between one edit and the next. Nothing is kept. */
export class Trial {
  readonly #pool = openPool<TrialTask, TrialAnswer>(new URL('./trial-worker.ts', import.meta.url), {
    // One worker: what one has read another would not know.
    threads: 1,
    idleSeconds: 600,
    memoryMb: 3072,
    youngMb: 96,
  })

  readonly #examples = openPool<string, ExampleAnswer[]>(new URL('../audits/audit-task.ts', import.meta.url), {
    task: 'examplesTask',
    threads: 1,
    idleSeconds: 30,
    memoryMb: 512,
  })

  constructor(readonly services: Needs) {}

  /** What the examples of a text come to. @param signal ends the worker */
  async examplesOf(text: string, signal: AbortSignal): Promise<ExampleAnswer[]> {
    return this.#examples.run(text, { signal })
  }

  /**
   * @param rules ids of the rules that are asked; all of them where null
   * @param devices ids of the devices that answer; all of them where null. Questions across devices are put to these
   *   alone
   * @param signal ends the worker, whatever it does
   */
  async answers(
    snapshot: SnapshotRow,
    text: string,
    needs: CompiledBenchmark['needs'],
    rules: readonly string[] | null,
    devices: readonly number[] | null,
    signal: AbortSignal,
  ): Promise<TriedDevice[]> {
    const chosen = devices && new Set(devices)
    const subjects = (await subjectsOf(this.services, snapshot, [{ needs }])).filter(
      ({ id }) => chosen === null || chosen.has(id),
    )
    const maskKey = await this.services.records.maskKeyOf(snapshot.engagementId)
    const keys = new Map(subjects.map((subject) => [subjectKey(subject, maskKey), subject] as const))
    const task = { keys: [...keys.keys()], text, rules, now: Date.now() }
    let answer = await this.#pool.run(task, { signal })
    if (answer.missing.length > 0) {
      for (let from = 0; from < answer.missing.length; from += AT_ONCE) {
        const some = answer.missing.slice(from, from + AT_ONCE).flatMap((key) => keys.get(key) ?? [])
        await this.#pool.run({ load: await this.#loaded(some, maskKey), maskKey }, { signal })
        signal.throwIfAborted()
      }
      answer = await this.#pool.run(task, { signal })
    }
    if (answer.missing.length > 0) throw new Error('the devices do not stay at hand')
    return [...keys.values()].map(({ id: deviceId, name: device, records, before }, i) => {
      const ids = [records, before ?? []].map((held) => held.map(({ id }) => id))
      return {
        deviceId,
        device,
        verdicts: (answer.verdicts[i] ?? []).map((verdict) => placed(verdict, ids[0] ?? [], ids[1] ?? [])),
      }
    })
  }

  async #loaded(
    subjects: readonly JudgedSubject[],
    maskKey: Buffer,
  ): Promise<Extract<TrialTask, { load: unknown }>['load']> {
    const texts = await this.services.records.texts(
      subjects.flatMap(({ records, before }) => [...records, ...(before ?? [])].map(({ sha256 }) => sha256)),
    )
    return subjects.map((subject) => ({
      key: subjectKey(subject, maskKey),
      name: subject.name,
      dialect: judgedOf(subject.records)?.dialect ?? '',
      facts: subject.facts,
      ...taskRecordsOf(subject, texts),
    }))
  }

  async close(): Promise<void> {
    await Promise.all([this.#pool.close({ force: true }), this.#examples.close({ force: true })])
  }
}

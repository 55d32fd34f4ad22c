import { availableParallelism } from 'node:os'
import type { SnapshotFile } from '@jurybox/core'
import { TookTooLong, openPool } from '../jobs/pool.ts'
import { Problem } from '../http/problem.ts'
import type * as Worker from './worker.ts'
import type { Taken } from './worker.ts'

/** What reading something from outside may take; beyond it the worker is ended and made anew. */
export const WORK_LIMITS = {
  /** Seconds for the files of one intake. */
  intakeSeconds: 180,
  /** Seconds for the body of one request. */
  jsonSeconds: 10,
  /** Seconds for the lines of one record. */
  linesSeconds: 60,
  /** Seconds for a text of rules that is being written. */
  draftSeconds: 10,
  /** Of each worker. */
  memoryMb: 1536,
} as const

/** Folders of devices that are read in one go. */
const AT_ONCE = 40

type Tasks = Omit<typeof Worker, 'default'>
type TaskName = keyof Tasks
type Answer<N extends TaskName> = ReturnType<Tasks[N]>

/** Where what comes from outside is taken apart: in worker threads, with an end to their time and memory. */
export class Workbench {
  readonly #pool = openPool(new URL('./worker.ts', import.meta.url), {
    threads: Math.max(1, availableParallelism() - 1),
    idleSeconds: 30,
    memoryMb: WORK_LIMITS.memoryMb,
    youngMb: 64,
  })

  /** @throws Problem where reading them takes too long or too much memory */
  async importFolders(folders: readonly (readonly SnapshotFile[])[]): Promise<Taken> {
    const parts: Taken[] = []
    for (let from = 0; from < Math.max(1, folders.length); from += AT_ONCE) {
      parts.push(
        await this.#run('importFolders', folders.slice(from, from + AT_ONCE), WORK_LIMITS.intakeSeconds, 'The files'),
      )
    }
    const [first] = parts
    if (!first) throw new Error('nothing was read')
    return {
      ...first,
      devices: parts.flatMap(({ devices }) => devices),
      refused: parts.flatMap(({ refused }) => refused),
      sameName: parts.flatMap(({ sameName }) => sameName),
      unsettled: parts.flatMap(({ unsettled }) => unsettled),
    }
  }

  /** @throws Problem where the text is no JSON */
  async json(bytes: Uint8Array): Promise<unknown> {
    return this.#run('parseJson', bytes, WORK_LIMITS.jsonSeconds, 'The body')
  }

  /** The lines of a record with its secrets masked. */
  async maskedLines(task: Parameters<Tasks['maskedLines']>[0]): Promise<string[]> {
    return this.#run('maskedLines', task, WORK_LIMITS.linesSeconds, 'The record')
  }

  /** Any other reading of one device, or of a text of rules. */
  async read<N extends Exclude<TaskName, 'importFolders' | 'parseJson' | 'maskedLines'>>(
    name: N,
    task: Parameters<Tasks[N]>[0],
  ): Promise<Answer<N>> {
    const isText = name === 'draft' || name === 'pasted' || name === 'stated' || name === 'changeFile'
    return this.#run(
      name,
      task,
      isText ? WORK_LIMITS.draftSeconds : WORK_LIMITS.linesSeconds,
      isText ? 'The text' : 'The record',
    )
  }

  async #run<N extends TaskName>(
    name: N,
    task: Parameters<Tasks[N]>[0],
    seconds: number,
    what: string,
  ): Promise<Answer<N>> {
    try {
      return (await this.#pool.run(task, { name, limitMs: seconds * 1000 })) as Answer<N>
    } catch (error) {
      if (error instanceof TookTooLong)
        throw new Problem(422, `${what} took more than ${seconds} seconds to parse and was stopped.`)
      if (codeOf(error) === 'ERR_WORKER_OUT_OF_MEMORY')
        throw new Problem(422, `${what} took more than ${WORK_LIMITS.memoryMb} MB of memory to parse and was stopped.`)
      if (error instanceof SyntaxError) throw new Problem(400, `${what} could not be read: expected JSON.`)
      throw error
    }
  }

  async close(): Promise<void> {
    await this.#pool.close({ force: true })
  }
}

function codeOf(error: unknown): unknown {
  return error instanceof Error && 'code' in error ? error.code : null
}

import { expect } from 'chai'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { openPool, poolFaults } from '../src/jobs/pool.ts'

describe('a pool of worker threads', () => {
  const folder = mkdtempSync(join(tmpdir(), 'pool-'))
  const worker = (name: string, text: string): URL => {
    const path = join(folder, name)
    writeFileSync(path, text)
    return pathToFileURL(path)
  }
  const options = { threads: 1, idleSeconds: 60, memoryMb: 60 }
  const faults: unknown[] = []
  const hear = (fault: unknown): void => void faults.push(fault)
  before(() => poolFaults.on('fault', hear))
  after(() => {
    poolFaults.off('fault', hear)
    rmSync(folder, { recursive: true })
  })
  const outcomes = (all: readonly Promise<unknown>[]): Promise<string[]> =>
    Promise.all(
      all.map((one) =>
        one.then(
          (value) => `done ${String(value)}`,
          (error: Error) => `failed ${error.message.split('\n')[0] ?? ''}`,
        ),
      ),
    )
  const WORK = `export default async (task) => {
    if (task === 'exit') process.exit(3)
    if (task === 'fill') for (const all = []; ; ) all.push(new Array(1e6).fill(1.5))
    if (task === 'throw') throw new Error('refused')
    await new Promise((resolve) => setTimeout(resolve, 20))
    return task
  }`

  it('answers each task, also where a thread ends while others wait', async () => {
    const pool = openPool<string, string>(worker('work.mjs', WORK), options)
    expect(await outcomes(['a', 'exit', 'b', 'throw', 'c', 'fill', 'd'].map((task) => pool.run(task)))).to.deep.equal([
      'done a',
      'failed worker exited with code: 3',
      'done b',
      'failed refused',
      'done c',
      'failed Worker terminated due to reaching memory limit: JS heap out of memory',
      'done d',
    ])
    expect(pool.queueSize).to.equal(0)
    await pool.destroy()
  })

  it('gives each task its time from its begin: one that waited for another is not late', async () => {
    const pool = openPool<number, string>(
      worker('slow.mjs', 'export default (ms) => new Promise((resolve) => setTimeout(resolve, ms, `${ms}`))'),
      options,
    )
    await pool.run(1)
    const limit = { limitMs: 2000 }
    expect(await outcomes([60_000, 10, 1200, 1200].map((task) => pool.run(task, limit)))).to.deep.equal([
      'failed The work took more than 2000 ms and was stopped.',
      'done 10',
      'done 1200',
      'done 1200',
    ])
    await pool.destroy()
  })

  it('is ended by its signal, whether it works or waits', async () => {
    const pool = openPool<number, string>(worker('ended.mjs', 'export default () => new Promise(() => {})'), options)
    const leaving = new AbortController()
    const all = [1, 2].map((task) => pool.run(task, { signal: leaving.signal, limitMs: 60_000 }))
    setTimeout(() => leaving.abort(), 100)
    expect(await outcomes(all)).to.deep.equal([
      'failed The task has been aborted',
      'failed The task was stopped before it began.',
    ])
    await pool.destroy()
  })

  it('fails each task where the worker cannot be loaded, rather than let it wait for ever', async () => {
    const pool = openPool<string, string>(worker('broken.mjs', `throw new Error('cannot be loaded')`), options)
    expect(await outcomes(['a', 'b'].map((task) => pool.run(task)))).to.deep.equal([
      'failed cannot be loaded',
      'failed cannot be loaded',
    ])
    expect(await outcomes([pool.run('c')])).to.deep.equal(['failed cannot be loaded'])
    expect(faults.map((fault) => (fault as Error).message)).to.include('cannot be loaded')
  })

  it('counts the tasks that wait, and lets those go that are stopped', async () => {
    const pool = openPool<string, string>(worker('again.mjs', WORK), options)
    const stop = new AbortController()
    const all = [pool.run('a'), pool.run('b', { signal: stop.signal }), pool.run('c')]
    expect(pool.queueSize).to.be.greaterThan(1)
    stop.abort()
    expect(await outcomes(all)).to.deep.equal(['done a', 'failed The task was stopped before it began.', 'done c'])
    expect(pool.queueSize).to.equal(0)
    await pool.destroy()
  })
})

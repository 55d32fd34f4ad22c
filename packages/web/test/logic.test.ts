import { expect } from 'chai'
import { z } from 'zod'
import { createPinia, setActivePinia } from 'pinia'
import { createSSRApp } from 'vue'
import { renderToString } from 'vue/server-renderer'
import { ApiError } from '../src/api/client.ts'
import { useAttempt } from '../src/shared/attempt.ts'
import { groupOf, grouped, waysToGroup } from '../src/shared/device-groups.ts'
import { usePolling } from '../src/shared/polling.ts'
import { filesOfDrop } from '../src/snapshots/dropped-files.ts'
import { useExhibit } from '../src/stores/exhibit.ts'
import { useJobs } from '../src/stores/jobs.ts'

const real = globalThis.fetch
const json = (body: unknown, status = 200): Response => new Response(JSON.stringify(body), { status })
/** What a component has at hand. */
async function inComponent<T>(setup: () => T): Promise<T> {
  const made: T[] = []
  await renderToString(
    createSSRApp({
      setup: () => {
        made.push(setup())
        return () => ''
      },
    }),
  )
  return made[0] as T
}
/** A server that answers each path by a function of how often it was asked. */
function serve(answers: Readonly<Record<string, (time: number) => Response | Promise<Response>>>): string[] {
  const asked: string[] = []
  globalThis.fetch = (async (url: string) => {
    asked.push(url)
    return answers[url]?.(asked.filter((one) => one === url).length) ?? json({ error: 'not there' }, 404)
  }) as typeof fetch
  return asked
}

describe('logic of the pages', () => {
  before(() => {
    const held = new Map<string, string>()
    Object.assign(globalThis, {
      localStorage: {
        getItem: (key: string) => held.get(key) ?? null,
        setItem: (key: string, value: string) => void held.set(key, value),
      },
    })
  })
  beforeEach(() => setActivePinia(createPinia()))
  afterEach(() => (globalThis.fetch = real))
  after(() => Reflect.deleteProperty(globalThis, 'localStorage'))

  describe('an attempt', () => {
    it('shows why it failed, and nothing of an earlier failure once it succeeds', async () => {
      let after = 0
      const { problem, attempt } = useAttempt(() => after++)
      expect(await attempt(() => Promise.reject(new Error('no room')))).to.equal(false)
      expect([problem.value, after]).to.deep.equal(['no room', 0])
      expect(await attempt(() => Promise.resolve())).to.equal(true)
      expect([problem.value, after]).to.deep.equal(['', 1])
    })
  })

  describe('polling', () => {
    const words = z.string()
    const rows = z.strictObject({ rows: z.number() })
    const endpoint = <R extends z.ZodType>(path: string, response: R) => ({
      method: 'get' as const,
      path,
      access: 'everyone' as const,
      summary: '',
      query: z.object({ q: z.string().optional(), none: z.string().optional() }),
      response,
    })
    const still = (done: number): Response => json({ reading: { done, total: 9 } }, 202)

    it('asks again until the server is done, and tells how far it is', async () => {
      const asked = serve({ '/api/x?q=a': (time) => (time < 3 ? still(time) : json({ rows: 4 })) })
      const { ask, reading } = await inComponent(usePolling)
      const answer = ask(endpoint('/x', rows), { query: { q: 'a', none: undefined } })
      await new Promise((resolve) => setTimeout(resolve, 100))
      expect(reading.value).to.deep.include({ done: 1, total: 9 })
      expect(await answer).to.deep.equal({ rows: 4 })
      expect([asked.length, reading.value]).to.deep.equal([3, null])
    })

    it('gives no answer to an earlier question once a later one was asked', async () => {
      let release = (_: Response): void => undefined
      serve({ '/api/slow': () => new Promise((resolve) => (release = resolve)), '/api/quick': () => json('quick') })
      const { ask } = await inComponent(usePolling)
      const slow = ask(endpoint('/slow', words))
      expect(await ask(endpoint('/quick', words))).to.equal('quick')
      release(json('slow'))
      expect(await slow).to.equal(null)
    })

    it('hands on what went wrong', async () => {
      serve({ '/api/x': () => json({ error: 'There is no such filter.' }, 422) })
      const { ask, reading } = await inComponent(usePolling)
      const failed = await ask(endpoint('/x', words)).then(
        () => null,
        (error: unknown) => error,
      )
      expect(failed).to.be.instanceOf(ApiError).and.include({ message: 'There is no such filter.' })
      expect(reading.value).to.equal(null)
    })
  })

  describe('the exhibit panel', () => {
    const text = (id: number): object => ({ id, lines: ['a', 'b'] })

    it('asks for a record once, and marks other lines of it without asking', async () => {
      let asked = 0
      globalThis.fetch = (async () => {
        asked++
        return json(text(4))
      }) as typeof fetch
      const exhibit = useExhibit()
      await exhibit.show(4, [{ from: 2, to: 2, absent: false }])
      await exhibit.show(4, [{ from: 1, to: 1, absent: false }])
      expect(asked).to.equal(1)
      expect(exhibit.ranges).to.deep.equal([{ from: 1, to: 1, absent: false }])
      exhibit.clear()
      expect([exhibit.record, exhibit.ranges]).to.deep.equal([null, []])
    })

    it('says what went wrong in place of the lines', async () => {
      globalThis.fetch = (async () => json({ error: 'The record is damaged.' }, 410)) as typeof fetch
      const exhibit = useExhibit()
      await exhibit.show(5)
      expect([exhibit.problem, exhibit.record]).to.deep.equal(['The record is damaged.', null])
    })

    it('opens when lines are to be seen, and remembers whether it is open', async () => {
      globalThis.fetch = (async () => json(text(6))) as typeof fetch
      const exhibit = useExhibit()
      if (exhibit.open) exhibit.toggle()
      expect(localStorage.getItem('exhibit-panel')).to.equal('closed')
      await exhibit.reveal(6)
      expect([exhibit.open, localStorage.getItem('exhibit-panel')]).to.deep.equal([true, 'open'])
    })
  })

  describe('jobs', () => {
    it('are kept up to date by what is heard, newest first, and told to listeners until they leave', () => {
      globalThis.fetch = (async () => json({})) as typeof fetch
      const jobs = useJobs()
      const heard: string[] = []
      const leave = jobs.onJob(({ id, state }) => heard.push(`${id} ${state}`))
      const job = (id: number, state: string): never => ({ id, state }) as never
      jobs.hear(job(1, 'running'))
      jobs.hear(job(2, 'running'))
      jobs.hear(job(1, 'running'))
      leave()
      jobs.hear(job(2, 'running'))
      expect(jobs.jobs.map(({ id }) => id)).to.deep.equal([2, 1])
      expect(jobs.running).to.have.length(2)
      expect(heard).to.deep.equal(['1 running', '2 running', '1 running'])
    })
  })

  describe('groups of devices', () => {
    const devices = [
      { name: 'a', facts: { site: 'quay', labels: { card: true } } },
      { name: 'b', facts: { site: 'dock', role: 'edge' } },
      { name: 'c', facts: { labels: { card: false } } },
    ] as never as { name: string; facts: never }[]

    it('can be made by each fact and label that some device has', () => {
      expect(waysToGroup(devices).map(({ value }) => value)).to.deep.equal(['site', 'role', 'label card'])
      expect(waysToGroup([])).to.deep.equal([])
    })

    it('keep devices of which nothing is stated, under that name', () => {
      expect(grouped(devices, 'site').map(({ title, devices: own }) => [title, own.length])).to.deep.equal([
        ['dock', 1],
        ['not stated', 1],
        ['quay', 1],
      ])
      expect(devices.map(({ facts }) => groupOf(facts, 'label card'))).to.deep.equal(['true', 'not stated', 'false'])
    })
  })

  describe('dropped files', () => {
    const file = (fullPath: string): object => ({
      isFile: true,
      fullPath,
      file: (give: (blob: Blob) => void) => give(new Blob([fullPath])),
    })
    const folder = (parts: readonly (readonly object[])[]): object => ({
      isFile: false,
      createReader: () => {
        const left = [...parts]
        return { readEntries: (give: (some: readonly object[]) => void) => give(left.shift() ?? []) }
      },
    })
    const drop = (entries: readonly (object | null)[], files: readonly object[] = []): never =>
      ({ items: entries.map((entry) => ({ webkitGetAsEntry: () => entry })), files }) as never

    it('are those of folders too, at whatever depth, however many parts a folder is handed out in', async () => {
      const inner = folder([[file('/site/dev/config.txt')], [file('/site/dev/state.txt')]])
      const all = await filesOfDrop(drop([file('/a.cfg'), folder([[inner], [file('/site/b.cfg')]])]))
      expect(all.map(({ path }) => path)).to.deep.equal([
        'a.cfg',
        'site/dev/config.txt',
        'site/dev/state.txt',
        'site/b.cfg',
      ])
    })

    it('are taken as plain files where the browser knows no folders', async () => {
      expect((await filesOfDrop(drop([null], [{ name: 'x.cfg' }]))).map(({ path }) => path)).to.deep.equal(['x.cfg'])
    })
  })
})

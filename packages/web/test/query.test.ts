import { expect } from 'chai'
import { effectScope, nextTick, reactive, type EffectScope } from 'vue'
import { z } from 'zod'
import { useQuery } from '../src/shared/query.ts'
import { useSettled } from '../src/shared/settled.ts'

const real = globalThis.fetch
const pause = (ms = 0): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))
const json = (body: unknown, status = 200): Response => new Response(JSON.stringify(body), { status })
const rows = {
  method: 'get' as const,
  path: '/rows',
  access: 'everyone' as const,
  summary: '',
  query: z.object({ of: z.string() }),
  response: z.string(),
}

/** A server whose answers come when the test lets them. */
function held(): { asked: string[]; answer: (of: string, response?: Response) => Promise<void> } {
  const waiting = new Map<string, (response: Response) => void>()
  const asked: string[] = []
  globalThis.fetch = ((url: string) => {
    const of = new URL(url, 'http://here').searchParams.get('of') ?? ''
    asked.push(of)
    return new Promise((resolve) => waiting.set(of, resolve))
  }) as typeof fetch
  const answer = async (of: string, response = json(`rows of ${of}`)): Promise<void> => {
    waiting.get(of)?.(response)
    await pause()
  }
  return { asked, answer }
}

describe('what a page asks', () => {
  let scope: EffectScope
  const within = <T>(setup: () => T): T => scope.run(setup) as T
  beforeEach(() => (scope = effectScope()))
  afterEach(() => {
    scope.stop()
    globalThis.fetch = real
  })

  const asking = (options = {}) => {
    const question = reactive<{ of: string | null }>({ of: 'a' })
    const query = within(() =>
      useQuery(rows, () => (question.of === null ? null : { query: { of: question.of } }), options),
    )
    return { question, ...query }
  }

  it('is asked at once, and again when the question is another; until then the last answer stays', async () => {
    const server = held()
    const { question, data, loading } = asking()
    expect([data.value, loading.value]).to.deep.equal([null, true])
    await server.answer('a')
    expect([data.value, loading.value]).to.deep.equal(['rows of a', false])
    question.of = 'b'
    await nextTick()
    expect([data.value, loading.value]).to.deep.equal(['rows of a', true])
    await server.answer('b')
    expect(data.value).to.equal('rows of b')
  })

  it('asked afresh, takes the answer to another question off the screen', async () => {
    const server = held()
    const { question, data, load } = asking({ afresh: true })
    await server.answer('a')
    void load()
    expect(data.value, 'the same question again').to.equal('rows of a')
    question.of = 'b'
    await nextTick()
    expect(data.value).to.equal(null)
  })

  it('shows nothing where nothing is asked, not even an answer that was on its way', async () => {
    const server = held()
    const { question, data, loading } = asking()
    await server.answer('a')
    question.of = 'b'
    await nextTick()
    question.of = null
    await nextTick()
    await server.answer('b')
    expect([data.value, loading.value]).to.deep.equal([null, false])
  })

  it('never shows the answer or the failure of an earlier question after a later one', async () => {
    const server = held()
    const { question, data, problem } = asking()
    question.of = 'b'
    await nextTick()
    await server.answer('b')
    await server.answer('a', json({ error: 'Too late.' }, 422))
    expect([data.value, problem.value]).to.deep.equal(['rows of b', ''])
  })

  it('does not ask again for a question that only looks new', async () => {
    const server = held()
    const { question } = asking()
    question.of = 'b'
    question.of = 'a'
    await nextTick()
    expect(server.asked).to.deep.equal(['a'])
  })

  it('tells what went wrong, until it went right', async () => {
    const server = held()
    const { problem, load } = asking()
    await server.answer('a', json({ error: 'The server is full.' }, 503))
    expect(problem.value).to.equal('The server is full.')
    void load()
    await server.answer('a')
    expect(problem.value).to.equal('')
  })

  it('asks again after an action, and then says that something changed; not after one that failed', async () => {
    const server = held()
    let changes = 0
    const { attempt, problem } = asking({ changed: () => changes++ })
    await server.answer('a')
    expect(await attempt(() => Promise.reject(new Error('no')))).to.equal(false)
    expect([server.asked.length, changes, problem.value]).to.deep.equal([1, 0, 'no'])
    const done = attempt(() => Promise.resolve())
    await pause()
    await server.answer('a')
    expect(await done).to.equal(true)
    expect([server.asked.length, changes, problem.value]).to.deep.equal([2, 1, ''])
  })

  it('waits no longer once it is stopped, and keeps what is shown', async () => {
    const server = held()
    const { data, loading, load, stop } = asking()
    await server.answer('a')
    void load()
    stop()
    await server.answer('a', json('later'))
    expect([data.value, loading.value]).to.deep.equal(['rows of a', false])
  })

  it('follows what somebody types once it has not changed for a moment', async () => {
    const form = reactive({ text: 'a' })
    const settled = within(() => useSettled(() => form.text, 20))
    expect(settled.value).to.equal('a')
    for (const text of ['ab', 'abc']) {
      form.text = text
      await pause(5)
      expect(settled.value).to.equal('a')
    }
    await pause(40)
    expect(settled.value).to.equal('abc')
  })
})

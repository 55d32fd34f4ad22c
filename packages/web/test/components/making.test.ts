import { expect } from 'chai'
import { settled, shown } from './stage.ts'
import type { Making } from '../../src/shared/making.ts'

describe('files that the server needs a while to make', () => {
  const real = { fetch: globalThis.fetch, create: URL.createObjectURL, revoke: URL.revokeObjectURL }
  afterEach(() => {
    globalThis.fetch = real.fetch
    Object.assign(URL, { createObjectURL: real.create, revokeObjectURL: real.revoke })
  })

  /** What a server is asked, and how each answer comes. */
  interface Asked {
    readonly address: string
    readonly signal: AbortSignal
    answer(response: Response): void
  }

  async function stage() {
    const { useMaking } = await import('../../src/shared/making.ts')
    const asked: Asked[] = []
    const saved: number[] = []
    globalThis.fetch = ((address: string, init: RequestInit) =>
      new Promise((resolve, reject) => {
        const signal = init.signal as AbortSignal
        signal.addEventListener('abort', () => reject(new DOMException('Stopped.', 'AbortError')))
        asked.push({ address, signal, answer: resolve })
      })) as unknown as typeof fetch
    Object.assign(URL, {
      createObjectURL: ({ size }: Blob) => `blob:${saved.push(size)}`,
      revokeObjectURL: () => undefined,
    })
    let made: Making | null = null
    const { wrapper } = await shown({
      setup: () => {
        made = useMaking()
        return () => null
      },
    })
    return { making: made as unknown as Making, asked, saved, wrapper }
  }

  it('are told while they are made, several at a time, and handed over', async () => {
    const { making, asked, saved, wrapper } = await stage()
    void making.make('a.pdf', '/api/a')
    void making.make('b.csv', '/api/b')
    void making.make('a.pdf', '/api/a')
    expect(asked.map(({ address }) => address)).to.deep.equal(['/api/a', '/api/b'])
    expect(making.making.value).to.deep.equal(['a.pdf', 'b.csv'])
    asked[1]?.answer(new Response('12345'))
    await settled()
    expect([making.making.value, saved]).to.deep.equal([['a.pdf'], [5]])
    wrapper.unmount()
  })

  it('are stopped when asked, on the server too, and when the page is left; nothing is said to be wrong', async () => {
    const { making, asked, saved, wrapper } = await stage()
    void making.make('a.pdf', '/api/a')
    void making.make('b.pdf', '/api/b')
    making.stop('a.pdf')
    await settled()
    expect(asked.map(({ signal }) => signal.aborted)).to.deep.equal([true, false])
    expect([making.making.value, making.problem.value, saved]).to.deep.equal([['b.pdf'], '', []])
    wrapper.unmount()
    expect(asked[1]?.signal.aborted).to.equal(true)
  })

  it('say what went wrong', async () => {
    const { making, asked, saved, wrapper } = await stage()
    void making.make('a.pdf', '/api/a')
    asked[0]?.answer(new Response(JSON.stringify({ error: 'PDF needs the program chromium.' }), { status: 503 }))
    await settled()
    expect([making.problem.value, making.making.value, saved]).to.deep.equal([
      'PDF needs the program chromium.',
      [],
      [],
    ])
    wrapper.unmount()
  })
})

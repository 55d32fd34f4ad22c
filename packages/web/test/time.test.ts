import { expect } from 'chai'
import { absoluteTime, relativeTime } from '../src/shared/time.ts'

describe('times on the screen', () => {
  const now = Date.parse('2026-11-24T12:00:00Z')
  const cases: [string, string][] = [
    ['2026-11-24T11:59:40Z', 'just now'],
    ['2026-11-24T11:57:00Z', '3 minutes ago'],
    ['2026-11-24T09:00:00Z', '3 hours ago'],
    ['2026-11-23T12:00:00Z', 'yesterday'],
    ['2026-11-17T11:00:00Z', '7 days ago'],
    ['2026-09-20T00:00:00Z', '2 months ago'],
    ['2024-11-01T00:00:00Z', '2 years ago'],
  ]
  for (const [at, words] of cases) it(`${at}: ${words}`, () => expect(relativeTime(at, now)).to.equal(words))
  it('absolute times are UTC', () => expect(absoluteTime('2026-11-24T12:00:00+02:00')).to.equal('2026-11-24 10:00 UTC'))
})

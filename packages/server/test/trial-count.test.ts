import { expect } from 'chai'
import type { ActivityLog, NewActivity } from '../src/activity/activity.ts'
import { lineOf, lineOrNone } from '@jurybox/api/text'
import { TRIALS_A_MINUTE, TrialCount } from '../src/rules/trial-count.ts'

describe('trials of rules', () => {
  function counting(): { count: TrialCount; log: NewActivity[] } {
    const log: NewActivity[] = []
    const activity: Pick<ActivityLog, 'add'> = { add: async (deed) => void log.push(deed) }
    return { count: new TrialCount(activity as ActivityLog), log }
  }

  it('are in the audit log, a minute of them as one entry', async () => {
    const { count, log } = counting()
    for (let i = 0; i < 5; i++) await count.count(1, 2, 'own', 1000 * i)
    await count.count(1, 2, 'own', 70_000)
    expect(log.map(({ action, detail }) => [action, detail])).to.deep.equal([
      ['rules tried', { benchmark: 'own', more: 0 }],
      ['rules tried', { benchmark: 'own', more: 4 }],
    ])
  })

  it('are limited for each person', async () => {
    const { count } = counting()
    for (let i = 0; i < TRIALS_A_MINUTE; i++) await count.count(1, 2, 'own')
    let said = ''
    await count.count(1, 2, 'own').catch((error: unknown) => (said = String(error)))
    expect(said).to.contain('trials in a minute')
    await count.count(3, 2, 'own')
  })
})

describe('titles', () => {
  it('are one line without control characters', () => {
    for (const wrong of ['', '  ', 'a\nb', 'a\r\nSet-Cookie: x', 'a\0b', 'x'.repeat(11)])
      expect(lineOf(10).safeParse(wrong).success, JSON.stringify(wrong)).to.equal(false)
    expect(lineOf(10).parse('  Fähre 1  ')).to.equal('Fähre 1')
    expect(lineOrNone(10).parse('')).to.equal('')
    expect(lineOrNone(10).safeParse('a\tb').success).to.equal(false)
  })
})

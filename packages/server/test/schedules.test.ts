import { expect } from 'chai'
import { Schedules } from '../src/schedules/entity.ts'
import type { Rhythm } from '@jurybox/api/rhythm'
import { cronOf, longestGap, missedSince, nextTimes, rhythmOf, wordsFor } from '../src/schedules/when.ts'
import { makeWorld, type World } from './world.ts'

describe('when something is done again', () => {
  const from = new Date('2026-11-26T05:00:00Z')
  const next = (cron: string, zone: string, count = 3): string[] =>
    nextTimes(cron, zone, from, count).map((time) => time.toISOString())

  // Worked by hand with a calendar: 26 November 2026 is a Thursday.
  const cases: [Rhythm, string, string, string, string[]][] = [
    [
      { every: 'day', at: '06:30' },
      '30 6 * * *',
      'every day at 06:30',
      'UTC',
      ['2026-11-26T06:30:00.000Z', '2026-11-27T06:30:00.000Z', '2026-11-28T06:30:00.000Z'],
    ],
    [
      { every: 'week', on: 7, at: '23:05' },
      '5 23 * * 0',
      'every Sunday at 23:05',
      'UTC',
      ['2026-11-29T23:05:00.000Z', '2026-12-06T23:05:00.000Z', '2026-12-13T23:05:00.000Z'],
    ],
    [
      { every: 'month', which: 1, on: 1, at: '06:30' },
      '30 6 * * 1#1',
      'on the first Monday of the month at 06:30',
      'Europe/Oslo',
      ['2026-12-07T05:30:00.000Z', '2027-01-04T05:30:00.000Z', '2027-02-01T05:30:00.000Z'],
    ],
    [
      { every: 'month', which: 5, on: 5, at: '12:00' },
      '0 12 * * 5#L',
      'on the last Friday of the month at 12:00',
      'UTC',
      ['2026-11-27T12:00:00.000Z', '2026-12-25T12:00:00.000Z', '2027-01-29T12:00:00.000Z'],
    ],
    [
      { every: 'cron', cron: '0 */8 1 * *' },
      '0 */8 1 * *',
      '0 */8 1 * *',
      'UTC',
      ['2026-12-01T00:00:00.000Z', '2026-12-01T08:00:00.000Z', '2026-12-01T16:00:00.000Z'],
    ],
  ]
  for (const [rhythm, cron, words, zone, times] of cases) {
    it(words, () => {
      expect([cronOf(rhythm), wordsFor(cron)]).to.deep.equal([cron, words])
      expect(rhythmOf(cron)).to.deep.equal(rhythm)
      expect(next(cron, zone)).to.deep.equal(times)
    })
  }

  it('keeps the hour of the clock when the clock is put forward', () => {
    // Central European summer time begins on 28 March 2027 at 01:00 UTC (Directive 2000/84/EC).
    expect(
      nextTimes('0 6 * * *', 'Europe/Berlin', new Date('2027-03-27T00:00:00Z'), 3).map((time) => time.toISOString()),
    ).to.deep.equal(['2027-03-27T05:00:00.000Z', '2027-03-28T04:00:00.000Z', '2027-03-29T04:00:00.000Z'])
  })

  it('knows what was missed, and how far apart the times lie', () => {
    expect(missedSince('30 6 * * *', 'UTC', new Date('2026-11-25T06:30:00Z'), from)).to.equal(false)
    expect(missedSince('30 6 * * *', 'UTC', new Date('2026-11-24T06:30:00Z'), from)).to.equal(true)
    expect(longestGap('30 6 * * *', 'UTC', from)).to.equal(1)
    expect(longestGap('0 0 1 1 *', 'UTC', from)).to.equal(366)
  })

  it('says what is wrong with a form or a zone', () => {
    expect(() => nextTimes('61 * * * *', 'UTC', from, 1)).to.throw('“61 * * * *” in the time zone “UTC”')
    expect(() => nextTimes('* * * * *', 'Nowhere/At_All', from, 1)).to.throw('Nowhere/At_All')
    expect(() => nextTimes('0 0 30 2 *', 'UTC', from, 1)).to.throw('never occurs')
  })
})

describe('schedules', function () {
  this.timeout(60_000)
  let world: World
  before(async () => {
    world = await makeWorld()
  })
  after(async () => world.end())

  it('audits at its times, and once what was missed while the server was down', async () => {
    let lead = await world.client('lead')
    const base = `/engagements/${world.engagement}`
    await lead.freeze(world.engagement, { 'a.cfg': 'hostname a\nip http server\n' })
    const body = {
      title: 'Night round',
      does: 'audit',
      rhythm: { every: 'day', at: '06:30' },
      zone: 'UTC',
      benchmarks: ['network-hardening'],
    }
    expect((await lead.post(`${base}/schedules`, { ...body, benchmarks: [] })).json.error).to.contain(
      'needs a benchmark',
    )
    expect(
      (await lead.post(`${base}/schedules`, { ...body, rhythm: { every: 'cron', cron: 'soon' } })).json.error,
    ).to.contain('“soon”')
    const { json: schedule } = await lead.post(`${base}/schedules`, body)
    expect(schedule).to.include({ words: 'every day at 06:30', lastAt: null })
    expect(schedule.next).to.have.length(5)
    expect((await lead.get(`${base}/reviews`)).json.length).to.be.greaterThan(0)
    await world.server.services.schedules.run(schedule.id)
    const ran = (await lead.get(`${base}/schedules`)).json[0]
    expect(ran.lastSaid).to.match(/^\d+ fail, /)
    expect((await lead.get(`${base}/chronicle`)).json.audits).to.have.length(1)

    await world.server.services.database
      .getRepository(Schedules)
      .update({ id: schedule.id }, { lastAt: new Date(Date.now() - 5 * 86_400_000), lastSaid: '' })
    world = await world.restart()
    lead = await world.client('lead')
    let audits = 0
    for (let tries = 0; tries < 200 && audits < 2; tries++) {
      audits = (await lead.get(`${base}/chronicle`)).json.audits.length
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
    expect(audits, 'once, however many nights were missed').to.equal(2)
    expect((await lead.put(`${base}/schedules/${schedule.id}`, { paused: true })).json).to.deep.include({
      paused: true,
      next: [],
    })
    expect((await lead.call('DELETE', `${base}/schedules/${schedule.id}`)).status).to.equal(204)
    expect((await lead.get(`${base}/schedules`)).json).to.deep.equal([])
  })

  it('says why something was not done, and goes on', async () => {
    const lead = await world.client('lead')
    const base = `/engagements/${world.engagement}`
    const { json: schedule } = await lead.post(`${base}/schedules`, {
      title: 'Collect',
      does: 'collect',
      rhythm: { every: 'week', on: 1, at: '06:30' },
      zone: 'UTC',
    })
    await world.server.services.schedules.run(schedule.id)
    expect((await lead.get(`${base}/schedules`)).json[0].lastSaid).to.equal(
      'failed: There are no connections. Add devices first.',
    )
    expect((await lead.get(`${base}/activity`)).text).to.contain('schedule failed')
  })

  it('is changed, run at once, and done for the members that a group has then', async () => {
    const lead = await world.client('lead')
    const base = `/engagements/${world.engagement}`
    await lead.freeze(world.engagement, {
      'a.cfg': 'hostname a\nip http server\n',
      'b.cfg': 'hostname b\nip http server\n',
    })
    const plan = {
      title: 'Weekly',
      does: 'audit',
      rhythm: { every: 'week', on: 1, at: '06:30' },
      zone: 'UTC',
      benchmarks: ['network-hardening'],
    }
    const { json: schedule } = await lead.post(`${base}/schedules`, plan)
    const change = (more: Record<string, unknown>) =>
      lead.put(`${base}/schedules/${schedule.id}/plan`, { ...plan, ...more })
    expect((await change({ group: 'Quay' })).json.error).to.equal('There is no group “Quay”.')
    await lead.post(`${base}/groups`, { title: 'Quay', kind: 'filter', text: 'device.name == "b"' })
    expect((await change({ group: 'Quay', devices: ['a'] })).json.error).to.contain('not for both')
    const { json: changed } = await change({
      group: 'Quay',
      title: 'Quay weekly',
      rhythm: { every: 'day', at: '07:00' },
    })
    expect(changed).to.deep.include({
      id: schedule.id,
      title: 'Quay weekly',
      group: 'Quay',
      devices: null,
      rhythm: { every: 'day', at: '07:00' },
      words: 'every day at 07:00',
    })
    const run = async (): Promise<any> => {
      expect((await lead.post(`${base}/schedules/${schedule.id}/run`)).status).to.equal(200)
      for (;;) {
        const row = (await lead.get(`${base}/schedules`)).json.find(({ id }: { id: number }) => id === schedule.id)
        if (row.lastSaid !== 'running') return row
        await new Promise((resolve) => setTimeout(resolve, 50))
      }
    }
    expect((await run()).lastSaid).to.match(/fail/)
    const audits = async () => (await lead.get(`${base}/chronicle`)).json.audits
    expect((await audits()).at(-1).scope).to.deep.equal({ title: 'group Quay', devices: ['b'] })
    await change({ devices: ['a', 'gone'] })
    expect((await run()).lastSaid).to.contain('not in the snapshot: gone')
    expect((await audits()).at(-1).scope.devices).to.deep.equal(['a'])
    const reader = await world.client('reader')
    expect((await reader.post(`${base}/schedules/${schedule.id}/run`)).status).to.equal(403)
  })
})

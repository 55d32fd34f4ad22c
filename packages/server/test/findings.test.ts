import { expect } from 'chai'
import { AlertEvents } from '../src/alerts/entity.ts'
import { today } from '../src/findings/service.ts'
import { makeWorld, type Client, type World } from './world.ts'

const DAY_MS = 86_400_000
const day = (from: number): string => today(Date.now() + from * DAY_MS)

describe('findings', function () {
  this.timeout(60_000)
  let world: World
  let lead: Client
  let base = ''
  let auditId = 0
  const ids: Record<string, number> = {}

  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
    const frozen = await lead.freeze(world.engagement, {
      'a.cfg': 'hostname a\nip http server\n',
      'b.cfg': 'hostname b\nip http server\n',
      'c.cfg': 'hostname c\nno ip http server\n',
    })
    auditId = (await lead.audit(world.engagement, frozen.json.id)).auditId
    for (const { id, device } of (await list('rule=http-server-off')).verdicts) ids[device] = id
  })
  after(() => world.end())
  const list = async (query: string, as = lead): Promise<any> =>
    (await as.get(`${base}/audits/${auditId}/verdicts?limit=500&${query}`)).json
  const set = (change: Record<string, unknown>, as = lead) => as.put(`${base}/audits/${auditId}/findings`, change)
  const shown = async (query: string, as = lead): Promise<string[]> =>
    (await list(`rule=http-server-off&${query}`, as)).verdicts.map(({ device }: { device: string }) => device)

  it('have an owner, a due date and a comment, which stay until they are changed', async () => {
    const engineer = (await lead.get(`${base}/members`)).json.find(({ role }: { role: string }) => role === 'engineer')
    const { json } = await set({
      verdicts: [ids['a'], ids['b']],
      owner: engineer.id,
      due: day(-1),
      comment: 'change 7',
    })
    expect(json).to.have.length(2)
    expect(json[0]).to.deep.include({
      owner: { id: engineer.id, name: engineer.fullName },
      due: day(-1),
      overdue: true,
      comment: 'change 7',
      done: null,
      verdict: ids['a'],
    })
    const [after] = (await set({ verdicts: [ids['b']], due: day(0) })).json
    expect(after, 'due today is not overdue, and the rest stays').to.deep.include({
      overdue: false,
      comment: 'change 7',
      owner: { id: engineer.id, name: engineer.fullName },
    })
    const one = (await lead.get(`${base}/audits/${auditId}/verdicts/${ids['a']}`)).json
    expect(one.finding).to.deep.include({ overdue: true, comment: 'change 7' })
  })

  it('are found by “mine”, “overdue”, “unassigned” and “done”', async () => {
    const engineer = await world.client('engineer')
    expect(await shown('only=mine', engineer)).to.deep.equal(['a', 'b'])
    expect(await shown('only=mine')).to.deep.equal([])
    expect(await shown('only=overdue')).to.deep.equal(['a'])
    expect(await shown('only=unassigned')).to.deep.equal([])
    await set({ verdicts: [ids['a']], done: true }, engineer)
    expect(await shown('only=overdue'), 'what is done is not overdue').to.deep.equal([])
    expect(await shown('only=mine', engineer)).to.deep.equal(['b'])
    expect(await shown('only=done')).to.deep.equal(['a'])
    await set({ verdicts: [ids['a']], done: false })
    expect((await lead.get(`${base}/audits/${auditId}/verdicts?only=everything`)).status).to.equal(400)
  })

  it('are sorted and filtered by what people said of them, in the list and in its CSV', async () => {
    expect((await shown('sort=due&f.due=20')).slice(0, 2)).to.deep.equal(['a', 'b'])
    expect((await shown('sort=-due&f.comment=CHANGE')).slice(0, 2)).to.deep.equal(['b', 'a'])
    const csv = (await lead.get(`${base}/audits/${auditId}/verdicts.csv?rule=http-server-off&only=overdue`)).text
    const [head = '', row = '', ...rest] = csv.trim().split('\r\n')
    expect(rest).to.deep.equal([])
    const cells = Object.fromEntries(head.split(',').map((name, i) => [name, row.split(',')[i]]))
    expect(cells).to.include({
      outcome: 'fail',
      device: 'a',
      severity: 'high',
      severity_rank: '4',
      due: day(-1),
      overdue: 'overdue',
      comment: 'change 7',
    })
  })

  it('refuse an owner who cannot change them, a verdict of elsewhere, and a reader', async () => {
    const members: { id: number; role: string }[] = (await lead.get(`${base}/members`)).json
    const reader = members.find(({ role }) => role === 'reader')?.id
    expect((await set({ verdicts: [ids['a']], owner: reader })).json.error).to.contain('is a reader')
    expect((await set({ verdicts: [ids['a']], owner: 99_999 })).json.error).to.contain('must be a member')
    const before = (await list('only=done')).total
    expect((await set({ verdicts: [ids['a'], 99_999], done: true })).json.error).to.equal(
      `Audit ${auditId} has no verdict 99999.`,
    )
    expect((await list('only=done')).total, 'all or none').to.equal(before)
    expect((await set({ verdicts: [ids['a']], due: '2026-02-30' })).status).to.equal(400)
    expect((await set({ verdicts: [ids['a']], done: true }, await world.client('reader'))).status).to.equal(403)
  })

  it('are waived together; what passes or is waived already says so', async () => {
    const expires = new Date(Date.now() + 30 * DAY_MS).toISOString()
    const waive = (verdicts: unknown[], as = lead, until = expires) =>
      as.post(`${base}/audits/${auditId}/waivers`, {
        verdicts,
        reason: 'Replaced in spring.',
        owner: 'Head of networks',
        expires: until,
      })
    expect((await waive([ids['a'], ids['c']])).json.came).to.deep.equal([
      { device: 'a', rule: 'http-server-off', what: 'waived' },
      { device: 'c', rule: 'http-server-off', what: 'no-finding' },
    ])
    expect((await waive([ids['a'], ids['b']])).json.came.map(({ what }: { what: string }) => what)).to.deep.equal([
      'already-waived',
      'waived',
    ])
    expect((await list('outcome=waived&rule=http-server-off')).verdicts.map(({ device }: any) => device)).to.deep.equal(
      ['a', 'b'],
    )
    const standing = (await lead.get(`${base}/waivers`)).json.length
    expect((await waive([ids['a']], lead, '2020-01-01T00:00:00Z')).json.error).to.contain('must be in the future')
    expect((await waive([ids['a']], await world.client('engineer'))).status).to.equal(403)
    expect((await lead.get(`${base}/waivers`)).json).to.have.length(standing)
  })

  it('alert when they get an owner, and once when they are overdue', async () => {
    await lead.post(`${base}/alerts`, {
      title: 'Daily',
      to: { channel: 'mail', host: '127.0.0.1', port: 9, tls: 'none', from: 'a@b.example', to: ['c@d.example'] },
      kinds: ['assigned', 'overdue'],
      severity: 'info',
      digest: { every: 'day', at: '03:00' },
    })
    const { alerts, database } = world.server.services
    const events = async (kind: string): Promise<string[]> =>
      (
        await database
          .getRepository(AlertEvents)
          .find({ where: { engagementId: world.engagement, kind }, order: { id: 'ASC' } })
      ).map(({ device, detail }) => `${device}: ${detail}`)
    await set({ verdicts: [ids['a'], ids['b']], owner: world.users.lead, due: day(-2), done: false })
    for (let tries = 0; tries < 100 && (await events('assigned')).length < 2; tries++)
      await new Promise((resolve) => setTimeout(resolve, 50))
    // Which of two that were assigned at once is told first is left open.
    expect((await events('assigned')).map((line) => line.slice(0, 24))).to.have.members([
      'a: Assigned to The lead,',
      'b: Assigned to The lead,',
    ])
    await alerts.dueDates()
    await alerts.dueDates()
    expect((await events('overdue')).map((line) => line.slice(0, 18))).to.deep.equal([
      `a: Due ${day(-2)},`,
      `b: Due ${day(-2)},`,
    ])
    // Another date is another promise, and may be broken again.
    await set({ verdicts: [ids['a']], due: day(-1) })
    await set({ verdicts: [ids['b']], done: true })
    await alerts.dueDates()
    expect(await events('overdue')).to.have.length(3)
  })

  it('are found by the words of their reason, rule and device, the findings first', async () => {
    const find = async (q: string): Promise<any> => {
      for (;;) {
        const { status, json } = await lead.get(`${base}/search?q=${encodeURIComponent(q)}&limit=50`)
        if (status === 200) return json.find(({ kind }: { kind: string }) => kind === 'verdict')
        await new Promise((resolve) => setTimeout(resolve, 50))
      }
    }
    const { total, hits } = await find('http-server-off')
    expect(total).to.equal(3)
    expect(hits.map(({ device }: any) => device)).to.deep.equal(['a', 'b', 'c'])
    expect(hits[0].title).to.match(/^fail: /)
    expect(hits[0].to).to.equal(`/e/${world.engagement}/verdicts/${auditId}/${ids['a']}`)
    // The one that passes says something else.
    const [, , passing] = hits
    const said = passing.detail.replace(/[^\w ]/g, ' ')
    expect((await find(`http-server-off ${said}`)).hits.map(({ device }: any) => device)).to.deep.equal(['c'])
    expect(await find('no such words anywhere')).to.equal(undefined)
    expect(await find('100%_'), 'no pattern of the database').to.equal(undefined)
  })

  it('say in the activity log who assigned what to whom', async () => {
    const { entries } = (await lead.get(`${base}/activity`)).json
    // The newest come first.
    const assigned = entries.findLast(({ action }: { action: string }) => action === 'finding assigned')
    expect(assigned.detail).to.deep.include({ count: 2, owner: 'The engineer' })
  })
})

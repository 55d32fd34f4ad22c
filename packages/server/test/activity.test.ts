import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { globSync } from 'tinyglobby'
import { activityWords } from '../src/activity/words.ts'
import { makeWorld, type Client, type World } from './world.ts'

describe('entries of the audit log in words', () => {
  const cases: [string, Record<string, unknown>, string][] = [
    ['snapshot frozen', { snapshot: 3, title: 'November' }, 'Froze the snapshot “November”.'],
    [
      'waived',
      { rule: 'ntp', devices: null, expires: '2027-01-01', owner: 'Head', reason: 'Spring.' },
      'Waived “ntp” on every device until 2027-01-01; risk owner Head. Reason: Spring.',
    ],
    [
      'connections set',
      { devices: ['a', 'b', 'c', 'd', 'e', 'f', 'g'] },
      'Set the connections of a, b, c, d, e and 2 more.',
    ],
    [
      'audit finished',
      { audit: 4, snapshot: 2, counts: { pass: 9, fail: 1, unknown: 0 } },
      'Audit 4 of snapshot 2 finished: 9 pass, 1 fail.',
    ],
    ['something new', { ofDevices: 3, why: null }, 'Something new: of devices 3, why nothing.'],
  ]
  for (const [action, detail, words] of cases) it(action, () => expect(activityWords(action, detail)).to.equal(words))

  it('has a sentence for every action that the server writes down', () => {
    const folder = fileURLToPath(new URL('../src', import.meta.url))
    const actions = new Set(
      globSync('**/*.ts', { cwd: folder }).flatMap((file) =>
        [...readFileSync(`${folder}/${file}`, 'utf8').matchAll(/\baction: ([^\n]+)/g)].flatMap(([, line = '']) =>
          [...line.matchAll(/'([a-z][a-z -]+)'/g)].map(([, action = '']) => action),
        ),
      ),
    )
    expect(actions.size).to.be.above(50)
    const bare = [...actions].filter((action) =>
      activityWords(action, {}).startsWith(`${action[0]?.toUpperCase()}${action.slice(1)}.`),
    )
    expect(bare.filter((action) => !['sameorigin', 'each', 'version', 'action'].includes(action))).to.deep.equal([])
  })
})

describe('the audit log and shared views', function () {
  this.timeout(60_000)
  let world: World
  let lead: Client
  let base = ''
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
    await lead.freeze(world.engagement, { 'a.cfg': 'hostname a\n' })
    await lead.post(`${base}/groups`, { title: 'Quay', kind: 'filter', text: 'name == "a"' })
  })
  after(() => world.end())

  it('is filtered, sorted and exported as it is shown', async () => {
    const actions = async (query: string): Promise<string[]> =>
      (await lead.get(`${base}/activity?${query}`)).json.entries.map(({ action }: { action: string }) => action)
    expect(await actions('f.words=quay')).to.deep.equal(['group saved'])
    expect(await actions('f.user=nobody')).to.deep.equal([])
    const newest = await actions('')
    expect(await actions('sort=at')).to.deep.equal(newest.toReversed())
    expect((await lead.get(`${base}/activity?limit=1`)).json).to.nested.include({
      total: newest.length,
      firstBreak: null,
    })
    const csv = (await lead.get(`${base}/activity.csv?f.action=group`)).text.trim().split('\r\n')
    expect(csv).to.have.length(2)
    expect(csv[1]).to.contain('Saved the group “Quay”: name == ""a""')
    expect((await (await world.client('auditor')).get(`${base}/activity.csv`)).status).to.equal(403)
  })

  it('keeps views of tables for all members; one of the same title is replaced', async () => {
    const view = { sheet: 'verdicts', title: 'Mine', query: { 'verdicts.sort': '-due' } }
    const { json: saved } = await lead.post(`${base}/views`, view)
    const reader = await world.client('reader')
    expect((await reader.get(`${base}/views?sheet=verdicts`)).json).to.deep.equal([
      { id: saved.id, title: 'Mine', query: view.query, by: 'The lead' },
    ])
    expect((await reader.get(`${base}/views?sheet=estate`)).json).to.deep.equal([])
    const again = await (await world.client('engineer')).post(`${base}/views`, { ...view, query: {} })
    expect(again.json).to.deep.equal({ id: saved.id, title: 'Mine', query: {}, by: 'The engineer' })
    expect((await reader.post(`${base}/views`, view)).status).to.equal(403)
    expect((await lead.post(`${base}/views`, { ...view, sheet: '../x' })).status).to.equal(400)
    expect((await lead.call('DELETE', `${base}/views/${saved.id}`)).status).to.equal(204)
    expect((await lead.call('DELETE', `${base}/views/${saved.id}`)).status).to.equal(404)
  })
})

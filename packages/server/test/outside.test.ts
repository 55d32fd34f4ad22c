import { zipSync } from 'fflate'
import { expect } from 'chai'
import { BODY_LIMITS } from '../src/http/app.ts'
import { CONFIG, makeWorld, type Client, type World } from './world.ts'

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)

describe('what comes from outside', function () {
  this.timeout(120_000)
  let world: World
  let lead: Client
  let base = ''
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
  })
  after(async () => world.end())

  /** How long the server's main thread was held up at most while something was done, in milliseconds. */
  async function longestBlock(work: () => Promise<unknown>): Promise<number> {
    let longest = 0
    let last = performance.now()
    const timer = setInterval(() => {
      const now = performance.now()
      longest = Math.max(longest, now - last)
      last = now
    }, 5)
    await work()
    clearInterval(timer)
    return longest
  }

  it('has a bound before anyone has signed in: one byte more is refused unread', async () => {
    const anonymous = await world.client()
    const frame = JSON.stringify({ name: 'lead', password: '', pad: '' }).length
    const send = async (size: number) =>
      anonymous.post('/sign-in', { name: 'lead', password: '', pad: 'x'.repeat(size - frame) })
    expect((await send(BODY_LIMITS.beforeSignIn)).json.error).to.contain('pad')
    const refused = await send(BODY_LIMITS.beforeSignIn + 1)
    expect([refused.status, refused.json.error]).to.deep.equal([
      400,
      'The request could not be read: expected JSON within the size limit.',
    ])
  })

  it('holds nobody up by the names of its fields', async () => {
    const anonymous = await world.client()
    for (const [client, size] of [
      [anonymous, 3_900],
      [lead, 60_000],
    ] as const) {
      const key = `${'\n '.repeat(size / 4)}x`
      let answer = { status: 0, text: '' }
      const block = await longestBlock(async () => (answer = await client.post('/sign-in', { [key]: 1 })))
      expect(answer.status).to.equal(400)
      expect(answer.text.length, 'the answer does not grow with the name').to.be.lessThan(2_000)
      expect(block).to.be.lessThan(1_000)
    }
  })

  it('is refused by its size after signing in, where nothing larger is asked for', async () => {
    const tags = (size: number) => ({ title: 'T', client: 'x'.repeat(size) })
    expect((await lead.post('/engagements', tags(BODY_LIMITS.usual))).json.error).to.contain('size limit')
    expect((await lead.post('/engagements', tags(1_000))).json.error).to.contain('client')
  })

  it('is read by a worker where it is large, and refused where it nests too deep', async () => {
    const cookie = { cookie: lead.cookie, 'x-csrf-token': lead.csrf, 'content-type': 'application/json' }
    const put = async (body: string) =>
      fetch(`${lead.address}/api${base}/traffic/expectations`, { method: 'PUT', headers: cookie, body })
    const comments = `# ${'x'.repeat(100_000)}\nexpectations: []\n`
    expect((await put(JSON.stringify({ text: comments }))).status).to.be.oneOf([200, 204])
    const deep = await put(`{"text":${'['.repeat(200_000)}`)
    expect([deep.status, ((await deep.json()) as { error: string }).error]).to.deep.equal([
      400,
      'The body could not be read: expected JSON.',
    ])
  })

  it('unpacks to much, and is refused file by file, while others are answered', async () => {
    const braces = zipSync({ 'a.cfg': bytes(`system {\n${'{'.repeat(49_000_000)}`), 'b.cfg': bytes(CONFIG) })
    let dropped: Awaited<ReturnType<Client['drop']>> | null = null
    const block = await longestBlock(async () => (dropped = await lead.drop(world.engagement, { 'all.zip': braces })))
    expect(dropped!.json.refused).to.deep.equal([{ path: 'a.cfg', reason: 'it nests deeper than 200 levels' }])
    expect(dropped!.json.devices.map(({ name }: any) => name)).to.deep.equal(['core'])
    expect(block, 'nobody waits for it').to.be.lessThan(2_000)
  })

  it('is YAML of many keys, and is read in time that grows with its length', async () => {
    const keys = Array.from({ length: 40_000 }, (_, i) => `k${i}: 1`).join('\n')
    let dropped: Awaited<ReturnType<Client['drop']>> | null = null
    const began = performance.now()
    const block = await longestBlock(
      async () =>
        (dropped = await lead.drop(world.engagement, {
          'devices/core/device.yaml': keys,
          'devices/core/config.txt': CONFIG,
        })),
    )
    expect(dropped!.json.refused[0].path).to.equal('devices/core/device.yaml')
    expect(performance.now() - began).to.be.lessThan(30_000)
    expect(block).to.be.lessThan(2_000)
  })

  it('leaves the server as it was', async () => {
    expect((await (await world.client()).get('/standing')).status).to.equal(200)
    expect((await lead.freeze(world.engagement, { 'core.cfg': CONFIG })).status).to.equal(200)
  })
})

describe('a content that is missing or damaged', function () {
  this.timeout(120_000)
  let world: World
  let lead: Client
  let base = ''
  let snapshot = 0
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
    const files = {
      'one.cfg': CONFIG.replace('core', 'one'),
      'two.cfg': CONFIG.replace('core', 'two'),
      'three.cfg': CONFIG.replace('core', 'three'),
    }
    snapshot = (await lead.freeze(world.engagement, files)).json.id
    const { database } = world.server.services
    await database.query('SET FOREIGN_KEY_CHECKS = 0')
    await database.query(
      "DELETE FROM contents WHERE sha256 = (SELECT r.sha256 FROM records r JOIN devices d ON d.id = r.device_id WHERE d.name = 'one')",
    )
    await database.query(
      "UPDATE contents SET body = CONCAT(LEFT(body, 40), REVERSE(SUBSTRING(body, 41))) WHERE sha256 = (SELECT r.sha256 FROM records r JOIN devices d ON d.id = r.device_id WHERE d.name = 'two')",
    )
  })
  after(async () => world.end())

  it('is an error of that device, with the record and its time, and never an empty configuration', async () => {
    const { state, auditId } = await lead.audit(world.engagement, snapshot)
    expect(state).to.equal('done')
    const rows: { device: string; outcome: string; n: number; note: string }[] =
      await world.server.services.database.query(
        'SELECT v.device, v.outcome, COUNT(*) AS n, MIN(v.note) AS note FROM verdicts v JOIN audit_judgements a ON a.judgement_id = v.judgement_id WHERE a.audit_id = ? GROUP BY v.device, v.outcome',
        [auditId],
      )
    for (const device of ['one', 'two']) {
      const own = rows.filter((row) => row.device === device)
      expect(
        own.map(({ outcome }) => outcome),
        device,
      ).to.deep.equal(['error'])
      expect(own[0]?.note).to.contain(
        `The record ${device}.cfg of ${device}, taken 2026-11-02 10:00 UTC, is missing or damaged`,
      )
    }
    const sound = rows.filter(({ device }) => device === 'three').map(({ outcome }) => outcome)
    expect(sound, 'the rest is judged').to.include.members(['pass', 'fail']).and.not.include('error')
  })

  it('is told where it is asked for', async () => {
    const { json: view } = await lead.get(`${base}/snapshots/${snapshot}`)
    for (const device of ['one', 'two']) {
      const record = view.records.find((one: any) => one.device === device)
      const answer = await lead.get(`${base}/records/${record.id}`)
      expect([answer.status, answer.json.error]).to.satisfy(
        ([status, error]: [number, string]) => status === 500 && error.includes('is missing or damaged'),
      )
      const model = await lead.get(`${base}/devices/${record.deviceId}/model`)
      expect(model.json.error).to.contain('is missing or damaged')
    }
  })

  it('is sound again when the file is brought in again, and is judged anew', async () => {
    const files = { 'one.cfg': CONFIG.replace('core', 'one'), 'two.cfg': CONFIG.replace('core', 'two') }
    const { json: again } = await lead.freeze(world.engagement, files, { title: 'again' })
    const { auditId } = await lead.audit(world.engagement, again.id)
    const [{ n }]: [{ n: number }] = await world.server.services.database.query(
      "SELECT COUNT(*) AS n FROM verdicts v JOIN audit_judgements a ON a.judgement_id = v.judgement_id WHERE a.audit_id = ? AND v.outcome = 'error'",
      [auditId],
    )
    expect(Number(n)).to.equal(0)
  })
})

describe('rules of one’s own that run on', function () {
  this.timeout(120_000)
  let world: World
  before(async () => (world = await makeWorld()))
  after(async () => world.end())

  it('end at their time in an audit: the device says so, and the others are judged', async () => {
    const lead = await world.client('lead')
    const base = `/engagements/${world.engagement}`
    const all = (depth: number): string => (depth === 0 ? 'true' : `interfaces.all(x${depth}, ${all(depth - 1)})`)
    const text = JSON.stringify({
      id: 'slow',
      title: 'Slow',
      version: '1',
      statement: 's',
      profiles: [{ id: 'all', title: 'All' }],
      rules: [
        {
          id: 'runs-on',
          title: 'R',
          topic: 'T',
          severity: 'low',
          profile: 'all',
          statement: 's',
          decide: [
            { id: 'x', when: { model: all(9) }, outcome: 'pass', note: 'n' },
            { id: 'y', outcome: 'fail', note: 'n' },
          ],
        },
      ],
    })
    const saved = await lead.post(`${base}/own-benchmarks`, { text, why: 'to see' })
    expect(saved.status, saved.text).to.equal(200)
    expect((await lead.post(`${base}/own-benchmarks/slow/${saved.json.number}/publish`)).status).to.equal(204)
    const ports = Array.from({ length: 40 }, (_, i) => `interface Ethernet1/${i + 1}\n`).join('')
    const { json: snapshot } = await lead.freeze(world.engagement, {
      'many.cfg': `hostname many\n${ports}`,
      'few.cfg': CONFIG,
    })
    // The threads are there, so that what is measured is the rule.
    await lead.audit(world.engagement, snapshot.id, ['network-hardening'])
    world.server.services.audits.judging.deviceMs = 8_000
    const { state, auditId } = await lead.audit(world.engagement, snapshot.id, ['slow'])
    expect(state).to.equal('done')
    const { json } = await lead.get(`${base}/audits/${auditId}/verdicts`)
    const found = json.verdicts.map(
      ({ device, outcome, branch }: { device: string; outcome: string; branch: string | null }) => [
        device,
        outcome,
        branch,
      ],
    )
    expect(found).to.have.deep.members([
      ['core', 'pass', 'x'],
      ['many', 'error', 'too-slow'],
    ])
  })
})

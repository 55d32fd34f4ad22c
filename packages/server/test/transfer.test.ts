import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { exportOne, importOne } from '../src/operation/keeping.ts'
import { CONFIG, makeWorld, type World } from './world.ts'

describe('an engagement that moves to another installation', function () {
  this.timeout(120_000)
  let from: World
  let to: World
  let place: string
  let file: string
  let key: string
  let moved: number
  before(async () => {
    place = mkdtempSync(join(tmpdir(), 'jurybox-transfer-'))
    file = join(place, 'one.engagement')
    from = await makeWorld()
    // An installation of its own, with a key of its own.
    to = await makeWorld(mkdtempSync(join(tmpdir(), 'jurybox-other-')))
    // Numbers are taken there already.
    const other = await to.client('lead')
    const taken = await other.freeze(to.engagement, { 'x.cfg': CONFIG.replace('core', 'x'), 'y.cfg': CONFIG })
    await other.audit(to.engagement, taken.json.id)
    const lead = await from.client('lead')
    const base = `/engagements/${from.engagement}`
    const first = await lead.freeze(from.engagement, { 'core.cfg': CONFIG, 'edge.cfg': CONFIG.replace('core', 'edge') })
    await lead.audit(from.engagement, first.json.id)
    const second = await lead.freeze(
      from.engagement,
      { 'core.cfg': CONFIG.replace('ip http server\n', '') },
      { takenAt: '2026-11-09T10:00:00Z' },
    )
    await lead.idle(from.engagement)
    await lead.audit(from.engagement, second.json.id)
    await lead.post(`${base}/waivers`, {
      benchmark: 'network-hardening',
      rule: 'vty-ssh-only',
      device: 'edge',
      subject: null,
      reason: 'Replaced in spring.',
      owner: 'O',
      expires: '2099-01-01',
    })
    await lead.post(`${base}/credentials`, { title: 'C', user: 'u', password: 'sparrowhawk-two' })
    const exported = await exportOne(from.folder, from.engagement, file, {})
    key = exported.key
    moved = (await importOne(to.folder, file, 'lead', { JURYBOX_TRANSFER_KEY: key })).engagementId
  })
  after(async () => {
    await from.end()
    await to.end()
    rmSync(place, { recursive: true, force: true })
  })

  const failureOf = (work: Promise<unknown>): Promise<string> =>
    work.then(
      () => 'no failure',
      (error: unknown) => (error instanceof Error ? error.message : String(error)),
    )

  /** What people see of an engagement, without numbers that an installation gives. */
  async function seen(world: World, engagement: number): Promise<unknown> {
    const lead = await world.client('lead')
    const base = `/engagements/${engagement}`
    const get = async (path: string): Promise<any> => (await lead.get(base + path)).json
    const { snapshots, audits } = await get('/chronicle')
    const found: unknown[] = []
    for (const { id, title, takenAt } of snapshots) {
      const { records } = await get(`/snapshots/${id}`)
      const lines = await Promise.all(
        records.map(async (record: { id: number }) => (await get(`/records/${record.id}`)).lines),
      )
      found.push([
        title,
        takenAt,
        records.map((one: any) => [one.device, one.kind, one.fingerprint, one.carried]),
        lines,
      ])
    }
    for (const { id, counts } of audits) {
      const { verdicts } = await get(`/audits/${id}/verdicts?limit=500`)
      const whole = await Promise.all(
        verdicts
          .filter(({ outcome }: any) => outcome === 'fail')
          .map(async (one: any) => {
            const { verdict } = await get(`/audits/${id}/verdicts/${one.id}`)
            return [
              verdict.rule,
              verdict.device,
              verdict.exhibits.map(({ from: first, to: last, text }: any) => [first, last, text]),
              verdict.remedy,
              verdict.waived ?? null,
            ]
          }),
      )
      found.push([counts, verdicts.map((one: any) => [one.device, one.rule, one.outcome, one.note]), whole])
    }
    return JSON.parse(JSON.stringify(found).replace(/"id":\d+/g, '"id":0'))
  }

  it('is the same there: records line by line with their fingerprints, verdicts with their evidence, waivers', async () => {
    expect(moved).to.not.equal(to.engagement)
    const [here, there] = [await seen(from, from.engagement), await seen(to, moved)]
    expect(JSON.stringify(here).length).to.be.above(20_000)
    expect(there).to.deep.equal(here)
  })

  it('goes on there: an audit of what came along remembers what it knows', async () => {
    const lead = await to.client('lead')
    const { json } = await lead.get(`/engagements/${moved}/chronicle`)
    const again = await lead.audit(moved, json.snapshots.at(-1).id)
    expect(again.state).to.equal('done')
    const last = (await lead.get(`/engagements/${moved}/chronicle`)).json.audits.at(-1)
    expect(last.computed).to.equal(0)
  })

  it('takes no secret of its installation along, and the file is sealed', async () => {
    const lead = await to.client('lead')
    expect((await lead.get(`/engagements/${moved}/credentials`)).json).to.deep.equal([])
    const bytes = readFileSync(file)
    for (const word of ['sparrowhawk', 'hostname', 'edge', 'network-hardening'])
      expect(bytes.includes(word), word).to.equal(false)
    expect(
      (await lead.get(`/engagements/${moved}/members`)).json.map(({ name, role }: any) => [name, role]),
    ).to.deep.equal([['lead', 'lead']])
  })

  it('is imported whole or not at all', async () => {
    const count = async (): Promise<number> =>
      Number((await to.server.services.database.query('SELECT COUNT(*) AS n FROM devices'))[0].n)
    const before = await count()
    const bytes = readFileSync(file)
    const cut = join(place, 'cut.engagement')
    writeFileSync(cut, bytes.subarray(0, bytes.length - 20))
    expect(await failureOf(importOne(to.folder, cut, 'lead', { JURYBOX_TRANSFER_KEY: key }))).to.match(/truncated/)
    expect(await failureOf(importOne(to.folder, file, 'nobody', { JURYBOX_TRANSFER_KEY: key }))).to.match(
      /no account “nobody”/,
    )
    expect(await failureOf(importOne(to.folder, file, 'lead', { JURYBOX_TRANSFER_KEY: 'a'.repeat(64) }))).to.match(
      /encrypted with another key/,
    )
    expect(await failureOf(importOne(to.folder, file, 'lead', {}))).to.match(/JURYBOX_TRANSFER_KEY/)
    expect(await failureOf(exportOne(from.folder, 99, join(place, 'none'), {}))).to.match(/no engagement 99/)
    expect(existsSync(join(place, 'none'))).to.equal(false)
    expect(await count()).to.equal(before)
  })
})

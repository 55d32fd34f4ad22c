import { expect } from 'chai'
import { readSnapshot } from '@jurybox/core'
import { daysKept } from '../src/archive/service.ts'
import { CONFIG, makeWorld, type Client, type World } from './world.ts'

describe('the archive', function () {
  this.timeout(60_000)
  let world: World
  let lead: Client
  let base = ''
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
  })
  after(async () => world.end())

  it('keeps a snapshot for the longest of what is said of it', () => {
    const rules = { days: 30, tags: { approved: null, weekly: 90, brief: 1 } }
    expect(
      [[], ['other'], ['brief'], ['weekly', 'brief'], ['weekly', 'approved']].map((tags) => daysKept(rules, tags)),
    ).to.deep.equal([30, 30, 30, 90, null])
    expect(daysKept({ days: null, tags: { brief: 1 } }, ['brief'])).to.equal(null)
  })

  it('lets go of what is old, and spares what a verdict rests on, what a tag holds, and the latest', async () => {
    const freeze = async (title: string, ago: number, line: string): Promise<number> =>
      (
        await lead.freeze(
          world.engagement,
          { 'core.cfg': CONFIG.replace('frobnicate', line) },
          { title, takenAt: new Date(Date.now() - ago * 86_400_000).toISOString() },
        )
      ).json.id
    const judged = await freeze('judged', 100, 'a')
    await freeze('plain', 90, 'b')
    const approved = await freeze('approved', 80, 'c')
    await freeze('shared', 70, 'd')
    await freeze('latest', 60, 'd')
    await lead.audit(world.engagement, judged)
    expect(
      (await lead.put(`${base}/snapshots/${approved}/tags`, { tags: ['approved', 'before window 7', 'approved'] }))
        .json,
    ).to.deep.equal({ tags: ['approved', 'before window 7'] })
    expect(
      (await (await world.client('reader')).put(`${base}/snapshots/${approved}/tags`, { tags: [] })).status,
    ).to.equal(403)
    expect((await (await world.client('auditor')).put(`${base}/retention`, { days: 1, tags: {} })).status).to.equal(403)

    const contents = async (): Promise<number> =>
      Number((await world.server.services.database.query('SELECT COUNT(*) AS n FROM contents'))[0].n)
    const before = await contents()
    const rules = { days: 30, tags: { approved: null } }
    const { json: tried } = await lead.put(`${base}/retention`, { ...rules, try: true })
    expect(tried.snapshots.map(({ title, goes, heldBy }: any) => [title, goes, heldBy])).to.deep.equal([
      ['judged', false, 'used by an audit'],
      ['plain', true, null],
      ['approved', false, null],
      ['shared', true, null],
      ['latest', false, 'latest snapshot'],
    ])
    expect((await lead.get(`${base}/snapshots`)).json, 'only tried').to.have.length(5)
    await lead.put(`${base}/retention`, rules)
    expect((await lead.get(`${base}/snapshots`)).json.map(({ title, tags }: any) => [title, tags])).to.deep.equal([
      ['judged', []],
      ['approved', ['approved', 'before window 7']],
      ['latest', []],
    ])
    expect(await contents(), 'the content that the latest holds as well stays').to.equal(before - 1)
    const { json: verdicts } = await lead.get(`${base}/audits/1/verdicts?outcome=fail`)
    expect((await lead.get(`${base}/audits/1/verdicts/${verdicts.verdicts[0].id}`)).status).to.equal(200)
    expect((await lead.get(`${base}/activity`)).text)
      .to.contain('snapshot deleted by retention')
      .and.contain('plain')
  })

  it('gives a snapshot out as its folder: brought in again it is the same, and masked it holds no secret', async () => {
    const files = {
      'snapshot.yaml': 'title: Whole\ntakenAt: 2026-11-01T08:00:00Z\nnote: as it was\n',
      'devices/core/device.yaml': 'site: quay\nlabels: { level: 2 }\n',
      'devices/core/config.txt': CONFIG,
      'devices/core/state/clock.txt': '08:00:00.000 UTC Sun Nov 1 2026\n',
      'devices/gate/filters.txt': '*filter\n:INPUT DROP [0:0]\n-A INPUT -i lo -j ACCEPT\nCOMMIT\n',
      'devices/gate/state/routes.json': '[{"dst":"default","gateway":"10.0.0.1","dev":"eth0"}]',
    }
    const { json: snapshot } = await lead.freeze(world.engagement, files, { title: 'Whole' })
    const zip = async (client: Client, name: string) =>
      fetch(`${client.address}/api${base}/snapshots/${snapshot.id}/${name}.zip`, { headers: { cookie: client.cookie } })
    const reader = await world.client('reader')
    expect((await zip(reader, 'folder')).status).to.equal(403)
    const bytes = new Uint8Array(await (await zip(lead, 'folder')).arrayBuffer())
    const again = readSnapshot([{ path: 'snapshot.zip', bytes }])
    const { devices } = readSnapshot(
      Object.entries(files).map(([path, text]) => ({ path, bytes: new TextEncoder().encode(text) })),
    )
    const held = (all: typeof devices) =>
      all.map(({ name, dialect, facts, records }) => ({
        name,
        dialect: dialect.id,
        site: facts.site,
        labels: facts.labels,
        records: records.map(({ kind, text }) => [kind, text]).sort(),
      }))
    expect(held(again.devices).filter(({ name }) => devices.some((one) => one.name === name))).to.deep.equal(
      held(devices),
    )
    expect(again.refused).to.deep.equal([])
    expect((await lead.get(`${base}/activity`)).text).to.contain('configurations downloaded')
    const masked = readSnapshot([
      { path: 'snapshot.zip', bytes: new Uint8Array(await (await zip(reader, 'masked')).arrayBuffer()) },
    ])
    const core =
      masked.devices.find(({ name }) => name === 'core')?.records.find(({ kind }) => kind === 'config')?.text ?? ''
    expect(core).to.contain('hostname core').and.contain('snmp-server community').and.not.contain('sparrowhawk')
    const { json: view } = await lead.get(`${base}/snapshots/${snapshot.id}`)
    const config = view.records.find(({ path }: any) => path === 'devices/core/config.txt')
    const text = await reader.get(`${base}/records/${config.id}/text`)
    expect(text.headers.get('content-disposition')).to.equal('attachment; filename="core-config.txt"')
    expect(text.text).to.equal(core)
  })
})

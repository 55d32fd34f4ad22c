import { expect } from 'chai'
import { readSyslog } from '@jurybox/core/state'
import { DeviceConnections } from '../src/collect/entity.ts'
import { makeWorld, type Client, type World } from './world.ts'

const CORE =
  '! Last configuration change at 09:30:00 UTC Mon Nov 2 2026 by marlow\nhostname core\n' +
  'interface Vlan30\n ip address 10.40.30.1 255.255.255.0\n ip access-group CARDS in\n' +
  'ip access-list extended CARDS\n permit tcp 10.40.30.0 0.0.0.255 any eq 443\n' +
  ' deny ip any any\nsnmp-server community sparrowhawk RO\n'
const CHANGED = CORE.replace('09:30:00 UTC Mon Nov 2', '21:40:00 UTC Tue Nov 3')
  .replace('by marlow', 'by ingram')
  .replace(' deny ip', ' permit tcp 10.40.30.0 0.0.0.255 any eq 8080\n deny ip')
const EDGE = 'hostname edge\nntp server 10.40.0.11\nip http server\n'

describe('changes', function () {
  this.timeout(60_000)
  let world: World
  let lead: Client
  let base = ''
  let [first, second] = [0, 0]
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
    const freeze = async (files: Record<string, string>, takenAt: string, title: string): Promise<number> =>
      (await lead.freeze(world.engagement, files, { takenAt, title })).json.id
    first = await freeze(
      { 'core.cfg': CORE, 'edge.cfg': EDGE, 'far.cfg': 'hostname far\n' },
      '2026-11-02T10:00:00Z',
      'Before',
    )
    second = await freeze(
      { 'core.cfg': CHANGED, 'edge.cfg': EDGE, 'new.cfg': 'hostname new\n' },
      '2026-11-04T10:00:00Z',
      'After',
    )
    await lead.audit(world.engagement, first)
    await lead.audit(world.engagement, second)
  })
  after(async () => world.end())

  async function answered(path: string): Promise<any> {
    for (;;) {
      const { status, json } = await lead.get(path)
      if (status !== 202) return json
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }
  const overview = async (query = ''): Promise<any> => answered(`${base}/changes${query}`)
  const rowOf = async (name: string, query = ''): Promise<any> =>
    (await overview(query)).devices.find((one: any) => one.name === name)

  it('says how each device of two snapshots changed, the latest two where none are named', async () => {
    const { a, b, devices, audited } = await overview()
    expect([a.id, b.id, audited]).to.deep.equal([first, second, true])
    expect(devices.map(({ name, standing }: any) => [name, standing])).to.deep.equal([
      ['core', 'changed'],
      ['edge', 'same'],
      ['far', 'carried'],
      ['new', 'added'],
    ])
    const core = devices[0]
    expect(core.counts).to.deep.equal({ lines: 1, meanings: 0, accessLists: 1, state: 0 })
    expect(core.summary[0]).to.equal(
      'access list CARDS (Vlan30 in): now also permits tcp and src net 10.40.30.0/24 and dst port 8080',
    )
    expect(JSON.stringify(devices)).not.to.contain('sparrowhawk')
  })

  it('a device that was removed is only in A', async () => {
    const turned = await rowOf('new', `?a=${second}&b=${first}`)
    expect(turned.standing).to.equal('removed')
  })

  it('says who changed it: from the listing, and from what the device said', async () => {
    expect((await rowOf('core')).authors).to.deep.equal([
      { by: 'ingram', place: null, at: '2026-11-03T21:40:00Z', source: 'listing' },
    ])
    const { services } = world.server
    await services.database
      .getRepository(DeviceConnections)
      .save({
        engagementId: world.engagement,
        device: 'core',
        dialect: 'indented',
        address: '127.0.0.1',
        port: 22,
        netconfPort: null,
        snmpPort: null,
        old: false,
        hostKey: null,
        credentialId: null,
      })
    for (const text of [
      '<189>1 2026-11-03T21:39:58Z core config - - - Configured from console by ingram on vty0 (10.40.0.9)',
      '<189>1 2026-11-03T22:00:00Z core auth - - - Login of heron failed',
      '<189>1 2026-11-09T22:00:00Z core config - - - Configured from console by marlow on vty1 (10.40.0.7)',
    ]) {
      const message = readSyslog(text)
      if (message) await services.schedules.heard(message)
    }
    expect((await rowOf('core')).authors).to.deep.equal([
      { by: 'ingram', place: '10.40.0.9', at: '2026-11-03T21:39:58.000Z', source: 'syslog' },
    ])
  })

  it('a change is unexplained until somebody approves the state', async () => {
    const core = await rowOf('core')
    expect([core.configured, core.explained]).to.deep.equal([true, null])
    const body = { snapshot: second, devices: [core.device], reason: 'Ticket 4711' }
    expect((await (await world.client('reader')).post(`${base}/approved-states`, body)).status).to.equal(403)
    expect((await lead.post(`${base}/approved-states`, body)).json).to.deep.equal({ approved: 1 })
    expect((await rowOf('core')).explained).to.deep.include({ kind: 'approval', title: 'Ticket 4711' })
    expect((await lead.get(`${base}/activity`)).text).to.contain('states approved')
  })

  it('two sides with the lines of both records', async () => {
    const sides = await answered(`${base}/changes/sides?deviceA=core`)
    expect(sides.a.snapshot.id).to.equal(first)
    expect(sides.accessLists[0].b[0].record).to.equal(sides.b.record)
    expect(sides.records[0].statements[0]).to.deep.include({
      change: 'added',
      text: 'permit tcp 10.40.30.0 0.0.0.255 any eq 8080',
    })
    const { json: record } = await lead.get(`${base}/records/${sides.b.record}`)
    const [line] = sides.records[0].statements[0].b
    expect(JSON.stringify(record)).to.contain('eq 8080')
    expect(line.record).to.equal(sides.b.record)
  })

  it('two devices, and one listing that there is not', async () => {
    const twins = await answered(`${base}/changes/sides?a=${second}&b=${second}&deviceA=core&deviceB=edge`)
    expect(
      twins.model.map(({ subject, field, before, after }: any) => [subject, field, before, after]),
    ).to.deep.include([[], 'hostname', 'core', 'edge'])
    expect((await lead.get(`${base}/changes/sides?deviceA=core&listingA=config.saved`)).status).to.equal(422)
    expect((await lead.get(`${base}/changes/sides?deviceA=heron`)).status).to.equal(404)
  })

  it('exports CSV and a patch, secrets masked', async () => {
    const csv = await lead.get(`${base}/changes.csv`)
    expect(csv.text).to.contain('device,site,standing,change,author,explained').and.contain('core,,changed')
    const patch = await lead.get(`${base}/changes/sides.patch?deviceA=core`)
    expect(patch.text).to.contain('+ permit tcp 10.40.30.0 0.0.0.255 any eq 8080').and.contain('‹secret:')
    expect(csv.text + patch.text).not.to.contain('sparrowhawk')
    expect((await lead.get(`${base}/changes/sides/texts?deviceA=core`)).json.b).to.contain('eq 8080')
  })

  it('findings of both audits: new, resolved, still open', async () => {
    const { findings } = await answered(`${base}/changes/sides?deviceA=core`)
    expect(findings.length).to.be.greaterThan(3)
    expect(new Set(findings.map(({ change }: any) => change))).to.include('open')
  })

  it('noise, checks and references are files whose versions stay', async () => {
    const put = async (kind: string, text: string): Promise<any> => lead.put(`${base}/change-files/${kind}`, { text })
    expect((await lead.get(`${base}/change-files/noise`)).json).to.deep.equal({
      kind: 'noise',
      text: '',
      version: 0,
      versions: [],
    })
    const noise = 'noise:\n- { id: cards, title: Cards, block: CARDS, statement: eq 8080 }\n'
    expect((await put('noise', noise)).json).to.deep.equal({ version: 1 })
    expect((await put('noise', 'noise: []\n')).json).to.deep.equal({ version: 2 })
    expect((await lead.get(`${base}/change-files/noise?version=1`)).json.text).to.equal(noise)
    expect((await lead.get(`${base}/change-files/noise?version=9`)).status).to.equal(404)
    const wrong = await put('checks', 'sets:\n- { id: s, title: S, checks: [heron] }\n')
    expect([wrong.status, wrong.text]).to.deep.equal([422, wrong.text])
    expect(wrong.text).to.contain('heron')
    const reference = (missing: string) =>
      'references:\n- id: r\n  title: R\n  feature: NTP\n  dialect: indented\n  parts: [{ lines: [ntp authenticate] }]\n' +
      `  examples: [{ name: none, config: 'hostname a', missing: [${missing}] }]\n`
    expect((await put('references', reference('heron'))).status).to.equal(422)
    expect((await put('references', reference('ntp authenticate'))).status).to.equal(200)
    expect((await lead.get(`${base}/change-files/heron`)).status).to.equal(404)
    expect(
      (await (await world.client('engineer')).put(`${base}/change-files/noise`, { text: 'noise: []\n' })).status,
    ).to.equal(403)
  })
})

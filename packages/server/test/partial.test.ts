import { expect } from 'chai'
import { Records } from '../src/snapshots/entity.ts'
import { makeWorld, type Client, type World } from './world.ts'

const OPEN = (name: string): string => `hostname ${name}\nip http server\n`
const CLOSED = (name: string): string => `hostname ${name}\nno ip http server\n`
const at = (day: number): string => `2026-11-${String(day).padStart(2, '0')}T10:00:00Z`

/** Snapshots that bring some devices, audits that judge some, and what must not be there. */
describe('partial snapshots and limited audits', function () {
  this.timeout(120_000)
  let world: World
  let lead: Client
  let base: string
  let engagement: number

  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
  })
  after(async () => world.end())
  beforeEach(async () => {
    engagement = (await lead.post('/engagements', { title: 'Partial', client: '' })).json.id
    base = `/engagements/${engagement}`
  })

  const audits = async (): Promise<any[]> => (await lead.get(`${base}/chronicle`)).json.audits
  const outcomes = async (audit: number, rule = 'http-server-off'): Promise<Record<string, string>> =>
    Object.fromEntries(
      (await lead.get(`${base}/audits/${audit}/verdicts?rule=${rule}`)).json.verdicts.map(
        ({ device, outcome }: any) => [device, outcome],
      ),
    )

  it('judges what a partial snapshot brings at once, and carries the other verdicts over', async () => {
    const { json: first } = await lead.freeze(
      engagement,
      { 'a.cfg': OPEN('a'), 'b.cfg': OPEN('b') },
      { takenAt: at(1) },
    )
    const { auditId } = await lead.audit(engagement, first.id)
    const { json: second } = await lead.freeze(
      engagement,
      { 'a.cfg': CLOSED('a') },
      { title: 'Partial', takenAt: at(2) },
    )
    await lead.idle(engagement)
    const [, follow] = await audits()
    expect([follow.snapshotId, follow.computed, follow.remembered, follow.scope]).to.deep.equal([second.id, 1, 1, null])
    expect(await outcomes(follow.id)).to.deep.equal({ a: 'pass', b: 'fail' })
    expect(await outcomes(auditId), 'as it was').to.deep.equal({ a: 'fail', b: 'fail' })
    const { json: third } = await lead.freeze(
      engagement,
      { 'a.cfg': CLOSED('a'), 'b.cfg': CLOSED('b') },
      { takenAt: at(3) },
    )
    await lead.idle(engagement)
    expect(
      (await audits()).some(({ snapshotId }) => snapshotId === third.id),
      'a whole snapshot waits for whoever judges it',
    ).to.equal(false)
  })

  it('limits an audit to devices, a model or a group, and keeps the one of all as the snapshot’s', async () => {
    const device = (model: string): string => `model: ${model}\n`
    const files = {
      'devices/a/config.txt': OPEN('a'),
      'devices/a/device.yaml': device('Q-24'),
      'devices/b/config.txt': CLOSED('b'),
      'devices/b/device.yaml': device('Q-48'),
    }
    const { json: snapshot } = await lead.freeze(engagement, files, { takenAt: at(1) })
    const whole = await lead.audit(engagement, snapshot.id)
    const run = async (limit: unknown): Promise<any> => {
      const answer = await lead.post(`${base}/audits`, {
        snapshotId: snapshot.id,
        choices: [{ benchmark: 'network-hardening' }],
        limit,
      })
      await lead.idle(engagement)
      return answer
    }
    expect((await run({ devices: ['nobody'] })).json.error).to.contain('no device “nobody”')
    expect((await run({ model: 'Q-99' })).status).to.equal(422)
    expect((await run({ group: 'No such' })).status).to.equal(422)
    expect((await run({ model: 'Q-48' })).json.total).to.equal(1)
    const limited = (await audits()).at(-1)
    expect(limited.scope).to.deep.equal({ title: 'model Q-48', devices: ['b'] })
    expect(await outcomes(limited.id)).to.deep.equal({ b: 'pass' })
    const report = JSON.parse((await lead.get(`${base}/audits/${limited.id}/report.json`)).text)
    expect(report.devices.map(({ name }: any) => name)).to.deep.equal(['b'])
    expect(report.limitedTo, 'the report says so').to.equal('model Q-48')
    expect((await lead.get(`${base}/audits/${limited.id}/report.html`)).text).to.contain('model Q-48')
    const overview = (await lead.get(`${base}/overview`)).json
    expect([overview.auditId, overview.judged], 'the audit of all stays the one of the snapshot').to.deep.equal([
      whole.auditId,
      2,
    ])
    await lead.post(`${base}/groups`, { title: 'Small', text: 'device.name == "a"', kind: 'filter', counted: false })
    expect((await run({ group: 'Small' })).status).to.equal(200)
    expect((await audits()).at(-1).scope).to.deep.equal({ title: 'group Small', devices: ['a'] })
  })

  it('asks all devices what is asked across devices, also where one alone is judged', async () => {
    const port = (name: string): string => `hostname ${name}\ninterface Vlan1\n ip address 10.9.9.9 255.255.255.0\n`
    const { json: snapshot } = await lead.freeze(
      engagement,
      { 'a.cfg': port('a'), 'b.cfg': port('b') },
      { takenAt: at(1) },
    )
    await lead.post(`${base}/audits`, {
      snapshotId: snapshot.id,
      choices: [{ benchmark: 'network-hardening' }],
      limit: { devices: ['a'] },
    })
    await lead.idle(engagement)
    const { id } = (await audits()).at(-1)
    expect(await outcomes(id, 'addresses-unique')).to.deep.equal({ a: 'fail' })
    const { json: page } = await lead.get(`${base}/audits/${id}/verdicts?rule=addresses-unique`)
    const { json: opened } = await lead.get(`${base}/audits/${id}/verdicts/${page.verdicts[0].id}`)
    const cited = opened.verdict.exhibits.filter(({ absent }: any) => !absent)
    expect(
      cited.map(({ device, text }: any) => [device ?? 'a', text.trim()]),
      'the line on both devices',
    ).to.deep.equal([
      ['a', 'ip address 10.9.9.9 255.255.255.0'],
      ['b', 'ip address 10.9.9.9 255.255.255.0'],
    ])
    const { json: view } = await lead.get(`${base}/snapshots/${snapshot.id}`)
    expect(
      cited.map(({ record }: any) => Number(record)),
      'in the records of each',
    ).to.deep.equal(['a', 'b'].map((name) => view.records.find(({ device }: any) => device === name).id))
    const report = JSON.parse((await lead.get(`${base}/audits/${id}/report.json`)).text)
    expect(JSON.stringify(report.verdicts.find(({ rule }: any) => rule === 'addresses-unique').exhibits)).to.contain(
      '"device":"b"',
    )
  })

  it('compares with an audit of the same benchmark and of all devices only', async () => {
    const { json: first } = await lead.freeze(
      engagement,
      { 'a.cfg': CLOSED('a'), 'b.cfg': CLOSED('b') },
      { title: 'First', takenAt: at(1) },
    )
    await lead.post(`${base}/audits`, {
      snapshotId: first.id,
      choices: [{ benchmark: 'network-hardening' }],
      limit: { devices: ['a'] },
    })
    await lead.idle(engagement)
    const { json: second } = await lead.freeze(
      engagement,
      { 'a.cfg': OPEN('a'), 'b.cfg': OPEN('b') },
      { takenAt: at(2) },
    )
    const { auditId } = await lead.audit(engagement, second.id)
    const list = async (since: string): Promise<any> =>
      (await lead.get(`${base}/audits/${auditId}/verdicts?since=${since}`)).json
    expect((await list('new')).before, 'the limited one says nothing of b').to.equal(null)
    await lead.audit(engagement, first.id)
    const found = await list('new')
    expect([
      found.before.snapshot,
      found.verdicts.filter(({ rule }: any) => rule === 'http-server-off').length,
    ]).to.deep.equal(['First', 2])
    const { json: overview } = await lead.get(`${base}/overview`)
    expect([overview.changes.verdicts.since.title, overview.changes.verdicts.new]).to.deep.equal(['First', found.total])
  })

  it('says of which snapshot the audit was that findings are compared with', async () => {
    const { json: first } = await lead.freeze(engagement, { 'a.cfg': CLOSED('a') }, { title: 'First', takenAt: at(1) })
    await lead.audit(engagement, first.id)
    await lead.freeze(engagement, { 'a.cfg': CLOSED('a') }, { title: 'Between', takenAt: at(2) })
    const { json: last } = await lead.freeze(engagement, { 'a.cfg': OPEN('a') }, { takenAt: at(3) })
    await lead.audit(engagement, last.id)
    const { json: overview } = await lead.get(`${base}/overview`)
    expect([overview.before.title, overview.changes.verdicts.since.title]).to.deep.equal(['Between', 'First'])
  })

  it('sorts, filters, counts, pages and exports verdicts on the server', async () => {
    const { json: snapshot } = await lead.freeze(
      engagement,
      { 'a.cfg': OPEN('a'), 'b.cfg': CLOSED('b') },
      { takenAt: at(1) },
    )
    const { auditId } = await lead.audit(engagement, snapshot.id)
    const list = async (query: string): Promise<any> =>
      (await lead.get(`${base}/audits/${auditId}/verdicts?${query}`)).json
    const all = await list('limit=500')
    expect(all.total).to.equal(all.verdicts.length).and.greaterThan(150)
    const pages = await Promise.all([0, 70, 140].map((offset) => list(`limit=70&offset=${offset}&sort=rule`)))
    expect(pages.flatMap(({ verdicts }) => verdicts).map(({ id }: any) => id)).to.have.length(Math.min(210, all.total))
    expect(new Set(pages.flatMap(({ verdicts }) => verdicts).map(({ id }: any) => id)).size, 'none twice').to.equal(
      Math.min(210, all.total),
    )
    for (const column of ['outcome', 'severity', 'device', 'rule', 'branch', 'note']) {
      const up = (await list(`limit=500&sort=${column}`)).verdicts.map((row: any) => row[column])
      const down = (await list(`limit=500&sort=-${column}`)).verdicts.map((row: any) => row[column])
      expect(up, column).to.deep.equal(down.toReversed())
    }
    expect(
      Object.keys(
        Object.fromEntries((await list('sort=severity&limit=500')).verdicts.map(({ severity }: any) => [severity, 1])),
      ),
    ).to.deep.equal(
      ['high', 'medium', 'low', 'info'].filter((one) => all.verdicts.some(({ severity }: any) => severity === one)),
    )
    const some = await list('f.rule=HTTP&f.device=a&f.outcome=fail&limit=1')
    expect(some.verdicts[0]).to.include({ device: 'a', outcome: 'fail' })
    expect(some.total).to.equal(
      all.verdicts.filter(
        ({ rule, device, outcome }: any) => rule.includes('http') && device === 'a' && outcome === 'fail',
      ).length,
    )
    expect((await list('f.outcome=not applicable')).total).to.equal(
      all.verdicts.filter(({ outcome }: any) => outcome === 'notapplicable').length,
    )
    expect((await list(`f.note=${encodeURIComponent('%_')}`)).total, 'no pattern of the database').to.equal(0)
    expect((await lead.get(`${base}/audits/${auditId}/verdicts?sort=body`)).status).to.equal(400)
    const csv = (await lead.get(`${base}/audits/${auditId}/verdicts.csv?f.device=a`)).text.trimEnd().split('\r\n')
    expect(csv.length - 1, 'one line each').to.be.at.least(
      all.verdicts.filter(({ device }: any) => device === 'a').length,
    )
    // New columns come last: whoever reads the file by place reads on.
    expect(csv[0]).to.match(/^outcome,waived,severity,device,benchmark,rule,branch,note,title,severity_rank,/)
  })

  it('deletes a mistaken snapshot with its audits, and nothing that something rests on', async () => {
    const { json: first } = await lead.freeze(
      engagement,
      { 'a.cfg': OPEN('a'), 'b.cfg': OPEN('b') },
      { title: 'First', takenAt: at(1) },
    )
    await lead.audit(engagement, first.id)
    const { json: wrong } = await lead.freeze(engagement, { 'c.cfg': OPEN('c') }, { title: 'Wrong', takenAt: at(2) })
    await lead.idle(engagement)
    const remove = async (client: Client, id: number) => client.call('DELETE', `${base}/snapshots/${id}`)
    expect((await remove(lead, first.id)).json.error).to.contain('carried over to “Wrong”')
    expect((await remove(lead, wrong.id)).status).to.equal(204)
    expect((await audits()).map(({ snapshotId }) => snapshotId)).to.deep.equal([first.id])
    expect((await lead.get(`${base}/devices`)).json.devices.map(({ name }: any) => name)).to.deep.equal(['a', 'b'])
    expect((await lead.get(`${base}/activity`)).text)
      .to.contain('snapshot deleted')
      .and.contain('Wrong')
    await lead.get(`${base}/audits/${(await audits())[0].id}/report.csv`)
    expect((await remove(lead, first.id)).json.error).to.contain('A report of “First” was downloaded')
  })

  it('leaves a carried-over device out, at the freezing and afterwards', async () => {
    const { json: first } = await lead.freeze(
      engagement,
      { 'a.cfg': OPEN('a'), 'b.cfg': OPEN('b'), 'c.cfg': OPEN('c') },
      { takenAt: at(1) },
    )
    await lead.audit(engagement, first.id)
    const { json: second } = await lead.freeze(engagement, { 'a.cfg': CLOSED('a') }, { takenAt: at(2), without: ['b'] })
    await lead.idle(engagement)
    const names = async (): Promise<string[]> =>
      (await lead.get(`${base}/devices`)).json.devices.map(({ name }: any) => name)
    expect(await names()).to.deep.equal(['a', 'c'])
    const { json: view } = await lead.get(`${base}/snapshots/${second.id}`)
    const idOf = (device: string): number => view.records.find((record: any) => record.device === device).deviceId
    expect((await lead.call('DELETE', `${base}/snapshots/${second.id}/devices/${idOf('a')}`)).json.error).to.contain(
      'was captured in this snapshot',
    )
    expect((await lead.call('DELETE', `${base}/snapshots/${second.id}/devices/${idOf('c')}`)).status).to.equal(204)
    await lead.idle(engagement)
    expect(await names()).to.deep.equal(['a'])
    expect(await outcomes((await audits()).at(-1).id), 'judged again without it').to.deep.equal({ a: 'pass' })
    await lead.freeze(engagement, { 'a.cfg': OPEN('a') }, { takenAt: at(3) })
    expect(await names(), 'and so in the next').to.deep.equal(['a'])
  })

  it('takes what a listing says of itself for no change', async () => {
    const listing = (bytes: number, time: string): string =>
      `Building configuration...\n\nCurrent configuration : ${bytes} bytes\n!\n! Last configuration change at ${time} UTC Thu Nov 5 2026 by marlow\n!\nhostname a\nntp clock-period ${bytes}\nend\n`
    await lead.freeze(engagement, { 'a.cfg': listing(90, '10:00:00') }, { takenAt: at(1) })
    await lead.freeze(engagement, { 'a.cfg': listing(91, '11:00:00') }, { takenAt: at(2) })
    const { json: overview } = await lead.get(`${base}/overview`)
    expect(overview.changes.changed).to.deep.equal([])
    const [device] = (await lead.get(`${base}/devices`)).json.devices
    expect(device.changedAt, 'since the first').to.equal(new Date(at(1)).toISOString())
    expect((await lead.get(`${base}/devices/${device.id}/history`)).json[0].spells).to.have.length(1)
  })

  it('counts unparsed lines once: the same on every page and in the report, also after another build', async () => {
    const gateway = '*filter\n:INPUT DROP [0:0]\n-A INPUT -m nonsense --odd 1 -j ACCEPT\nCOMMIT\n'
    const { json: snapshot } = await lead.freeze(
      engagement,
      {
        'devices/g/filters.txt': gateway,
        'devices/g/files/sshd_config.txt': 'Port 22\nFrobnicate yes\n',
        'devices/a/config.txt': 'hostname a\nfrobnicate all\n',
        'devices/a/config.saved.txt': 'hostname a\nfrobnicate all\n',
      },
      { takenAt: at(1) },
    )
    const { auditId } = await lead.audit(engagement, snapshot.id)
    const counts = async (): Promise<number[]> => {
      const { devices } = (await lead.get(`${base}/devices`)).json
      const models = await Promise.all(
        devices.map(async ({ id }: any) => (await lead.get(`${base}/devices/${id}/model`)).json.unread.length),
      )
      const report = JSON.parse((await lead.get(`${base}/audits/${auditId}/report.json`)).text)
      const sum = (all: readonly number[]): number => all.reduce((total, one) => total + one, 0)
      return [
        sum(devices.map(({ unread }: any) => unread)),
        sum(models),
        (await lead.get(`${base}/overview`)).json.unread,
        (await lead.get(`${base}/snapshots`)).json[0].unread,
        sum(report.devices.map(({ unread }: any) => unread)),
      ]
    }
    const said = await counts()
    expect(new Set(said).size, said.join()).to.equal(1)
    expect(said[0]).to.be.greaterThan(1)
    const rows = world.server.services.database.getRepository(Records)
    await rows
      .createQueryBuilder()
      .update()
      .set({ unread: [1, 2, 3, 4, 5, 6, 7], readBy: 'another build' })
      .execute()
    await world.server.services.readings.readAgain()
    expect(await counts()).to.deep.equal(said)
  })

  it('a sample is drawn again from its seed, and the report names population and sample', async () => {
    const files = Object.fromEntries(['a', 'b', 'c', 'd', 'e', 'f'].map((name) => [`${name}.cfg`, OPEN(name)]))
    const { json: snapshot } = await lead.freeze(engagement, files, { takenAt: at(1) })
    const judged = async (sample: object): Promise<any> => {
      const { status, text } = await lead.post(`${base}/audits`, {
        snapshotId: snapshot.id,
        choices: [{ benchmark: 'network-hardening' }],
        limit: { sample },
      })
      expect(status, text).to.equal(200)
      await lead.idle(engagement)
      return (await audits()).at(-1)
    }
    const first = await judged({ size: 3, seed: 'November', by: ['model'] })
    expect(first.scope.title).to.equal('a sample of 3 of 6 devices, stratified by model, seed “November”')
    expect(first.scope.devices).to.have.length(3)
    expect((await judged({ size: 3, seed: 'November', by: ['model'] })).scope).to.deep.equal(first.scope)
    const others = new Set<string>()
    for (const seed of ['1', '2', '3', '4']) others.add((await judged({ size: 3, seed, by: [] })).scope.devices.join())
    expect(others.size, 'another seed draws others').to.be.greaterThan(1)
    const { text: report } = await lead.get(`${base}/audits/${first.id}/report.html`)
    expect(report).to.contain('Limited to a sample of 3 of 6 devices, stratified by model, seed “November”.')
    const bad = await lead.post(`${base}/audits`, {
      snapshotId: snapshot.id,
      choices: [{ benchmark: 'network-hardening' }],
      limit: { sample: { size: 0, seed: '', by: [] } },
    })
    expect(bad.status).to.equal(400)
  })
})

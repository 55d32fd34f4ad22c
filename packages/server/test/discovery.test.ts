import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { simulate, type SimulatedNetwork } from '@jurybox/simulator'
import { expect } from 'chai'
import ipaddr from 'ipaddr.js'
import { addressesIn, translated } from '../src/discovery/service.ts'
import { AlertEvents } from '../src/alerts/entity.ts'
import { makeWorld, type Client, type World } from './world.ts'

describe('addresses that are tried', () => {
  const cases: [prefix: string, count: number | null, first?: string, last?: string][] = [
    ['10.40.255.0/26', 62, '10.40.255.1', '10.40.255.62'],
    ['10.40.255.8/31', 2, '10.40.255.8', '10.40.255.9'],
    ['10.40.255.9/32', 1, '10.40.255.9', '10.40.255.9'],
    ['10.40.0.0/22', 1022, '10.40.0.1', '10.40.3.254'],
    ['10.40.0.0/21', null],
    ['0.0.0.0/0', null],
    ['2001:db8::/122', 64, '2001:db8::', '2001:db8::3f'],
    ['2001:db8::/64', null],
  ]
  for (const [prefix, count, first, last] of cases)
    it(`${prefix}: ${count ?? 'too many'}`, () => {
      const addresses = addressesIn(prefix)
      expect(addresses?.length ?? null).to.equal(count)
      if (addresses) expect([addresses[0], addresses.at(-1)]).to.deep.equal([first, last])
      for (const address of addresses ?? [])
        expect(ipaddr.parse(address).match(ipaddr.parseCIDR(prefix))).to.equal(true)
    })
  const pairs = [
    { from: '10.40.0.0/16', to: '127.40.0.0/16' },
    { from: '2001:db8::/32', to: '2001:db9::/32' },
  ]
  for (const [address, is] of [
    ['10.40.255.1', '127.40.255.1'],
    ['10.41.0.1', '10.41.0.1'],
    ['2001:db8::7', '2001:db9::7'],
    ['core.example', 'core.example'],
  ] as const)
    it(`${address} is reached at ${is}`, () => expect(translated(address, pairs)).to.equal(is))
})

const HEAD = 'Device ID           Local Intf     Hold-time  Capability      Port ID     Management Address\n'
const seen = (...rows: [system: string, local: string, port: string, address: string][]): string =>
  HEAD +
  rows
    .map(([system, local, port, address]) =>
      `${system.padEnd(20)}${local.padEnd(15)}120        B,R             ${port}      ${address}`.trimEnd(),
    )
    .join('\n') +
  '\n'

/**
 * A ring of three with a branch, a one-sided neighbour, one that is seen and has no address, and one that nobody sees.
 */
function network(folder: string): void {
  const device = (name: string, address: string, neighbours: string | null, more = ''): void => {
    const at = join(folder, 'devices', name)
    mkdirSync(join(at, 'state'), { recursive: true })
    writeFileSync(
      join(at, 'config.txt'),
      `hostname ${name}\ninterface Loopback0\n ip address ${address} 255.255.255.255\ninterface TenGigabitEthernet1/1\n no shutdown\ninterface TenGigabitEthernet1/2\n no shutdown\ninterface TenGigabitEthernet1/3\n no shutdown\nline vty 0 4\n transport input ssh\nend\n`,
    )
    writeFileSync(
      join(at, 'device.yaml'),
      `model: C-24\nos: OstOS\nversion: '7.4'\nmanagementAddress: ${address}\n${more}`,
    )
    if (neighbours !== null) writeFileSync(join(at, 'state', 'neighbours.txt'), neighbours)
  }
  writeFileSync(join(folder, 'snapshot.yaml'), 'title: A ring\n')
  device('a', '10.77.0.1', seen(['b', 'Te1/1', 'Te1/2', '10.77.0.2'], ['c', 'Te1/2', 'Te1/1', '10.77.0.3']))
  device(
    'b',
    '10.77.0.2',
    seen(['c', 'Te1/1', 'Te1/2', '10.77.0.3'], ['a', 'Te1/2', 'Te1/1', '10.77.0.1'], ['ghost', 'Te1/3', 'Te9/9', '']),
  )
  // It does not tell of the branch: the branch tells of it.
  device(
    'c',
    '10.77.0.3',
    seen(
      ['a', 'Te1/1', 'Te1/2', '10.77.0.1'],
      ['b', 'Te1/2', 'Te1/1', '10.77.0.2'],
      ['branch', 'Te1/3', 'Te1/1', '10.77.0.4'],
      ['outside', 'Te1/3', 'x', '192.0.2.1'],
    ),
  )
  device('branch', '10.77.0.4', HEAD)
  device('alone', '10.77.0.9', HEAD)
}

describe('discovery', () => {
  let world: World
  let lead: Client
  let net: SimulatedNetwork
  const folder = mkdtempSync(join(tmpdir(), 'jurybox-ring-'))
  const base = (): string => `/engagements/${world.engagement}`
  const plan = (more: object = {}) => ({
    first: ['10.77.0.1'],
    hops: 8,
    range: null,
    port: net.sharedPort,
    snmpPort: null,
    ...more,
  })
  const ended = async (id: number): Promise<any> => {
    for (;;) {
      const job = (await lead.get(`${base()}/jobs`)).json.find((one: any) => one.id === id)
      if (job?.state !== 'running') return job
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
  }
  const discover = async (of: object, confirmed: number | null = null): Promise<any> => {
    const started = await lead.post(`${base()}/discoveries`, { plan: of, confirmed })
    expect(started.status, started.json?.error).to.equal(200)
    return { job: await ended(started.json.id), ...(await lead.get(`${base()}/discovery`)).json }
  }
  const brief = (sightings: any[]): string[] =>
    sightings.map(({ kind, device, state }) => `${kind} ${device} ${state}`).sort()
  const decide = async (sightings: any[], decision: string, facts = {}) =>
    (await lead.post(`${base()}/discovery/decide`, { sightings: sightings.map(({ id }) => id), decision, facts })).json
      .came
  /** Devices of alerts of a kind, in the order in which they came. */
  const alerted = async (kind: string): Promise<(string | null)[]> =>
    (
      await world.server.services.database
        .getRepository(AlertEvents)
        .find({ where: { engagementId: world.engagement, kind }, order: { id: 'ASC' } })
    ).map(({ device: name }) => name)
  const device = (name: string) => net.devices.find((one) => one.name === name) as (typeof net.devices)[number]

  before(async () => {
    network(folder)
    net = await simulate(folder, { spread: true })
    world = await makeWorld()
    lead = await world.client('lead')
    await lead.post(`${base()}/credentials`, {
      title: 'Audit',
      user: net.accounts[0]?.user,
      password: net.accounts[0]?.password,
      privileged: net.accounts[0]?.privileged,
    })
  })
  after(async () => {
    await world.end()
    await net.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  it('tries nothing that a lead did not allow, and no range that nobody agreed to', async () => {
    const refused = async (of: object, confirmed: number | null = null) =>
      (await lead.post(`${base()}/discoveries`, { plan: of, confirmed })).json.error
    expect(await refused(plan())).to.equal('There are no scan ranges. A lead has to add one first.')
    expect(
      (await (await world.client('engineer')).put(`${base()}/scan-ranges`, { ranges: ['0.0.0.0/0'] })).status,
    ).to.equal(403)
    await lead.put(`${base()}/scan-ranges`, { ranges: ['10.77.0.0/24'] })
    expect(
      (await lead.put(`${base()}/translations`, { translations: [{ from: '10.77.0.0/24', to: '127.77.0.0/16' }] }))
        .status,
    ).to.equal(400)
    await lead.put(`${base()}/translations`, { translations: [{ from: '10.77.0.0/24', to: '127.77.0.0/24' }] })
    expect(await refused(plan({ first: ['10.78.0.1'] }))).to.equal(
      '10.78.0.1 is outside the scan ranges (10.77.0.0/24).',
    )
    expect((await discover(plan({ first: ['no-such-name.invalid', 'localhost'] }))).job.params.tried).to.deep.equal([
      { address: 'localhost', device: null, reason: 'outside the scan ranges' },
      { address: 'no-such-name.invalid', device: null, reason: 'this name has no address' },
    ])
    expect(await refused(plan({ first: [], range: '10.77.0.0/23' }))).to.contain('10.77.1.0 is outside the scan ranges')
    expect(await refused(plan({ first: [], range: '10.0.0.0/8' }))).to.contain('more than 1024 addresses')
    expect(await refused(plan({ range: '10.77.0.0/28' }))).to.equal(
      '14 addresses of 10.77.0.0/28 would be tried. Confirm the number first.',
    )
    expect(await refused(plan({ first: [] }))).to.equal('A discovery needs a first device or a scan range.')
  })

  it('goes round a ring once, follows what one end tells, and says whom it could not follow', async () => {
    const { job, sightings } = await discover(plan())
    expect([job.state, job.message]).to.deep.equal(['done', '4 new'])
    expect(brief(sightings)).to.deep.equal([
      'appeared a waiting',
      'appeared b waiting',
      'appeared branch waiting',
      'appeared c waiting',
    ])
    const c = sightings.find(({ device: name }: any) => name === 'c')
    expect(c.found).to.deep.include({
      name: 'c',
      dialect: 'indented',
      model: 'C-24',
      version: '7.4',
      serial: device('c').hardware.serial,
      neighbourOf: ['a', 'b'],
      reachedAt: `127.77.0.3:${net.sharedPort}`,
    })
    expect(JSON.stringify(sightings)).to.not.contain('hostKey')
    expect(
      job.params.tried.map(({ address, device: name, reason }: any) => [address, name, reason]).sort(),
    ).to.deep.equal([
      ['', 'ghost', 'neighbour of b at Te1/3; its management address is unknown'],
      ['192.0.2.1', null, 'outside the scan ranges'],
    ])
    // Each device was asked once: as often as its dialects were tried.
    expect(device('a').tries.length).to.equal(1)
  })

  it('tells of new devices, each once', async () => {
    await lead.post(`${base()}/alerts`, {
      title: 'Daily',
      to: { channel: 'mail', host: '127.0.0.1', port: 9, tls: 'none', from: 'a@b.example', to: ['c@d.example'] },
      kinds: ['appeared', 'vanished'],
      severity: 'info',
      digest: { every: 'day', at: '03:00' },
    })
    await discover(plan())
    await discover(plan())
    expect((await alerted('appeared')).toSorted()).to.deep.equal(['a', 'b', 'branch', 'c'])
  })

  it('stops at the hops that are given', async () =>
    expect(brief((await discover(plan({ hops: 1 }))).sightings)).to.deep.equal([
      'appeared a waiting',
      'appeared b waiting',
      'appeared c waiting',
    ]))

  it('what was found joins the estate when somebody has looked it over', async () => {
    const { sightings } = await discover(plan())
    expect((await lead.get(`${base()}/connections`)).json.devices).to.deep.equal([])
    expect(await decide(sightings, 'take', { site: 'quay-9', role: 'core' })).to.deep.include({
      device: 'a',
      ok: true,
      what: 'added with the next collection',
    })
    const { json } = await lead.get(`${base()}/connections`)
    expect(json.devices.map(({ device: name, address }: any) => `${name} ${address}`)).to.deep.equal([
      'a 127.77.0.1',
      'b 127.77.0.2',
      'branch 127.77.0.4',
      'c 127.77.0.3',
    ])
    expect(await decide(sightings, 'take')).to.deep.include({
      device: 'a',
      ok: false,
      what: 'Already decided by The lead.',
    })
    const collected = await ended((await lead.post(`${base()}/collections`, { devices: null, title: 'First' })).json.id)
    expect([collected.state, collected.message]).to.deep.equal(['done', '4 collected'])
    const joined = (await lead.get(`${base()}/devices`)).json.devices
    expect(joined.map(({ facts }: any) => [facts.site, facts.role])).to.deep.equal(
      Array.from({ length: 4 }, () => ['quay-9', 'core']),
    )
  })

  it('suggests site and role where the neighbours and devices of the same model agree', async () => {
    const { sightings } = await discover(plan())
    const b = sightings.find(({ device: name }: any) => name === 'b')
    expect(b.suggested).to.deep.equal({ site: 'quay-9', role: 'core' })
  })

  it('a range finds whom no neighbour tells of; all else is as before', async () => {
    const { job, sightings } = await discover(plan({ first: [], range: '10.77.0.0/28' }), 14)
    expect(job.message).to.equal('1 new, 4 as before')
    expect(brief(sightings)).to.deep.equal([
      'appeared alone waiting',
      'known a taken',
      'known b taken',
      'known branch taken',
      'known c taken',
    ])
  })

  it('a spare in the old place keeps the name and the history of what it replaces', async () => {
    const was = device('branch').hardware.serial
    await device('branch').replace()
    // Whoever stands there now might be anybody: without a word of ours it is told no password.
    const before = device('branch').tries.length
    const careful = await discover(plan())
    expect(careful.job.params.tried.find(({ address }: any) => address === '10.77.0.4').reason).to.match(/^key: /)
    expect(device('branch').tries.length).to.equal(before)
    const { sightings } = await discover(plan({ otherKeys: true }))
    const one = sightings.find(({ kind }: any) => kind === 'replaced')
    expect(one).to.include({
      device: 'branch',
      why: `branch had the serial number ${was} before, now ${device('branch').hardware.serial}`,
    })
    const id = (await lead.get(`${base()}/devices`)).json.devices.find(({ name }: any) => name === 'branch').id
    expect(await decide([one], 'take')).to.deep.equal([
      { device: 'branch', ok: true, what: 'replacement accepted; its history continues' },
    ])
    // It is not asked again, although the records are still those of the old hardware.
    expect(brief((await discover(plan())).sightings)).to.include('known branch taken')
    // The new key was seen and is trusted: it is collected as the same device.
    const collected = await ended(
      (await lead.post(`${base()}/collections`, { devices: ['branch'], title: 'After' })).json.id,
    )
    expect(collected.state).to.equal('done')
    const after = (await lead.get(`${base()}/devices`)).json.devices.find(({ name }: any) => name === 'branch')
    expect(after.id).to.equal(id)
    expect((await lead.get(`${base()}/devices/${id}/history`)).status).to.equal(200)
  })

  it('the same hardware at another address has moved; a second name for it is a duplicate', async () => {
    await lead.put(`${base()}/connections`, {
      devices: [{ device: 'c', dialect: 'indented', address: '127.77.0.99', port: net.sharedPort }],
    })
    const { sightings } = await discover(plan())
    const moved = sightings.find(({ kind }: any) => kind === 'moved')
    expect(moved.device).to.equal('c')
    expect(await decide([moved], 'take')).to.deep.equal([
      { device: 'c', ok: true, what: `now reached at 127.77.0.3:${net.sharedPort}` },
    ])
    device('b').set('config', (device('b').record('config') ?? '').replace('hostname b', 'hostname bee'))
    const twin = (await discover(plan())).sightings.find(({ found }: any) => found?.name === 'bee')
    // Its serial number tells that it is the one of old.
    expect(twin).to.include({ kind: 'known', device: 'b' })
    device('b').set('config', (device('b').record('config') ?? '').replace('hostname bee', 'hostname b'))
  })

  it('who does not answer any more has vanished; nothing of its records goes with it', async () => {
    // It was away before, while its replacement was not trusted.
    expect(await alerted('vanished')).to.deep.equal(['branch'])
    device('branch').weather = { refuses: true }
    await discover(plan())
    expect(await alerted('vanished')).to.deep.equal(['branch', 'branch'])
    const { sightings } = await discover(plan())
    const gone = sightings.find(({ kind }: any) => kind === 'vanished')
    expect(await alerted('vanished'), 'once while it is away').to.deep.equal(['branch', 'branch'])
    expect(gone).to.include({ device: 'branch', why: `not found; it was reached at 127.77.0.4:${net.sharedPort}` })
    expect(await decide([gone], 'take')).to.deep.equal([
      { device: 'branch', ok: true, what: 'removed from collection; its records are kept' },
    ])
    expect((await lead.get(`${base()}/devices`)).json.devices.some(({ name }: any) => name === 'branch')).to.equal(true)
    device('branch').weather = {}
  })

  it('on the map a device that is down keeps its last known neighbours, and the ports that face it', async () => {
    device('c').weather = { refuses: true }
    const collected = await ended(
      (await lead.post(`${base()}/collections`, { devices: ['a', 'b', 'c'], title: 'Without c' })).json.id,
    )
    expect(collected.message).to.equal('2 collected, 1 missing')
    device('c').weather = {}
    const asked = async (): Promise<any> => {
      const answer = await lead.get(`${base()}/estate/map`)
      return answer.status === 202 ? asked() : answer.json
    }
    const map = await asked()
    const c = map.devices.find(({ name }: any) => name === 'c')
    expect(c.down).to.match(/^not collected \(/)
    expect(map.devices.find(({ name }: any) => name === 'a').down).to.equal(null)
    const facing = map.links
      .flatMap(({ a, b, standing }: any) =>
        a.device === 'c'
          ? [`${b.device} ${b.port} ${standing}`]
          : b.device === 'c'
            ? [`${a.device} ${a.port} ${standing}`]
            : [],
      )
      .sort()
    expect(facing).to.deep.equal([
      'a TenGigabitEthernet1/2 agreed',
      'b TenGigabitEthernet1/1 agreed',
      'branch TenGigabitEthernet1/1 one-sided',
      'outside x untold',
    ])
    expect((await lead.get(`${base()}/overview`)).json.down.map(({ device: name }: any) => name)).to.deep.equal(['c'])
  })

  it('is stopped, and leaves nothing', async () => {
    for (const one of net.devices) one.weather = { slow: 5_000 }
    const { json } = await lead.post(`${base()}/discoveries`, { plan: plan(), confirmed: null })
    await lead.post(`${base()}/jobs/${json.id}/stop`)
    expect(await ended(json.id)).to.include({ state: 'stopped' })
    for (const one of net.devices) one.weather = {}
    expect((await lead.get(`${base()}/discovery`)).json.last.id).to.not.equal(json.id)
  })

  it('is done by a schedule, with what was agreed to', async () => {
    const body = {
      title: 'Nightly look',
      does: 'discover',
      rhythm: { every: 'day', at: '02:30' },
      zone: 'UTC',
      discovery: plan({ range: '10.77.0.8/30' }),
    }
    expect((await lead.post(`${base()}/schedules`, body)).json.error).to.contain(
      '2 addresses of 10.77.0.8/30 would be tried',
    )
    const { json, status } = await lead.post(`${base()}/schedules`, { ...body, confirmed: 2 })
    expect(status, json.error).to.equal(200)
    await world.server.services.schedules.run(json.id)
    const said = (await lead.get(`${base()}/schedules`)).json.find(({ id }: any) => id === json.id).lastSaid
    expect(said).to.match(/new|as before/)
  })
})

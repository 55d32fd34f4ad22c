import { createSocket } from 'node:dgram'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { simulate, type SimulatedDevice, type SimulatedNetwork } from '@jurybox/simulator'
import { isPrefix } from '@jurybox/api/text'
import { insideOf } from '../src/collect/ranges.ts'
import { DeviceConnections } from '../src/collect/entity.ts'
import { makeWorld, type Client, type World } from './world.ts'

const folder = fileURLToPath(new URL('../../../scenario/2026-11-16', import.meta.url))
const NAMES = ['ops-core2', 'ops-fw1', 'qn-acc1']

describe('schedules that look first, and that begin at a word', function () {
  this.timeout(90_000)
  let network: SimulatedNetwork
  let world: World
  let lead: Client
  let base = ''
  before(async () => {
    network = await simulate(folder, { snmp: true })
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
    const { schedules, collecting, database } = world.server.services
    schedules.gather = 100
    await schedules.listener.open(0, '127.0.0.1')
    network.tellAt({ host: '127.0.0.1', port: schedules.listener.port ?? 0 })
    await collecting.credentials.add(world.engagement, world.users.lead, {
      title: 'A',
      user: 'jurybox',
      password: 'heron-at-low-tide',
      privileged: 'heron-on-the-weir',
    })
    await database
      .getRepository(DeviceConnections)
      .insert(
        network.devices
          .filter(({ name }) => NAMES.includes(name))
          .map(({ name, dialect, port, speaksNetconf, snmpPort }) => ({
            engagementId: world.engagement,
            device: name,
            dialect,
            address: '127.0.0.1',
            port,
            old: false,
            hostKey: null,
            credentialId: null,
            netconfPort: speaksNetconf ? port : null,
            snmpPort,
          })),
      )
  })
  after(async () => {
    await world.end()
    await network.stop()
  })
  const named = (name: string): SimulatedDevice =>
    network.devices.find((device) => device.name === name) as SimulatedDevice
  const schedule = async () => (await lead.get(`${base}/schedules`)).json[0]
  const ended = async (): Promise<string> => {
    for (let tries = 0; tries < 600; tries += 1) {
      const { lastAt, lastSaid } = await schedule()
      if (lastAt !== null && lastSaid !== 'running') return lastSaid
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
    throw new Error('the schedule did not come to its end')
  }

  it('collects once, then only looks while nothing has changed', async () => {
    const { services } = world.server
    const { json } = await lead.post(`${base}/schedules`, {
      title: 'Watch',
      does: 'both',
      rhythm: { every: 'day', at: '03:00' },
      zone: 'UTC',
      benchmarks: ['network-hardening'],
      word: 'was changed',
      looks: true,
    })
    expect(json).to.include({ word: 'was changed', looks: true })
    await services.schedules.run(json.id)
    expect(await ended()).to.match(/^3 checked, changed: ops-core2, ops-fw1, qn-acc1; 3 collected; \d+ fail, /)
    await services.schedules.run(json.id)
    expect(await ended()).to.equal('3 checked, none changed')
    expect((await lead.get(`${base}/snapshots`)).json).to.have.length(1)
    const { json: view } = await lead.get(`${base}/snapshots/${(await lead.get(`${base}/snapshots`)).json[0].id}`)
    const kinds = (device: string): string[] =>
      view.records
        .filter((record: { device: string }) => record.device === device)
        .map(({ path }: { path: string }) => path.split(`${device}/`)[1])
    expect(kinds('ops-fw1')).to.include.members([
      'config.txt',
      'state/interfaces.txt',
      'state/routes.txt',
      'state/counters.json',
    ])
    expect(kinds('ops-core2')).to.include('state/counters.json')
  })

  it('begins at the word of a device, collects that device only, and judges it alone', async () => {
    const before = (await schedule()).lastAt
    named('ops-core2').type(['line vty 0 4', 'transport input telnet ssh'], 'marlow')
    for (let tries = 0; tries < 200 && (await schedule()).lastAt === before; tries += 1)
      await new Promise((resolve) => setTimeout(resolve, 50))
    expect(await ended()).to.match(/^1 checked, changed: ops-core2; 1 collected; \d+ fail, /)
    const snapshot = (await lead.get(`${base}/snapshots`)).json.at(-1)
    expect(snapshot).to.include({ devices: 3, carried: 2 })
    const { audits } = (await lead.get(`${base}/chronicle`)).json
    expect(audits.at(-1)).to.include({ computed: 1, remembered: 2 })
    const { json: found } = await lead.get(`${base}/audits/${audits.at(-1).id}/verdicts?since=new&outcome=fail`)
    expect(found.verdicts.map(({ device, rule }: { device: string; rule: string }) => [device, rule])).to.deep.include([
      'ops-core2',
      'vty-ssh-only',
    ])
  })

  it('tries what answers on a management address, only where that is allowed', async () => {
    expect([
      isPrefix('10.40.0.0/16'),
      isPrefix('2001:db8::/32'),
      isPrefix('10.40.0.0'),
      isPrefix('10.40.0.0/33'),
      isPrefix('quay/8'),
    ]).to.deep.equal([true, true, false, false, false])
    const inside = insideOf(['127.0.0.0/8', '2001:db8::/32'])
    expect([inside('127.0.0.1'), inside('2001:db8::1'), inside('10.0.0.1'), insideOf([])('127.0.0.1')]).to.deep.equal([
      true,
      true,
      false,
      false,
    ])
    expect((await lead.put(`${base}/scan-ranges`, { ranges: ['everywhere'] })).status).to.equal(400)
    expect((await (await world.client('auditor')).put(`${base}/scan-ranges`, { ranges: [] })).status).to.equal(403)
    await lead.put(`${base}/scan-ranges`, { ranges: ['127.0.0.0/8'] })
    const job = await world.server.services.collecting.start(world.engagement, world.users.lead, ['qn-acc1'], 'Tried')
    while ((await lead.get(`${base}/jobs`)).json.find((one: { id: number }) => one.id === job.id).state === 'running')
      await new Promise((resolve) => setTimeout(resolve, 50))
    const snapshot = (await lead.get(`${base}/snapshots`)).json.at(-1)
    const { records } = (await lead.get(`${base}/snapshots/${snapshot.id}`)).json
    const record = records.find(
      ({ device, path }: { device: string; path: string }) =>
        device === 'qn-acc1' && path.endsWith('state/services.json'),
    )
    expect(
      JSON.parse((await lead.get(`${base}/records/${record.id}/text`)).text).services.map(
        ({ port }: { port: number }) => port,
      ),
    ).to.deep.equal([22, 23, 80, 443])
    await lead.put(`${base}/scan-ranges`, { ranges: [] })
  })

  it('asks a device about another, and keeps what it answers as a record', async () => {
    const probe = async (body: Record<string, unknown>) => {
      const { status, json } = await lead.post(`${base}/probes`, body)
      if (status !== 200) return { status, said: json.error }
      for (;;) {
        const job = (await lead.get(`${base}/jobs`)).json.find((one: { id: number }) => one.id === json.id)
        if (job.state !== 'running') return { status, ...job }
        await new Promise((resolve) => setTimeout(resolve, 50))
      }
    }
    const before = (await lead.get(`${base}/snapshots`)).json.at(-1)
    const done = await probe({ device: 'ops-core2', probe: 'lookup', target: 'ops-fw1' })
    expect(done).to.include({ state: 'done', message: '1 line' })
    expect((await lead.get(`${base}/records/${done.params.recordId}/text`)).text).to.match(/^ops-fw1 is at 10\./)
    const after = (await lead.get(`${base}/snapshots`)).json.at(-1)
    expect(after).to.include({ title: '“nslookup ops-fw1” on ops-core2', devices: before.devices })
    expect((await probe({ device: 'stranger', probe: 'ping', target: '10.0.0.1' })).said).to.contain('“stranger”')
    for (const target of ['10.0.0.1; reload', '-c 5', 'a b', '$(x)'])
      expect((await probe({ device: 'ops-core2', probe: 'ping', target })).status, target).to.equal(400)
    expect(
      (
        await (
          await world.client('reader')
        ).post(`${base}/probes`, { device: 'ops-core2', probe: 'ping', target: '10.0.0.1' })
      ).status,
    ).to.equal(403)
  })

  it('bears any number of messages, whoever sends them and whatever they say', async () => {
    const { listener } = world.server.services.schedules
    const socket = createSocket('udp4')
    const { lastAt } = await schedule()
    const messages = [
      '',
      '<13>1',
      '\u0000'.repeat(9000),
      '<189>1 2026-11-26T08:00:00Z stranger config - CHANGED - The configuration was changed by nobody',
      '<34>Oct 11 22:14:15 host su: old form',
    ]
    for (let i = 0; i < 1000; i += 1) socket.send(messages[i % messages.length] || 'x', listener.port ?? 0, '127.0.0.1')
    for (let tries = 0; tries < 100 && listener.left < 20; tries += 1)
      await new Promise((resolve) => setTimeout(resolve, 20))
    await new Promise<void>((resolve) => socket.close(() => resolve()))
    expect(listener.left).to.be.at.least(20)
    expect((await lead.get(`${base}/schedules`)).status).to.equal(200)
    expect((await schedule()).lastAt, 'a stranger begins nothing').to.equal(lastAt)
  })
})

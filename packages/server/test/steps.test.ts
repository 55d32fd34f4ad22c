import { createSocket } from 'node:dgram'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { simulate, type SimulatedDevice, type SimulatedNetwork } from '@jurybox/simulator'
import { Reaches } from '../src/db/entities.ts'
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
    await collecting.credentials.add(world.engagement, world.users.lead, { title: 'A', user: 'jurybox', password: 'heron-at-low-tide', privileged: 'heron-on-the-weir' })
    await database.getRepository(Reaches).insert(
      network.devices.filter(({ name }) => NAMES.includes(name)).map(({ name, dialect, port, speaksNetconf, snmpPort }) => ({ engagementId: world.engagement, device: name, dialect, address: '127.0.0.1', port, old: false, hostKey: null, credentialId: null, netconfPort: speaksNetconf ? port : null, snmpPort })),
    )
  })
  after(async () => {
    await world.end()
    await network.stop()
  })
  const named = (name: string): SimulatedDevice => network.devices.find((device) => device.name === name) as SimulatedDevice
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
    const { json } = await lead.post(`${base}/schedules`, { title: 'Watch', does: 'both', rhythm: { every: 'day', at: '03:00' }, zone: 'UTC', benchmarks: ['network-hardening'], word: 'was changed', looks: true })
    expect(json).to.include({ word: 'was changed', looks: true })
    await services.schedules.run(json.id)
    expect(await ended()).to.match(/^looked at 3, changed: ops-core2, ops-fw1, qn-acc1; 3 collected; \d+ fail, /)
    await services.schedules.run(json.id)
    expect(await ended()).to.equal('looked at 3, nothing has changed')
    expect((await lead.get(`${base}/snapshots`)).json).to.have.length(1)
    const { json: view } = await lead.get(`${base}/snapshots/${(await lead.get(`${base}/snapshots`)).json[0].id}`)
    const kinds = (device: string): string[] => view.records.filter((record: { device: string }) => record.device === device).map(({ path }: { path: string }) => path.split(`${device}/`)[1])
    expect(kinds('ops-fw1')).to.include.members(['config.txt', 'state/interfaces.txt', 'state/routes.txt', 'state/counters.json'])
    expect(kinds('ops-core2')).to.include('state/counters.json')
  })

  it('begins at the word of a device, collects that device only, and judges it alone', async () => {
    const before = (await schedule()).lastAt
    named('ops-core2').type(['line vty 0 4', 'transport input telnet ssh'], 'marlow')
    for (let tries = 0; tries < 200 && (await schedule()).lastAt === before; tries += 1) await new Promise((resolve) => setTimeout(resolve, 50))
    expect(await ended()).to.match(/^looked at 1, changed: ops-core2; 1 collected; \d+ fail, /)
    const snapshot = (await lead.get(`${base}/snapshots`)).json.at(-1)
    expect(snapshot).to.include({ devices: 3, carried: 2 })
    const { audits } = (await lead.get(`${base}/chronicle`)).json
    expect(audits.at(-1)).to.include({ computed: 1, remembered: 2 })
    const { json: found } = await lead.get(`${base}/audits/${audits.at(-1).id}/verdicts?since=new&outcome=fail`)
    expect(found.verdicts.map(({ device, rule }: { device: string; rule: string }) => [device, rule])).to.deep.include(['ops-core2', 'vty-ssh-only'])
  })

  it('bears any number of messages, whoever sends them and whatever they say', async () => {
    const { listener } = world.server.services.schedules
    const socket = createSocket('udp4')
    const { lastAt } = await schedule()
    const messages = ['', '<13>1', '\u0000'.repeat(9000), '<189>1 2026-11-26T08:00:00Z stranger config - CHANGED - The configuration was changed by nobody', '<34>Oct 11 22:14:15 host su: old form']
    for (let i = 0; i < 1000; i += 1) socket.send(messages[i % messages.length] || 'x', listener.port ?? 0, '127.0.0.1')
    for (let tries = 0; tries < 100 && listener.left < 20; tries += 1) await new Promise((resolve) => setTimeout(resolve, 20))
    await new Promise<void>((resolve) => socket.close(() => resolve()))
    expect(listener.left).to.be.at.least(20)
    expect((await lead.get(`${base}/schedules`)).status).to.equal(200)
    expect((await schedule()).lastAt, 'a stranger begins nothing').to.equal(lastAt)
  })
})

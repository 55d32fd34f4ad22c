import { createSocket } from 'node:dgram'
import type { AddressInfo } from 'node:net'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { collectDevice, LIMITS } from '@jurybox/collector'
import { stateOf } from '@jurybox/core/analysis'
import { commandSets } from '@jurybox/core/dialects'
import { readSyslog } from '@jurybox/core/state'
import { simulate, type SimulatedDevice, type SimulatedNetwork } from '@jurybox/simulator'
import ssh2, { type ClientChannel } from 'ssh2'

const folder = fileURLToPath(new URL('../../../scenario/2026-11-16', import.meta.url))
const scenario = fileURLToPath(new URL('../../../scenario', import.meta.url))

/** Types lines on a device over SSH, each behind a prompt, and gives back what it showed. */
async function typeOver(device: SimulatedDevice, lines: readonly string[]): Promise<string> {
  const [account] = device.accounts
  const client = new ssh2.Client()
  try {
    const channel = await new Promise<ClientChannel>((resolve, reject) => {
      client
        .on('ready', () => client.shell((error, opened) => (error ? reject(error) : resolve(opened))))
        .on('error', reject)
      client.connect({
        host: '127.0.0.1',
        port: device.port,
        username: account?.user ?? '',
        password: account?.password ?? '',
      })
    })
    let shown = ''
    let closed = false
    channel.on('data', (data: Buffer) => (shown += data.toString('utf8')))
    channel.on('close', () => (closed = true))
    /** Until a prompt stands there and nothing more comes. */
    const still = async (from: number): Promise<void> => {
      for (let tries = 0, same = 0, last = -1; tries < 400 && !closed && same < 4; tries += 1) {
        await new Promise((resolve) => setTimeout(resolve, 25))
        same = shown.length > from && shown.length === last && /[>#$:] ?$/.test(shown) ? same + 1 : 0
        last = shown.length
      }
    }
    await still(0)
    for (const line of lines) {
      if (closed) break
      const from = shown.length
      channel.write(`${line}\r`)
      await still(from)
    }
    return shown.replace(/\r/g, '')
  } finally {
    client.end()
  }
}

describe('a simulated network', function () {
  this.timeout(60_000)
  let network: SimulatedNetwork
  beforeEach(async () => {
    network = await simulate(folder, { settings: scenario, now: () => new Date('2026-11-26T08:00:00Z') })
    for (const device of network.devices) device.weather = {}
  })
  afterEach(async () => network.stop())
  const named = (name: string): SimulatedDevice =>
    network.devices.find((device) => device.name === name) as SimulatedDevice
  const stateNow = (name: string, ...kinds: string[]) =>
    stateOf(kinds.map((kind) => ({ record: kind, kind, text: String(named(name).answer(commandFor(kind), true)) })))
      .state
  const commandFor = (kind: string): string =>
    commandSets.get('indented')?.records.find((record) => record.kind === `state/${kind}`)?.command ?? ''

  it('is configured over SSH in the indented form: refuses what is none, keeps the rest, and saves', async () => {
    const device = named('qs-dist1')
    const shown = await typeOver(device, [
      'configure terminal',
      'enable',
      device.accounts[0]?.privileged ?? '',
      'configure terminal',
      'frobnicate',
      'interface TenGigabitEthernet1/1',
      'shutdown',
      'end',
      'copy running-config startup-config',
    ])
    expect(shown)
      .to.contain('! Not allowed without more rights: "configure terminal"')
      .and.contain('! “frobnicate” is no command of the device')
      .and.contain('qs-dist1(config-interface)#')
      .and.contain('Saved.')
    expect(device.record('config'))
      .to.match(/interface TenGigabitEthernet1\/1\n(?: .*\n)*? shutdown\n/)
      .and.match(/^! Last configuration change at 08:00:00 UTC Thu Nov 26 2026 by jurybox$/m)
    expect(device.record('config.saved')).to.equal(device.record('config'))
  })

  it('is committed in the braced form: whole or not at all, and back unless confirmed', async () => {
    const device = named('ops-fw1')
    const before = device.record('config') ?? ''
    const shown = await typeOver(device, ['configure', 'set system host-name other', 'exit'])
    expect(device.record('config'), 'what is not committed is not there').to.equal(before)
    expect(shown).to.contain('jurybox@ops-fw1# ')
    await typeOver(device, ['configure', 'set system services telnet', 'commit confirmed 1', 'exit'])
    expect(device.record('config')).to.match(/telnet;$/m)
    await new Promise((resolve) => setTimeout(resolve, 1300))
    expect(device.record('config')).to.not.match(/telnet;$/m)
    await typeOver(device, [
      'configure',
      'set system services telnet',
      'commit confirmed 1',
      'commit',
      'rollback',
      'commit',
      'exit',
    ])
    await new Promise((resolve) => setTimeout(resolve, 1300))
    const lines = (text: string | null): string[] => (text ?? '').split('\n').filter((line) => !line.startsWith('##'))
    expect(lines(device.record('config'))).to.deep.equal(lines(before))
    expect(device.commit('system {', 'x')).to.contain('not closed')
  })

  it('starts again with what was saved', () => {
    const device = named('qs-dist1')
    device.save()
    device.type(['no ip domain name', 'hostname other'], 'marlow')
    device.reload('marlow')
    expect(device.record('config')).to.contain('hostname qs-dist1').and.not.contain('hostname other')
  })

  it('does what it is configured to: ports, links, routes and clock follow', () => {
    const before = stateNow('qs-dist1', 'interfaces', 'neighbours', 'routes', 'ntp', 'clock')
    const port = 'TenGigabitEthernet1/1'
    expect(before.interfaces.find(({ name }) => name === port)?.oper).to.equal('up')
    expect(before.neighbours.map(({ system }) => system)).to.include('ops-core1')
    expect(before.clock.source).to.equal('synchronised')
    // The other end is switched off.
    named('ops-core1').type(['interface TenGigabitEthernet1/3', 'shutdown'], 'ingram')
    const after = stateNow('qs-dist1', 'interfaces', 'neighbours', 'routes', 'ntp')
    expect(after.interfaces.find(({ name }) => name === port)).to.include({ oper: 'down' })
    expect(after.neighbours.map(({ system }) => system)).to.deep.equal(['ops-core2', 'qs-acc1'])
    const hops = (routes: typeof before.routes, prefix: string): (string | null)[] =>
      routes.find((route) => route.prefix === prefix)?.nextHops.map(({ address }) => address) ?? []
    expect([hops(before.routes, '0.0.0.0/0').length, hops(after.routes, '0.0.0.0/0')]).to.deep.equal([
      2,
      ['10.40.254.17'],
    ])
    expect(after.routes.some(({ prefix }) => prefix === '10.40.254.12/30')).to.equal(false)
    expect(after.routes.some(({ prefix }) => prefix === '10.40.254.16/30')).to.equal(true)
    // Its own port, one that nobody captured an output of.
    named('ops-core1').type(['interface TenGigabitEthernet1/3', 'no shutdown'], 'ingram')
    expect(stateNow('qs-dist1', 'interfaces').interfaces.find(({ name }) => name === port)?.oper).to.equal('up')
    const servers = (named('qs-dist1').record('config') ?? '')
      .split('\n')
      .filter((line) => line.startsWith('ntp server'))
    named('qs-dist1').type(
      servers.map((line) => `no ${line}`),
      'ingram',
    )
    expect(stateNow('qs-dist1', 'ntp', 'clock')).to.deep.include({
      clock: { time: '08:00:00.000 UTC Thu Nov 26 2026', source: 'not authoritative' },
    })
    expect(stateNow('qs-dist1', 'ntp').ntp.synchronised).to.equal(false)
  })

  it('answers for every device with a state that can be read', () => {
    for (const { name, dialect } of network.devices.filter((device) => device.dialect === 'indented')) {
      const state = stateNow(name, 'interfaces', 'neighbours', 'routes')
      expect(state.interfaces.length, `${name} (${dialect})`).to.be.greaterThan(0)
    }
    expect(stateNow('ops-edge1', 'neighbours').neighbours.length).to.be.greaterThan(0)
    expect(stateNow('ops-edge1', 'routes').routes.map(({ protocol }) => protocol)).to.include('connected')
  })

  it('knows which way lies to another device, while there is one', () => {
    const ask = (name: string, command: string): string => String(named(name).answer(command, false))
    expect(ask('qs-dist1', 'ping 10.40.254.13')).to.equal('5 packets to 10.40.254.13: 5 came back, 0 lost\n')
    expect(ask('qs-dist1', 'nslookup ops-core1')).to.match(/^ops-core1 is at 10\./)
    expect(ask('qs-dist1', 'nslookup stranger')).to.equal('No address of stranger is known.\n')
    expect(ask('qs-dist1', 'traceroute ops-edge1')).to.match(/^ 1 {2}\S+ {2}ops-core[12]\n(.*\n)*.* {2}ops-edge1\n$/)
    expect(ask('ops-fw1', 'ping 203.0.113.250 count 5')).to.contain('5 lost')
    named('qs-dist1').type(
      [
        'interface TenGigabitEthernet1/1',
        'shutdown',
        'interface TenGigabitEthernet1/2',
        'shutdown',
        'interface Vlan99',
        'shutdown',
        'interface Vlan10',
        'shutdown',
        'interface Vlan30',
        'shutdown',
        'interface Vlan40',
        'shutdown',
      ],
      'ingram',
    )
    expect(ask('qs-dist1', 'ping 10.40.254.13')).to.contain('5 lost')
    expect(named('qs-dist1').answer('ping', false), 'without a target it is no command').to.equal(null)
  })

  it('tells of each change in a syslog message, with who made it', async () => {
    const socket = createSocket('udp4')
    await new Promise<void>((resolve) => socket.bind(0, '127.0.0.1', () => resolve()))
    const heard: string[] = []
    socket.on('message', (data) => heard.push(data.toString('utf8')))
    network.tellAt({ host: '127.0.0.1', port: (socket.address() as AddressInfo).port })
    named('ops-core2').type(['ip domain name other.example'], 'marlow')
    for (let tries = 0; tries < 100 && heard.length === 0; tries += 1)
      await new Promise((resolve) => setTimeout(resolve, 20))
    const message = readSyslog(heard[0] ?? '')
    expect(message).to.include({
      facility: 23,
      severity: 5,
      host: 'ops-core2',
      timestamp: '2026-11-26T08:00:00.000Z',
      id: 'CHANGED',
    })
    expect(message?.data.get('change@32473')?.get('user')).to.equal('marlow')
    await new Promise<void>((resolve) => socket.close(() => resolve()))
  })

  it('has a day, and what happens in it is there when it is collected', async () => {
    expect(network.day.length).to.be.greaterThan(3)
    const titles: string[] = []
    const first = network.step()
    if (first) titles.push(first.title)
    const ports = network.devices.map(({ port }) => port)
    await network.run(1)
    expect(network.happened).to.equal(network.day.length)
    expect(network.step()).to.equal(null)
    await new Promise((resolve) => setTimeout(resolve, 300))
    expect(
      network.devices.map(({ port }) => port),
      'a spare answers at the same place',
    ).to.deep.equal(ports)
    titles.push(...network.day.slice(1).map(({ title }) => title))
    expect(titles).to.deep.equal(network.day.map(({ title }) => title))
    const changed = network.day.find(({ types }) => types !== undefined)
    const device = named(changed?.device ?? '')
    device.weather = {}
    const set = commandSets.get(device.dialect)
    const [account] = network.accounts
    if (!set || !account) throw new Error('no commands or nobody to log in')
    const collected = await collectDevice(
      { name: device.name, address: '127.0.0.1', port: device.port, set, hostKey: null, old: false },
      [{ id: '1', user: account.user, password: account.password, privileged: account.privileged }],
      LIMITS,
    )
    if (!collected.ok) throw new Error(collected.reason)
    expect(collected.records.find(({ kind }) => kind === 'config')?.text.trimEnd()).to.equal(
      device.record('config')?.trimEnd(),
    )
  })
})

import { readFileSync } from 'node:fs'
import { createServer, type AddressInfo, type Socket } from 'node:net'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { LIMITS, cleaned, collectDevice, type Collected, type CollectLimits, type Credential } from '@jurybox/collector'
import { commandSets } from '@jurybox/core/dialects'
import { simulate, type SimulatedDevice, type SimulatedNetwork, type Weather } from '@jurybox/simulator'

const folder = fileURLToPath(new URL('../../../scenario/2026-11-16', import.meta.url))
const sets = commandSets
const QUICK: CollectLimits = { ...LIMITS, connect: 15_000, silence: 15_000, again: 0, backOff: 10 }

describe('collecting from devices on loopback', function () {
  this.timeout(120_000)
  let network: SimulatedNetwork
  let credential: Credential
  before(async () => {
    network = await simulate(folder)
    const [account] = network.accounts
    credential = {
      id: '1',
      user: account?.user ?? '',
      password: account?.password ?? '',
      privileged: account?.privileged,
    }
  })
  after(async () => network.stop())
  afterEach(() => network.devices.forEach((device) => (device.weather = {})))

  const named = (name: string): SimulatedDevice =>
    network.devices.find((device) => device.name === name) as SimulatedDevice
  const collect = async (
    name: string,
    {
      credentials = [credential],
      limits = QUICK,
      hostKey = null as string | null,
      weather = {} as Weather,
      signal = undefined as AbortSignal | undefined,
    } = {},
  ): Promise<Collected> => {
    const device = named(name)
    device.weather = weather
    return collectDevice(
      {
        name,
        address: '127.0.0.1',
        port: device.port,
        set: sets.get(device.dialect) as NonNullable<ReturnType<typeof sets.get>>,
        hostKey,
        old: false,
      },
      credentials,
      limits,
      signal,
    )
  }
  const file = (name: string, path: string): string => readFileSync(join(folder, 'devices', name, path), 'utf8')
  const lines = (text: string): string[] =>
    text
      .replace(/\r/g, '')
      .trimEnd()
      .split('\n')
      .map((line) => line.trimEnd())

  for (const [name, kinds] of [
    ['qs-dist1', ['config', 'config.saved']],
    ['ops-fw1', ['config']],
    ['qs-fw1', ['config']],
    ['dd-gw1', ['filters', 'sysctl', 'state/routes']],
  ] as const) {
    it(`${name}: the records are those of the device, line by line`, async () => {
      const collected = await collect(name)
      if (!collected.ok) throw new Error(`${collected.step}: ${collected.reason}`)
      for (const kind of kinds) {
        const path = `${kind}.${kind.startsWith('state/') ? 'json' : 'txt'}`
        expect(lines(collected.records.find((record) => record.kind === kind)?.text ?? '')).to.deep.equal(
          lines(file(name, path)),
        )
      }
      expect(collected.hostKey).to.match(/^[A-Za-z0-9+/]{43}=$/)
    })
  }

  it('page by page where the device does not stop paging, and slowly', async () => {
    const device = named('qs-dist1')
    const set = { ...(sets.get('indented') as NonNullable<ReturnType<typeof sets.get>>), quiet: [] }
    device.weather = { slow: 5 }
    const collected = await collectDevice(
      { name: 'qs-dist1', address: '127.0.0.1', port: device.port, set, hostKey: null, old: false },
      [credential],
      QUICK,
    )
    if (!collected.ok) throw new Error(`${collected.step}: ${collected.reason}`)
    expect(lines(collected.records[0]?.text ?? '')).to.deep.equal(lines(file('qs-dist1', 'config.txt')))
  })

  const stopped = (collected: Collected): string =>
    collected.ok ? 'collected' : `${collected.step}: ${collected.reason}`
  for (const [what, weather, step] of [
    ['drops in the middle of a listing', { dropAfter: 900 }, 'listing'],
    ['closes every connection', { refuses: true }, 'ssh'],
    ['lets nobody in', { locked: true }, 'login'],
    ['never comes to an end', { endless: true }, 'listing'],
  ] as const) {
    it(`${what}: stops at ${step}, and nothing counts`, async () => {
      const collected = await collect('qs-dist1', { weather, limits: { ...QUICK, answer: 400_000 } })
      expect(stopped(collected)).to.match(new RegExp(`^${step}: `))
    })
  }

  it('falls silent: is not waited for longer than the limit', async () => {
    expect(
      stopped(await collect('qs-dist1', { weather: { slow: 5000 }, limits: { ...QUICK, silence: 700 } })),
    ).to.match(/: nothing came for 0.7 s$/)
  })

  it('characters that belong to nothing are no part of a listing', async () => {
    const collected = await collect('qs-dist1', { weather: { garbles: true } })
    if (!collected.ok) throw new Error(`${collected.step}: ${collected.reason}`)
    expect(lines(collected.records[0]?.text ?? '')).to.deep.equal(lines(file('qs-dist1', 'config.txt')))
  })

  it('a listing that was cut short on the device is never a configuration', async () => {
    const device = named('qs-acc1')
    const whole = device.record('config') ?? ''
    for (const part of [whole.slice(0, whole.length / 2), whole.replace(/\nend\s*$/, '\n')]) {
      device.set('config', part)
      expect(stopped(await collect('qs-acc1'))).to.match(/^listing: “show running-config” is incomplete/)
    }
    device.set('config', whole)
  })

  it('another host key than before: nothing is told to it, not even a password', async () => {
    const first = await collect('qn-acc1')
    const device = named('qn-acc1')
    device.tries.length = 0
    await device.changeKey()
    const again = await collect('qn-acc1', { hostKey: first.hostKey })
    expect(stopped(again)).to.match(/^key: the host key has changed/)
    expect(again.hostKey).to.not.equal(first.hostKey)
    expect(device.tries).to.deep.equal([])
  })

  it('speaks what RFC 9142 deprecates only with a device that is marked as old', async () => {
    const others = await simulate(folder, { weather: { 'qn-acc1': { old: true } } })
    try {
      const device = others.devices.find(({ name }) => name === 'qn-acc1')
      const target = {
        name: 'qn-acc1',
        address: '127.0.0.1',
        port: device?.port ?? 0,
        set: sets.get('indented') as NonNullable<ReturnType<typeof sets.get>>,
        hostKey: null,
      }
      expect(stopped(await collectDevice({ ...target, old: false }, [credential], QUICK))).to.match(
        /^ssh: .*deprecated by RFC 9142/,
      )
      expect((await collectDevice({ ...target, old: true }, [credential], QUICK)).ok).to.equal(true)
      expect(device?.tries).to.have.length(1)
    } finally {
      await others.stop()
    }
  })

  it('several credentials in their order, no more than it may try', async () => {
    const wrong = (id: string): Credential => ({ id, user: 'nobody', password: `wrong ${id}` })
    expect(await collect('qn-acc2', { credentials: [wrong('8'), credential] })).to.include({
      ok: true,
      credential: '1',
    })
    const device = named('qn-acc2')
    device.tries.length = 0
    const locked = await collect('qn-acc2', {
      credentials: [wrong('8'), wrong('9'), credential],
      limits: { ...QUICK, tries: 2 },
    })
    expect(stopped(locked)).to.equal('login: all 2 credentials were refused; 1 more were not tried, to avoid a lockout')
    expect(device.tries).to.not.include(credential.user)
    expect(JSON.stringify(locked)).to.not.contain('wrong 8')
  })

  it('the word for more rights has to fit', async () => {
    expect(stopped(await collect('qs-dist1', { credentials: [{ ...credential, privileged: 'not that' }] }))).to.equal(
      'privilege: the enable password was refused',
    )
  })

  it('a name without an address, a port where nobody is, and a port where somebody says nothing', async () => {
    const set = sets.get('indented') as NonNullable<ReturnType<typeof sets.get>>
    const at = async (address: string, port: number): Promise<string> =>
      stopped(
        await collectDevice({ name: 'x', address, port, set, hostKey: null, old: false }, [credential], {
          ...QUICK,
          connect: 700,
        }),
      )
    expect(await at('no-such-name.invalid', 22)).to.match(/^name: .*“no-such-name.invalid”/)
    const callers = new Set<Socket>()
    const silent = createServer((socket) => void callers.add(socket))
    await new Promise<void>((resolve) => silent.listen(0, '127.0.0.1', () => resolve()))
    const { port } = silent.address() as AddressInfo
    expect(await at('127.0.0.1', port)).to.equal(`ssh: 127.0.0.1:${port} does not offer a login`)
    for (const socket of callers) socket.destroy()
    await new Promise<void>((resolve) => silent.close(() => resolve()))
    expect(await at('127.0.0.1', port)).to.equal(`tcp: 127.0.0.1:${port} refuses connections`)
  })

  it('is asked again after it broke off, and stops when told to', async () => {
    const device = named('qs-dist1')
    const mended = collect('qs-dist1', { weather: { refuses: true }, limits: { ...QUICK, again: 3, backOff: 300 } })
    setTimeout(() => (device.weather = {}), 400)
    expect((await mended).ok).to.equal(true)
    const controller = new AbortController()
    const stopping = collect('qs-dist1', {
      weather: { slow: 300 },
      signal: controller.signal,
      limits: { ...QUICK, again: 3 },
    })
    setTimeout(() => controller.abort(), 300)
    expect(stopped(await stopping)).to.equal('command: the collection was stopped')
  })

  it('what was wiped out on the screen is not there', () => {
    expect(cleaned('a\r\n-- more --\r          \rb\r\n')).to.equal('a\nb\n')
    expect(cleaned('abc\b\b\bxy\n')).to.equal('xyc\n')
    expect(cleaned('\u001b[5nplain \u0007text  \n')).to.equal('plain text  \n')
  })
})

import { spawnSync } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { LIMITS, NetconfSession, collectDevice, operationOf, type Credential } from '@jurybox/collector'
import { detectDialect } from '@jurybox/core'
import { stateOf } from '@jurybox/core/analysis'
import { commandSets, type CommandSet } from '@jurybox/core/dialects'
import { childOf, readElement, textOf, type XmlElement, type XmlPart } from '@jurybox/core/netconf'
import { simulate, type SimulatedDevice, type SimulatedNetwork } from '@jurybox/simulator'
import ssh2 from 'ssh2'

const folder = fileURLToPath(new URL('../../../scenario/2026-11-16', import.meta.url))
const setOf = (dialect: string): CommandSet => commandSets.get(dialect) as CommandSet
const INTERFACES = 'urn:ietf:params:xml:ns:yang:ietf-interfaces'

describe('a simulated device over NETCONF and SNMP', function () {
  this.timeout(60_000)
  let network: SimulatedNetwork
  let device: SimulatedDevice
  let credential: Credential
  const clients: InstanceType<typeof ssh2.Client>[] = []
  beforeEach(async () => {
    network = await simulate(folder, { snmp: true })
    device = network.devices.find(({ name }) => name === 'ops-fw1') as SimulatedDevice
    const [account] = network.accounts
    credential = { id: '1', user: account?.user ?? '', password: account?.password ?? '' }
  })
  afterEach(async () => {
    for (const client of clients.splice(0)) client.end()
    await network.stop()
  })
  const session = async (): Promise<NetconfSession> => {
    const client = new ssh2.Client()
    clients.push(client)
    await new Promise<void>((resolve, reject) =>
      client
        .on('ready', () => resolve())
        .on('error', reject)
        .connect({ host: '127.0.0.1', port: device.port, username: credential.user, password: credential.password }),
    )
    return NetconfSession.open(client, LIMITS)
  }
  const dataIn = (reply: string): XmlElement | undefined => childOf(readElement(reply), 'data')
  const why = async (asked: Promise<string>): Promise<string> =>
    asked.then(
      () => 'done',
      (error: unknown) => String(error),
    )
  const edit = (...parts: XmlPart[]): XmlPart => [
    'edit-config',
    [
      ['target', [['candidate', null]]],
      ['config', parts],
    ],
  ]
  const port = (name: string, ...leaves: XmlPart[]): XmlPart => [
    'interfaces',
    [['interface', [['name', name], ...leaves]]],
    { xmlns: INTERFACES },
  ]

  it('gives configuration and state, edits the candidate, and commits it', async () => {
    const own = await session()
    const running = dataIn(await own.request(operationOf('get-config running'), 'running'))
    expect(textOf(childOf(childOf(running, 'system'), 'hostname'))).to.equal('ops-fw1')
    const ports = childOf(running, 'interfaces')?.children ?? []
    const name =
      textOf(
        childOf(
          ports.find(
            (one) => textOf(childOf(one, 'enabled')) === 'true' && textOf(childOf(one, 'name'))?.startsWith('ge-'),
          ),
          'name',
        ),
      ) ?? ''
    expect(name).to.match(/^ge-/)
    const oper = async (): Promise<string | null> =>
      textOf(
        childOf(
          childOf(
            dataIn(await own.request(operationOf(`get interfaces-state ${INTERFACES}`), 'state')),
            'interfaces-state',
          )?.children.find((one) => textOf(childOf(one, 'name')) === name),
          'oper-status',
        ),
      )
    expect(await oper()).to.equal('up')

    expect(await why(own.request(edit(port(name, ['speed', '1000'])), 'edit'))).to.contain('unknown-element')
    expect(await why(own.request(edit(['users', null, { xmlns: 'urn:other' }]), 'edit'))).to.contain(
      'unknown-namespace',
    )
    await own.request(edit(port(name, ['enabled', 'false'], ['description', 'out of use'])), 'edit')
    expect(device.record('config')).to.not.contain('out of use')
    expect(await oper()).to.equal('up')
    await own.request(['commit', null], 'commit')
    expect(device.record('config')).to.contain('description "out of use";')
    expect(await oper()).to.equal('down')
    await own.request(edit(port(name, ['enabled', 'true'])), 'edit')
    await own.request(
      [
        'commit',
        [
          ['confirmed', null],
          ['confirm-timeout', '1'],
        ],
      ],
      'commit',
    )
    expect(await oper()).to.equal('up')
    await new Promise((resolve) => setTimeout(resolve, 1300))
    expect(await oper(), 'nobody confirmed').to.equal('down')
    expect(await why(own.request(['kill-session', [['session-id', '1']]], 'kill'))).to.contain(
      'operation-not-supported',
    )
  })

  it('lets one session lock the candidate (RFC 6241 §7.5), and lets go when it ends', async () => {
    const [first, second] = [await session(), await session()]
    const lock: XmlPart = ['lock', [['target', [['candidate', null]]]]]
    await first.request(lock, 'lock')
    expect(await why(second.request(lock, 'lock'))).to.contain('lock-denied, Lock failed, lock is already held')
    expect(await why(second.request(['commit', null], 'commit'))).to.contain('in-use')
    await first.request(['close-session', null], 'close')
    await new Promise((resolve) => setTimeout(resolve, 100))
    await second.request(lock, 'lock')
  })

  it('is collected over NETCONF alone, and beside its own commands, with its counters', async () => {
    const target = { name: 'ops-fw1', address: '127.0.0.1', port: device.port, hostKey: null, old: false }
    const alone = await collectDevice({ ...target, set: setOf('data') }, [credential], LIMITS)
    if (!alone.ok) throw new Error(`${alone.step}: ${alone.reason}`)
    const config = alone.records.find(({ kind }) => kind === 'config')?.text ?? ''
    expect(detectDialect(config)).to.deep.include({ ok: true }).and.have.nested.property('dialect.id', 'data')
    const both = await collectDevice(
      {
        ...target,
        set: setOf('braced'),
        netconf: { port: device.port, set: setOf('data') },
        snmpPort: device.snmpPort ?? 0,
      },
      [credential],
      LIMITS,
    )
    if (!both.ok) throw new Error(`${both.step}: ${both.reason}`)
    expect(both.without).to.deep.equal([])
    expect(both.records.map(({ kind }) => kind)).to.include.members([
      'config',
      'state/interfaces',
      'state/routes',
      'state/version',
      'state/hardware',
      'state/counters',
    ])
    // No cable leads to this firewall: its table of neighbours has a head and no rows.
    for (const { kind, text } of both.records.filter(
      ({ kind: one }) =>
        one.startsWith('state/') && !['state/alarms', 'state/environment', 'state/neighbours'].includes(one),
    )) {
      const { state, records } = stateOf([{ record: kind, kind: kind.slice(6), text }])
      expect(records[0]?.reason, kind).to.equal(null)
      expect(
        state.interfaces.length +
          state.routes.length +
          state.neighbours.length +
          Number(state.software.serial !== null),
        kind,
      ).to.be.greaterThan(0)
    }
    const counters = both.records.find(({ kind }) => kind === 'state/counters')?.text ?? ''
    // The same hardware, whichever way it is asked: over SNMP (RFC 6933), over NETCONF (RFC 8348), and as it prints it.
    const said = ['state/version', 'state/hardware', 'state/counters'].map(
      (kind) =>
        stateOf([
          {
            record: 'r',
            kind: kind.slice(6),
            text: kind === 'state/counters' ? counters : (both.records.find((one) => one.kind === kind)?.text ?? ''),
          },
        ]).state.software,
    )
    for (const { model, version, serial } of said)
      expect([model, version, serial]).to.deep.equal([
        device.hardware.model,
        device.hardware.version,
        device.hardware.serial,
      ])
    const none = await collectDevice(
      { ...target, set: setOf('braced'), snmpPort: device.snmpPort ?? 0 },
      [{ ...credential, snmp: { user: 'other', auth: 'other words', privacy: 'other words' } }],
      { ...LIMITS, connect: 1000 },
    )
    if (!none.ok) throw new Error(none.reason)
    expect(none.without[0]).to.match(/^SNMP: /)
    expect(JSON.stringify(none)).to.not.contain('other words')
  })

  const there = spawnSync('snmpget', ['-V']).status === 0
  ;(there ? it : it.skip)(
    `tells Debian’s snmpget its name and the state of a port${there ? '' : ' (left out: there is no snmpget here; apt-get install snmp)'}`,
    async () => {
      const { spawn } = await import('node:child_process')
      const ask = async (oid: string): Promise<string> =>
        new Promise((resolve, reject) => {
          const child = spawn('snmpget', [
            '-v3',
            '-l',
            'authPriv',
            '-u',
            credential.user,
            '-a',
            'SHA-256',
            '-A',
            credential.password,
            '-x',
            'AES',
            '-X',
            credential.password,
            '-On',
            `127.0.0.1:${device.snmpPort}`,
            oid,
          ])
          let out = ''
          child.stdout.on('data', (data: Buffer) => (out += data.toString('utf8')))
          child.stderr.on('data', (data: Buffer) => (out += data.toString('utf8')))
          child.on('error', reject).on('close', () => resolve(out.trim().split('\n').at(-1) ?? ''))
        })
      expect(await ask('1.3.6.1.2.1.1.5.0')).to.equal('.1.3.6.1.2.1.1.5.0 = STRING: "ops-fw1"')
      expect(await ask('1.3.6.1.2.1.1.2.0')).to.equal('.1.3.6.1.2.1.1.2.0 = OID: .1.3.6.1.4.1.32473.1.2')
      expect(await ask('1.3.6.1.2.1.2.2.1.8.1')).to.match(/^\.1\.3\.6\.1\.2\.1\.2\.2\.1\.8\.1 = INTEGER: [12]$/)
    },
  )
})

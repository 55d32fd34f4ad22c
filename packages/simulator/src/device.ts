import { generateKeyPairSync } from 'node:crypto'
import { createServer, type AddressInfo, type Server as NetServer } from 'node:net'
import { dialectById, type DeviceModel } from '@jurybox/core'
import { stateOf } from '@jurybox/core/analysis'
import { commandSets, type SessionRules } from '@jurybox/core/dialects'
import type { DeviceState } from '@jurybox/core/state'
import ssh2, { type Connection } from 'ssh2'
import { SnmpAgent } from './agent.ts'
import { editingOf } from './editing.ts'
import { NetconfServer } from './netconf.ts'
import { chassisOf } from './cabling.ts'
import type { Hardware, PortState, VisibleDevice } from './output-texts.ts'
import type { Account, DeviceFolder, Weather } from './scenario.ts'
import { Shell, pause } from './shell.ts'

const { Server } = ssh2

/**
 * What only an old device still speaks: RFC 9142 says SHOULD NOT of it. (The server side here agrees on no group of its
 * own.)
 */
const OLD = { kex: ['diffie-hellman-group1-sha1'] as const }

/** Configurations from before that are kept. */
const HISTORY = 20

/** A listing says in its head who changed it last, and when. */
function stamped(text: string, by: string, now: Date): string {
  const [day = '', date = '', month = '', year = '', time = ''] = now.toUTCString().replace(',', '').split(' ')
  return text
    .replace(
      /^! Last configuration change at .*$/m,
      `! Last configuration change at ${time} UTC ${day} ${month} ${Number(date)} ${year} by ${by}`,
    )
    .replace(
      /^## Last commit: .*$/m,
      `## Last commit: ${now.toISOString().slice(0, 19).replace('T', ' ')} UTC by ${by}`,
    )
}

function hostKey(): string {
  return generateKeyPairSync('ec', {
    namedCurve: 'prime256v1',
    privateKeyEncoding: { type: 'sec1', format: 'pem' },
    publicKeyEncoding: { type: 'spki', format: 'pem' },
  }).privateKey
}

/** What is around a device. */
export interface SimulatedEnvironment {
  now(): Date
  /** What a device prints of its state now; null where it knows no such command. */
  printed(device: SimulatedDevice, kind: string): string | null
  /** What it answers when it is asked about another. */
  probed(device: SimulatedDevice, probe: 'ping' | 'lookup' | 'path', target: string): string
  /** Its ports as they are now. */
  ports(device: SimulatedDevice): readonly PortState[]
  /** What a configuration of it says; null where it has none. */
  modelled(device: SimulatedDevice, text: string): DeviceModel | null
  /** Told of each change of a configuration, with who made it. */
  changed(device: SimulatedDevice, by: string): void
}

/** A device that answers on loopback: a key of its own, people who may log in, and what its folder says as answers. */
export class SimulatedDevice implements VisibleDevice {
  readonly name: string
  readonly dialect: string
  readonly banner = 'This device belongs to an invented network. Whoever is not asked to be here leaves.'
  #key = hostKey()
  #server: InstanceType<typeof Server>
  #agent: SnmpAgent | null = null
  readonly #open = new Set<Connection>()
  readonly #texts: Map<string, string>
  readonly captured: ReadonlyMap<string, string>
  /** Configurations that were committed before, the last one last. */
  readonly #history: string[] = []
  #unconfirmed: { readonly text: string; readonly timer: NodeJS.Timeout } | null = null
  /** The configuration that is being edited over NETCONF; null where it is the running one. */
  candidate: string | null = null
  /** The session that holds the lock of the candidate; null where nobody does. */
  lockedBy: string | null = null
  readonly #commands: ReadonlyMap<string, string>
  /** How often each user tried to log in. */
  readonly tries: string[] = []

  readonly managementAddress: string | null
  readonly untold: boolean
  readonly #stated: Pick<DeviceFolder, 'model' | 'os' | 'version'>
  /** How often it was replaced. */
  #spares = 0
  /** Where it answers besides: at an address of its own. */
  #door: NetServer | null = null
  /** Where it is reached. */
  address = '127.0.0.1'

  constructor(
    { name, dialect, records, managementAddress, model, os, version, untold = false }: DeviceFolder,
    readonly accounts: readonly Account[],
    public weather: Weather = {},
    readonly around: SimulatedEnvironment | null = null,
  ) {
    this.name = name
    this.dialect = dialect
    this.managementAddress = managementAddress
    this.untold = untold
    this.#stated = { model, os, version }
    this.#texts = new Map(records)
    this.captured = new Map(records)
    this.#commands = new Map((commandSets.get(dialect)?.records ?? []).map(({ kind, command }) => [command, kind]))
    // The algorithms that a device offers are settled when it starts.
    this.#server = this.#made()
  }

  /** How people talk to it. */
  get session(): SessionRules | undefined {
    return dialectById(this.dialect)?.session
  }

  /** The word for more rights, where the dialect knows them; null where whoever logs in may do everything. */
  get privilege(): string | null {
    return this.session?.prompt === 'levels' ? (this.accounts[0]?.privileged ?? null) : null
  }

  /** Its serial number is that of its hardware: a spare has another. */
  get hardware(): Hardware {
    return {
      ...this.#stated,
      serial: `MS${chassisOf(`${this.name} ${this.#spares}`).replaceAll(':', '').slice(4).toUpperCase()}`,
    }
  }

  get port(): number {
    return (this.#server.address() as AddressInfo).port
  }

  /** Text of a record as it is now. */
  record(kind: string): string | null {
    return this.#texts.get(kind) ?? null
  }

  /** Changes what the device holds; undefined takes it away. */
  set(kind: string, text: string | undefined): void {
    if (text === undefined) this.#texts.delete(kind)
    else this.#texts.set(kind, text)
  }

  /** What a command prints: null where there is none, false where it needs more rights. */
  answer(command: string, privileged: boolean): string | null | false {
    const kind = this.#commands.get(command.replace(/\s+/g, ' '))
    if (kind === undefined) return this.#probed(command)
    if (kind.startsWith('config') && !privileged) return false
    if (kind.startsWith('state/') && this.around) return this.around.printed(this, kind)
    return this.#texts.get(kind) ?? null
  }

  #probed(command: string): string | null {
    const words = command.trim().split(/\s+/)
    for (const [probe, form] of Object.entries(commandSets.get(this.dialect)?.probes ?? {})) {
      const parts = form.split(' ')
      const at = parts.indexOf('{target}')
      if (parts.length === words.length && parts.every((part, i) => i === at || part === words[i]))
        return this.around?.probed(this, probe as 'ping' | 'lookup' | 'path', words[at] ?? '') ?? null
    }
    return null
  }

  /** Whether it has a configuration that can be typed at. */
  get isTypedAt(): boolean {
    return this.#texts.has('config') && this.session?.configuring !== null
  }

  /** What was counted on its ports when its state was captured. */
  get counters(): ReadonlyMap<string, DeviceState['interfaces'][number]['counters']> {
    const text = this.captured.get('state/interfaces') ?? ''
    return new Map(
      stateOf([{ record: 'i', kind: 'interfaces', text }]).state.interfaces.map(({ name, counters }) => [
        name,
        counters,
      ]),
    )
  }

  /** Port at which it answers SNMP; null where it does not. */
  get snmpPort(): number | null {
    return this.#agent?.port ?? null
  }

  get speaksNetconf(): boolean {
    return this.session?.netconf === true && this.isTypedAt
  }

  /** The configuration that was committed before the present one. */
  get previous(): string | null {
    return this.#history.at(-1) ?? null
  }

  /**
   * Puts a configuration in place of the running one, and tells who did.
   * @param seconds until the old one comes back, unless this is confirmed by another commit
   * @returns why it is refused; null where it holds
   */
  commit(text: string, by: string, seconds?: number): string | null {
    const dialect = dialectById(this.dialect)
    const [fault] = dialect?.read(text).faults ?? []
    if (!dialect || fault) return `line ${fault?.line ?? 1}: ${fault?.reason ?? 'nothing is typed here'}`
    const before = this.#texts.get('config') ?? ''
    const confirmed = this.#unconfirmed
    if (confirmed) clearTimeout(confirmed.timer)
    this.#unconfirmed = null
    if (seconds !== undefined) {
      const timer = setTimeout(() => {
        this.#unconfirmed = null
        this.#take(confirmed?.text ?? before, by)
      }, seconds * 1000)
      this.#unconfirmed = { text: confirmed?.text ?? before, timer: timer.unref() }
    }
    if (text !== before) this.#take(text, by)
    return null
  }

  /** Types lines as a logged-in user would. @throws Error that says which line is refused */
  type(lines: readonly string[], by: string): void {
    const editing = editingOf(this.#texts.get('config') ?? '', this.dialect)
    for (const line of lines) {
      if (line.trim() === 'exit') editing.leave()
      else {
        const entered = editing.enter(line)
        if (!entered.ok) throw new Error(`${this.name}: ${entered.why}`)
      }
    }
    const refused = this.commit(editing.text, by)
    if (refused !== null) throw new Error(`${this.name}: ${refused}`)
  }

  /** What runs now is what it will start with. */
  save(): void {
    const running = this.#texts.get('config')
    if (running !== undefined) this.#texts.set('config.saved', running)
  }

  /** Starts again with what was saved; every session ends. */
  reload(by: string): void {
    const saved = this.#texts.get('config.saved')
    if (saved !== undefined && saved !== this.#texts.get('config')) this.#take(saved, by)
    this.hangUp()
  }

  #take(text: string, by: string): void {
    const before = this.#texts.get('config') ?? ''
    this.#texts.set('config', text)
    this.changedFrom(before, by)
  }

  /** The running configuration has changed: its head says so, and listeners are called. */
  changedFrom(before: string, by: string): void {
    this.#history.push(before)
    if (this.#history.length > HISTORY) this.#history.shift()
    this.#texts.set('config', stamped(this.#texts.get('config') ?? '', by, this.around?.now() ?? new Date()))
    this.around?.changed(this, by)
  }

  /** @param port 0 for any that is free */
  async listen(port = 0): Promise<void> {
    await new Promise<void>((resolve, reject) => {
      this.#server.once('error', reject)
      this.#server.listen(port, '127.0.0.1', () => resolve())
    })
  }

  /** Answers SNMP as well, from now on. */
  async countPorts(): Promise<void> {
    this.#agent ??= await SnmpAgent.start(this)
  }

  /** A spare takes its place: another serial number, another host key. */
  async replace(): Promise<void> {
    this.#spares += 1
    await this.changeKey()
  }

  /** Answers at an address of its own as well. @returns the port there */
  async answerAt(address: string, port: number): Promise<number> {
    const door = createServer((socket) => void this.#server.injectSocket(socket))
    await new Promise<void>((resolve, reject) => {
      door.once('error', reject)
      door.listen(port, address, () => resolve())
    })
    this.#door = door
    this.address = address
    return (door.address() as AddressInfo).port
  }

  /** Another host key than before, as when someone stands between. */
  async changeKey(): Promise<void> {
    const { port } = this
    await this.#closed()
    this.#key = hostKey()
    this.#server = this.#made()
    await this.listen(port)
  }

  /** Closes every connection at once. */
  hangUp(): void {
    for (const connection of this.#open) connection.end()
  }

  async stop(): Promise<void> {
    if (this.#unconfirmed) clearTimeout(this.#unconfirmed.timer)
    const door = this.#door
    await Promise.all([
      this.#agent?.stop(),
      this.#closed(),
      ...(door ? [new Promise<void>((resolve) => door.close(() => resolve()))] : []),
    ])
    this.#agent = null
  }

  async #closed(): Promise<void> {
    this.hangUp()
    await new Promise<void>((resolve) => this.#server.close(() => resolve()))
  }

  #made(): InstanceType<typeof Server> {
    return new Server(
      { hostKeys: [this.#key], ident: 'invented', ...(this.weather.old ? { algorithms: { kex: [...OLD.kex] } } : {}) },
      (connection) => this.#serve(connection),
    )
  }

  #serve(connection: Connection): void {
    this.#open.add(connection)
    connection.on('close', () => this.#open.delete(connection))
    // Whoever hangs up in the middle of a word is no error of the device.
    connection.on('error', () => this.#open.delete(connection))
    if (this.weather.refuses) return void connection.end()
    let user = ''
    connection.on('authentication', (attempt) => {
      if (attempt.method !== 'password') return attempt.reject(['password'])
      this.tries.push(attempt.username)
      user = attempt.username
      const known = this.accounts.some(
        (account) => account.user === attempt.username && account.password === attempt.password,
      )
      if (known && !this.weather.locked) attempt.accept()
      else attempt.reject(['password'])
    })
    connection.on('session', (accept) => {
      const session = accept()
      session.on('pty', (acceptPty) => acceptPty?.())
      session.on('shell', (acceptShell) => {
        const channel = acceptShell()
        if (this.session?.prompt === 'shell') channel.write('$ ')
        else new Shell(this, channel, user)
      })
      session.on('subsystem', (acceptSubsystem, reject, { name }) => {
        if (name !== 'netconf' || !this.speaksNetconf) return reject()
        new NetconfServer(this, acceptSubsystem(), user)
      })
      session.on('exec', (acceptExec, _, { command }) => {
        const channel = acceptExec()
        void (async () => {
          if (this.weather.slow) await pause(this.weather.slow)
          const answer = this.answer(command, true)
          if (typeof answer === 'string')
            channel.write(this.weather.dropAfter === undefined ? answer : answer.slice(0, this.weather.dropAfter))
          else channel.stderr.write(`no such command: ${command}\n`)
          if (this.weather.dropAfter !== undefined) return this.hangUp()
          channel.exit(typeof answer === 'string' ? 0 : 127)
          channel.end()
        })()
      })
    })
  }
}

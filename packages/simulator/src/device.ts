import { generateKeyPairSync } from 'node:crypto'
import type { AddressInfo } from 'node:net'
import { commandSets } from '@jurybox/content'
import type { CommandSet } from '@jurybox/core'
import ssh2, { type Connection } from 'ssh2'
import type { Account, DeviceFolder, Weather } from './scenario.ts'
import { Shell, pause } from './shell.ts'

const { Server } = ssh2
const sets = new Map<string, CommandSet>(commandSets().map((set) => [set.dialect, set]))

/** What only an old device still speaks: RFC 9142 says SHOULD NOT of each. */
const OLD = { kex: ['diffie-hellman-group-exchange-sha1', 'diffie-hellman-group1-sha1'] as const }

function hostKey(): string {
  return generateKeyPairSync('ec', { namedCurve: 'prime256v1', privateKeyEncoding: { type: 'sec1', format: 'pem' }, publicKeyEncoding: { type: 'spki', format: 'pem' } }).privateKey
}

/** A device that answers on loopback: a key of its own, people who may log in, and what its folder says as answers. */
export class SimulatedDevice {
  readonly name: string
  readonly dialect: string
  readonly banner = 'This device belongs to an invented network. Whoever is not asked to be here leaves.'
  #key = hostKey()
  #server: InstanceType<typeof Server>
  readonly #open = new Set<Connection>()
  readonly #texts: Map<string, string>
  readonly #commands: ReadonlyMap<string, string>
  /** How often each user tried to log in. */
  readonly tries: string[] = []

  constructor(
    { name, dialect, records }: DeviceFolder,
    readonly accounts: readonly Account[],
    public weather: Weather = {},
  ) {
    this.name = name
    this.dialect = dialect
    this.#texts = new Map(records)
    this.#commands = new Map((sets.get(dialect)?.records ?? []).map(({ kind, command }) => [command, kind]))
    // The algorithms that a device offers are settled when it starts.
    this.#server = this.#made()
  }

  /** The word for more rights, where the dialect knows them; null where whoever logs in may do everything. */
  get privilege(): string | null {
    return this.dialect === 'indented' ? (this.accounts[0]?.privileged ?? null) : null
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
    if (kind === undefined) return null
    if (kind.startsWith('config') && !privileged) return false
    return this.#texts.get(kind) ?? null
  }

  /** @param port 0 for any that is free */
  async listen(port = 0): Promise<void> {
    await new Promise<void>((resolve, reject) => {
      this.#server.once('error', reject)
      this.#server.listen(port, '127.0.0.1', () => resolve())
    })
  }

  /** Another host key than before, as when a device was replaced, or someone stands between. */
  async changeKey(): Promise<void> {
    const { port } = this
    await this.stop()
    this.#key = hostKey()
    this.#server = this.#made()
    await this.listen(port)
  }

  /** Closes every connection at once. */
  hangUp(): void {
    for (const connection of this.#open) connection.end()
  }

  async stop(): Promise<void> {
    this.hangUp()
    await new Promise<void>((resolve) => this.#server.close(() => resolve()))
  }

  #made(): InstanceType<typeof Server> {
    return new Server({ hostKeys: [this.#key], ident: 'invented', ...(this.weather.old ? { algorithms: { kex: [...OLD.kex] } } : {}) }, (connection) => this.#serve(connection))
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
      const known = this.accounts.some((account) => account.user === attempt.username && account.password === attempt.password)
      if (known && !this.weather.locked) attempt.accept()
      else attempt.reject(['password'])
    })
    connection.on('session', (accept) => {
      const session = accept()
      session.on('pty', (acceptPty) => acceptPty?.())
      session.on('shell', (acceptShell) => {
        const channel = acceptShell()
        if (this.dialect === 'linux') channel.write('$ ')
        else new Shell(this, channel, user)
      })
      session.on('exec', (acceptExec, _, { command }) => {
        const channel = acceptExec()
        void (async () => {
          if (this.weather.slow) await pause(this.weather.slow)
          const answer = this.answer(command, true)
          if (typeof answer === 'string') channel.write(this.weather.dropAfter === undefined ? answer : answer.slice(0, this.weather.dropAfter))
          else channel.stderr.write(`no such command: ${command}\n`)
          if (this.weather.dropAfter !== undefined) return this.hangUp()
          channel.exit(typeof answer === 'string' ? 0 : 127)
          channel.end()
        })()
      })
    })
  }
}

import { rmSync } from 'node:fs'
import { parseSetCookie } from 'cookie'
import { ROLES, type Role } from '@jurybox/api/roles'
import type { DataSource } from 'typeorm'
import { openDatabase } from '../src/db/data-source.ts'
import { Memberships } from '../src/engagements/entity.ts'
import { settingsOf } from '../src/operation/settings.ts'
import { startServer, type RunningServer } from '../src/server.ts'
import { template } from './template.ts'

export const PASSWORD = 'a long enough password'

/** Someone with a browser: keeps the cookie and the CSRF token. */
export class Client {
  cookie = ''
  csrf = ''

  constructor(readonly address: string) {}

  async call(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<{ status: number; json: any; text: string; headers: Headers }> {
    const form = body instanceof FormData
    const response = await fetch(`${this.address}/api${path}`, {
      method,
      headers: {
        ...(this.cookie ? { cookie: this.cookie } : {}),
        ...(this.csrf ? { 'x-csrf-token': this.csrf } : {}),
        ...(body !== undefined && !form ? { 'content-type': 'application/json' } : {}),
        ...headers,
      },
      ...(body === undefined ? {} : { body: form ? body : JSON.stringify(body) }),
    })
    const text = await response.text()
    const set = response.headers.getSetCookie().map((line) => line.split(';')[0] ?? '')
    if (set[0]) this.cookie = set[0]
    let json: unknown = null
    try {
      json = JSON.parse(text)
    } catch {
      // Not every answer is JSON.
    }
    return { status: response.status, json, text, headers: response.headers }
  }

  get(path: string) {
    return this.call('GET', path)
  }

  post(path: string, body: unknown = {}) {
    return this.call('POST', path, body)
  }

  put(path: string, body: unknown = {}) {
    return this.call('PUT', path, body)
  }

  async signIn(name: string, password = PASSWORD): Promise<number> {
    const { status, json } = await this.post('/sign-in', { name, password })
    if (status === 200) this.csrf = json.csrf
    return status
  }

  async drop(engagement: number, files: Record<string, string | Uint8Array>) {
    const form = new FormData()
    form.set('data', JSON.stringify({ paths: Object.keys(files) }))
    for (const [name, content] of Object.entries(files))
      form.append('files', new Blob([content as BlobPart]), name.split('/').at(-1))
    return this.call('POST', `/engagements/${engagement}/imports`, form)
  }

  /** Drops, freezes; returns the snapshot. */
  async freeze(engagement: number, files: Record<string, string | Uint8Array>, extra: Record<string, unknown> = {}) {
    const { json } = await this.drop(engagement, files)
    return this.post(`/engagements/${engagement}/snapshots`, {
      intake: json.id,
      title: 'S',
      takenAt: '2026-11-02T10:00:00Z',
      ...extra,
    })
  }

  /** Waits until nothing runs: what carries devices over is judged at once. */
  async idle(engagement: number): Promise<void> {
    while (
      (await this.get(`/engagements/${engagement}/jobs`)).json.some(
        ({ state }: { state: string }) => state === 'running',
      )
    )
      await new Promise((resolve) => setTimeout(resolve, 50))
  }

  /** Starts an audit and waits for its end. */
  async audit(
    engagement: number,
    snapshotId: number,
    benchmarks: readonly string[] = ['network-hardening'],
  ): Promise<{ state: string; auditId: number; message: string }> {
    const { json: started } = await this.post(`/engagements/${engagement}/audits`, {
      snapshotId,
      choices: benchmarks.map((benchmark) => ({ benchmark })),
    })
    for (;;) {
      const { json: jobs } = await this.get(`/engagements/${engagement}/jobs`)
      const job = jobs.find((one: { id: number }) => one.id === started.id)
      if (job && job.state !== 'running') return { state: job.state, auditId: job.params.auditId, message: job.message }
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
  }
}

/** A server of its own with a database of its own, one engagement, and a user of each role named after it. */
export interface World {
  readonly server: RunningServer
  readonly folder: string
  readonly engagement: number
  readonly users: Readonly<Record<Role, number>>
  client(name?: string): Promise<Client>
  /** The database as its owner, who may change the schema and the audit log. */
  asOwner<T>(work: (database: DataSource) => Promise<T>): Promise<T>
  restart(): Promise<World>
  end(): Promise<void>
}

const worldFolder = template('server', async (folder) => {
  const { server } = await makeWorld(folder)
  await server.stop()
})

/** Where none is given, in a folder like that of every other world: with the same key, users and engagement. */
export async function makeWorld(given?: string): Promise<World> {
  const folder = given ?? (await worldFolder())
  const server = await startServer({
    dataFolder: folder,
    port: 0,
    webFolder: null,
    signInLimit: 50,
    logLevel: 'fatal',
    settings: settingsOf({ JURYBOX_ALERT_TARGETS: '127.0.0.1', JURYBOX_CHECK_RESPONSES: '1' }),
  })
  const { services } = server
  let engagement = 1
  const users = { lead: 1, auditor: 2, engineer: 3, reader: 4 }
  if (services.setupCode !== null) {
    for (const role of ROLES)
      users[role] = (
        await services.createUser({ name: role, fullName: `The ${role}`, password: PASSWORD, mayOpen: role === 'lead' })
      ).id
    const lead = await services.createUser({
      name: 'founder',
      fullName: 'F',
      password: PASSWORD,
      isAdmin: true,
      mayOpen: true,
    })
    engagement = (await services.createEngagement({ title: 'E', client: 'C' }, lead)).id
    for (const role of ROLES)
      await services.database.getRepository(Memberships).insert({ engagementId: engagement, userId: users[role], role })
    services.setupCode = null
  }
  return {
    server,
    folder,
    engagement,
    users,
    client: async (name) => {
      const client = new Client(server.address)
      if (name !== undefined && (await client.signIn(name)) !== 200) throw new Error(`${name} could not sign in`)
      return client
    },
    asOwner: async (work) => {
      const owner = await openDatabase(server.mariadb.access)
      return work(owner).finally(() => owner.destroy())
    },
    restart: async () => {
      await server.stop()
      return makeWorld(folder)
    },
    end: async () => {
      await server.stop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}

export function cookieAttributes(headers: Headers): Record<string, unknown> {
  return parseSetCookie(headers.getSetCookie()[0] ?? '') as unknown as Record<string, unknown>
}

export const CONFIG = `hostname core
ip http server
snmp-server community sparrowhawk RO
frobnicate
line vty 0 4
 transport input telnet
end
`

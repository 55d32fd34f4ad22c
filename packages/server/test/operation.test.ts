import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { createServer, type AddressInfo } from 'node:net'
import { hostname, tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { PrivateMariaDb } from '../src/db/mariadb.ts'
import { OUTAGE_WORDS, RESERVE_MB, outageOf } from '../src/operation/availability.ts'
import { FolderInUse, claimFolder } from '../src/operation/folder.ts'
import { LONG_BLOCK_MS } from '../src/operation/metrics.ts'
import { settingsOf } from '../src/operation/settings.ts'
import { startServer } from '../src/server.ts'
import { CONFIG, Client, makeWorld, type World } from './world.ts'

const ROOT = fileURLToPath(new URL('../../../', import.meta.url))
const folders: string[] = []
const newFolder = (): string => {
  const folder = mkdtempSync(join(tmpdir(), 'jurybox-operation-'))
  folders.push(folder)
  return folder
}
const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))
const failureOf = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'no failure',
    (error: unknown) => (error instanceof Error ? error.message : String(error)),
  )

describe('operation', function () {
  this.timeout(180_000)
  after(() => folders.forEach((folder) => rmSync(folder, { recursive: true, force: true })))

  describe('a data folder', () => {
    it('has one owner: the second is told who that is', () => {
      const folder = newFolder()
      const release = claimFolder(folder, 'start')
      expect(() => claimFolder(folder, 'rotate-key')).to.throw(
        FolderInUse,
        new RegExp(`process ${process.pid} on .* runs “start”`),
      )
      release()
      claimFolder(folder, 'demo')()
      expect(existsSync(join(folder, 'lock'))).to.equal(false)
    })

    it('is free again when its owner was killed, also where its number went to another process', () => {
      const folder = newFolder()
      const { pid } = spawnSync('true')
      const owner = { pid, host: hostname(), command: 'start', since: 'then', began: '1' }
      for (const dead of [owner, { ...owner, pid: process.pid }]) {
        writeFileSync(join(folder, 'lock'), JSON.stringify(dead))
        claimFolder(folder, 'start')()
      }
      writeFileSync(join(folder, 'lock'), '{"pid":')
      claimFolder(folder, 'start')()
    })

    it('of another machine is never taken: nobody here knows whether it lives', () => {
      const folder = newFolder()
      writeFileSync(
        join(folder, 'lock'),
        JSON.stringify({ pid: 1, host: 'elsewhere', command: 'start', since: 'then', began: null }),
      )
      expect(() => claimFolder(folder, 'start')).to.throw(/on elsewhere .* delete .*lock/)
    })

    it('with a server on it refuses a second one in words, and the first goes on', async () => {
      const world = await makeWorld()
      try {
        expect(await failureOf(makeWorld(world.folder))).to.match(/is in use: process \d+ on/)
        const run = spawnSync(
          process.execPath,
          ['--import', 'tsx', join(ROOT, 'packages/server/src/main.ts'), 'rotate-key'],
          { env: { ...process.env, JURYBOX_DATA: world.folder }, encoding: 'utf8' },
        )
        expect([run.status, run.stderr]).to.satisfy(
          ([status, said]: [number, string]) =>
            status === 1 && /^jurybox: The data folder .* is in use/.test(said) && !said.includes('    at '),
        )
        expect((await (await world.client('lead')).get('/session')).status).to.equal(200)
      } finally {
        await world.end()
      }
    })

    it('whose key is lost stops the start, and the key opens it again', async () => {
      const world = await makeWorld()
      await world.server.stop()
      renameSync(join(world.folder, 'key'), join(world.folder, 'kept'))
      expect(await failureOf(makeWorld(world.folder))).to.match(/key file .* is missing/)
      expect(existsSync(join(world.folder, 'key')), 'no new key was made').to.equal(false)
      renameSync(join(world.folder, 'kept'), join(world.folder, 'key'))
      await (await makeWorld(world.folder)).end()
    })

    it('of a newer version is refused in words, and not touched', async () => {
      const world = await makeWorld()
      await world.asOwner((owner) =>
        owner.query("INSERT INTO migrations (timestamp, name) VALUES (9999999999999, 'Tomorrow9999999999999')"),
      )
      expect(await failureOf(world.restart())).to.match(/written by a newer version .*Tomorrow9999999999999/)
      const mariadb = await PrivateMariaDb.start(world.folder)
      await mariadb.stop()
      rmSync(world.folder, { recursive: true, force: true })
    })
  })

  describe('the database', () => {
    it('takes another port where a program was faster than it', async () => {
      const folder = newFolder()
      const other = createServer().listen(0, '127.0.0.1')
      await once(other, 'listening')
      const taken = (other.address() as AddressInfo).port
      const ports: number[] = []
      const next = async (): Promise<number> => {
        ports.push(ports.length === 0 ? taken : 20_000 + Math.floor(Math.random() * 10_000))
        return ports.at(-1)!
      }
      const mariadb = await PrivateMariaDb.start(folder, next)
      expect(ports).to.have.length.of.at.least(2)
      expect(mariadb.access.port).to.equal(ports.at(-1))
      expect(PrivateMariaDb.accessOf(folder).port).to.equal(ports.at(-1))
      await mariadb.stop()
      expect(await failureOf(PrivateMariaDb.start(folder, async () => taken))).to.match(/no free port in 5 tries/)
      other.close()
    })
  })

  describe('settings', () => {
    it('are read from the environment, and a level of the log from the command line', () => {
      expect(
        settingsOf({ JURYBOX_PORT: '0', JURYBOX_ALERT_TARGETS: ' 192.0.2.0/24, desk.example ' }, [
          '--log-level',
          'debug',
        ]),
      ).to.deep.include({ port: 0, logLevel: 'debug', alertTargets: ['192.0.2.0/24', 'desk.example'] })
    })
    for (const [environment, words] of [
      [{ JURYBOX_PORT: 'http' }, /^JURYBOX_PORT/],
      [{ JURYBOX_PORT: '65536' }, /^JURYBOX_PORT/],
      [{ JURYBOX_PUBLIC_URL: 'audit.example' }, /^JURYBOX_PUBLIC_URL: expected a URL such as/],
      [{ JURYBOX_LOG_LEVEL: 'loud' }, /^JURYBOX_LOG_LEVEL/],
    ] as const) {
      it(`that are none are refused by name: ${JSON.stringify(environment)}`, () =>
        expect(() => settingsOf({ ...environment })).to.throw(words))
    }
  })

  describe('a server', () => {
    let world: World
    before(async () => (world = await makeWorld()))
    after(async () => world.end())
    const at = (path: string, headers: Record<string, string> = {}): Promise<Response> =>
      fetch(`${world.server.address}${path}`, { headers })

    it('says that it lives, that it is ready, and its figures, to nobody behind a proxy', async () => {
      expect(await (await at('/healthz')).json()).to.deep.equal({ alive: true })
      // A busy machine is ready a little later: whoever asks, asks again.
      let ready: unknown
      for (let tries = 0; tries < 30 && (ready as { ready?: boolean } | undefined)?.ready !== true; tries++)
        ready = await (await at('/readyz')).json()
      expect(ready).to.deep.equal({
        ready: true,
        checks: { database: { ok: true }, workers: { ok: true }, disk: { ok: true } },
      })
      const figures = await (await at('/metrics')).text()
      for (const name of [
        'jurybox_http_request_seconds_bucket',
        'jurybox_long_blocks_total',
        'jurybox_worker_threads',
        'jurybox_free_disk_megabytes',
        'jurybox_jobs_running',
        'nodejs_eventloop_lag_p99_seconds',
      ])
        expect(figures).to.contain(name)
      expect((await at('/metrics', { 'x-forwarded-for': '203.0.113.9' })).status).to.equal(404)
    })

    it('counts blocks of its main thread', async () => {
      const { metrics } = world.server.services
      const blocks = async (): Promise<number> => (await metrics.longBlocks.get()).values[0]?.value ?? 0
      const before = await blocks()
      await wait(1200)
      const until = Date.now() + LONG_BLOCK_MS * 2
      while (Date.now() < until);
      await wait(2200)
      expect(await blocks()).to.be.above(before)
      expect(metrics.longestBlock).to.be.above(LONG_BLOCK_MS)
    })

    for (const path of ['/%', '/assets/missing.js', '/api/%', '/api/nothing']) {
      it(`answers ${path} with 404`, async () => expect((await at(path)).status).to.equal(404))
    }

    it('refuses work while the disk is full, in words, lets people make room, and works on by itself', async () => {
      const { space } = world.server.services
      const own = space.mb.bind(space)
      space.mb = async () => RESERVE_MB - 1
      const client = new Client(world.server.address)
      const refused = await client.post('/sign-in', { name: 'lead', password: 'x' })
      expect([refused.status, refused.json.error]).to.deep.equal([503, OUTAGE_WORDS['disk-full']])
      expect(await (await at('/readyz')).json()).to.deep.include({ ready: false })
      space.mb = own
      expect((await client.post('/sign-in', { name: 'lead', password: 'x' })).status).to.equal(401)
    })

    it('outlives the death of its database: 503 with the reason, not ready, and it connects again by itself', async () => {
      const lead = await world.client('lead')
      const { json: snapshot } = await lead.freeze(world.engagement, { 'a.cfg': CONFIG })
      const { job, signal } = await world.server.services.jobs.open({
        engagementId: world.engagement,
        kind: 'audit',
        total: 1,
        params: {},
        createdBy: world.users.lead,
        message: 'Judging',
      })
      const pid = Number(readFileSync(join(world.folder, 'mariadb/mariadb.pid'), 'utf8'))
      process.kill(pid, 'SIGKILL')
      await wait(50)
      const refused = await lead.get(`/engagements/${world.engagement}/snapshots`)
      expect([refused.status, refused.json.error]).to.deep.equal([503, OUTAGE_WORDS['database-away']])
      expect((await at('/healthz')).status).to.equal(200)
      const readiness = await at('/readyz')
      expect([readiness.status, (await readiness.json()).checks.database.reason]).to.deep.equal([
        503,
        OUTAGE_WORDS['database-away'],
      ])
      const error = await world.server.services.database.query('SELECT 1').then(
        () => null,
        (reason: unknown) => reason,
      )
      expect(outageOf(error)).to.equal('database-away')
      await world.server.services.jobs.fail(job, signal, error, { what: 'The audit', kept: 'No results were saved.' })
      for (let left = 300; left > 0 && (await at('/readyz')).status !== 200; left--) await wait(100)
      expect((await lead.get(`/engagements/${world.engagement}/snapshots/${snapshot.id}`)).status).to.equal(200)
      await wait(1500)
      const { json: jobs } = await lead.get(`/engagements/${world.engagement}/jobs`)
      expect(jobs.find(({ id }: { id: number }) => id === job.id)).to.deep.include({
        state: 'interrupted',
        message: `${OUTAGE_WORDS['database-away']} No results were saved.`,
      })
      expect(await (await at('/metrics')).text()).to.match(/jurybox_database_restarts_total 1/)
    })
  })

  describe('behind a proxy', () => {
    it('answers to its public name, sets a Secure cookie, and tells browsers to stay with TLS', async () => {
      const settings = settingsOf({ JURYBOX_PUBLIC_URL: 'https://audit.example' })
      const folder = newFolder()
      const server = await startServer({ dataFolder: folder, port: 0, webFolder: null, logLevel: 'fatal', settings })
      try {
        await server.services.createUser({ name: 'lead', fullName: 'L', password: 'a long enough password' })
        const { hostname: host, port } = new URL(server.address)
        const { request } = await import('node:http')
        const answer = await new Promise<{ status: number; headers: Record<string, unknown> }>((resolve, reject) => {
          const body = JSON.stringify({ name: 'lead', password: 'a long enough password' })
          const sent = request(
            {
              host,
              port,
              method: 'POST',
              path: '/api/sign-in',
              headers: {
                host: 'audit.example',
                'content-type': 'application/json',
                'content-length': body.length,
                'x-forwarded-for': '203.0.113.9',
                'x-forwarded-proto': 'https',
              },
            },
            (response) => {
              response.resume()
              resolve({ status: response.statusCode ?? 0, headers: response.headers })
            },
          )
          sent.on('error', reject)
          sent.end(body)
        })
        expect(answer.status).to.equal(200)
        expect(String(answer.headers['set-cookie'])).to.contain('Secure')
        expect(answer.headers['strict-transport-security']).to.match(/^max-age=/)
        const [{ address }] = await server.services.database.query('SELECT address FROM sessions')
        expect(address, 'the client, not the proxy').to.equal('203.0.113.9')
      } finally {
        await server.stop()
      }
    })
  })

  describe('the program', () => {
    it('ends in order at SIGHUP, and a folder that cannot be written to is said in a sentence', async () => {
      const folder = newFolder()
      const child: ChildProcess = spawn(
        process.execPath,
        ['--import', 'tsx', join(ROOT, 'packages/server/src/main.ts'), 'start'],
        { env: { ...process.env, JURYBOX_DATA: folder, JURYBOX_PORT: '0' }, stdio: ['ignore', 'pipe', 'ignore'] },
      )
      let said = ''
      child.stdout?.on('data', (part: Buffer) => (said += part.toString()))
      while (!said.includes('is ready')) await wait(100)
      const ended = new Promise<number | null>((resolve) => child.once('exit', resolve))
      child.kill('SIGHUP')
      expect(await ended).to.equal(0)
      expect(existsSync(join(folder, 'lock'))).to.equal(false)
      expect(existsSync(join(folder, 'mariadb/mariadb.pid'))).to.equal(false)
      const file = join(newFolder(), 'file')
      writeFileSync(file, '')
      mkdirSync(newFolder(), { recursive: true })
      const run = spawnSync(process.execPath, ['--import', 'tsx', join(ROOT, 'packages/server/src/main.ts'), 'start'], {
        env: { ...process.env, JURYBOX_DATA: join(file, 'below') },
        encoding: 'utf8',
      })
      expect(run.status).to.equal(1)
      expect(run.stderr).to.match(/^jurybox: .*\n$/)
    })
  })
})

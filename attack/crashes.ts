/**
 * Kills a server, or its database, at random moments of each kind of work, starts it again, and looks whether anything
 * is half-written, lost or without a name. npm run attack:crashes -- [--runs N] [--seed N]
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { parseArgs } from 'node:util'
import { Client } from '../packages/server/test/world.ts'
import { oneOf, randomFrom } from './hostile.ts'
import { AttackReport } from './report.ts'

const { values } = parseArgs({
  options: { runs: { type: 'string', default: '50' }, seed: { type: 'string', default: '1' } },
})
const ROOT = fileURLToPath(new URL('..', import.meta.url))
const PASSWORD = 'a ferry in the morning fog'
const random = randomFrom(Number(values.seed))
const folder = mkdtempSync(join(tmpdir(), 'jurybox-crashes-'))
const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))

interface Running {
  readonly process: ChildProcess
  readonly address: string
  readonly code: string | null
  readonly ended: Promise<unknown>
  said(): string
}

async function start(): Promise<Running> {
  const child = spawn(process.execPath, ['-C', 'compiled', join(ROOT, 'packages/server/build/main.js'), 'start'], {
    env: { ...process.env, JURYBOX_DATA: folder, JURYBOX_PORT: '0' },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let said = ''
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (part: Buffer) => (said += part.toString()))
  const ended = new Promise((resolve) => child.once('exit', resolve))
  for (let left = 600; !said.includes('Ctrl-C stops it'); left--) {
    if (left === 0 || child.exitCode !== null) throw new Error(`the server did not start: ${said.slice(-600)}`)
    await wait(100)
  }
  return {
    process: child,
    address: /http:\/\/127\.0\.0\.1:\d+/.exec(said)?.[0] ?? '',
    code: /One-time code: {2}(\S+)/.exec(said)?.[1] ?? null,
    ended,
    said: () => said,
  }
}

function configOf(run: number, device: number): string {
  const head = `hostname r${run}-d${device}\nip http server\nsnmp-server community sanderling${run} RO\n`
  const addressOf = (i: number): string => `10.${device}.${i % 250}.1 255.255.255.0`
  const ports = Array.from({ length: 300 }, (_, i) => `interface Vlan${i + 1}\n ip address ${addressOf(i)}\n`)
  return `${head}${ports.join('')}end\n`
}

type Work = (client: Client, run: number, known: { snapshot: number }) => Promise<unknown>

const WORK: Readonly<Record<string, Work>> = {
  import: async (client, run) =>
    client.freeze(1, Object.fromEntries(Array.from({ length: 8 }, (_, i) => [`d${i}.cfg`, configOf(run, i)])), {
      title: `Run ${run}`,
    }),
  audit: async (client, _, { snapshot }) => client.audit(1, snapshot),
  'key change': async (client) => client.post('/installation/key'),
  'many small writes': async (client, run) => {
    for (let i = 0; i < 40; i++)
      await client.post('/engagements/1/sites', { name: `s${run}-${i}`, title: `Site ${i}`, around: null })
  },
}

/** Why what is stored is not whole; null where it is. */
async function faultIn(client: Client): Promise<string | null> {
  const jobs = (await client.get('/engagements/1/jobs?limit=100')).json as { state: string; kind: string }[]
  const running = jobs.find(({ state }) => state === 'running')
  if (running) return `a job of kind ${running.kind} still counts as running`
  const log = (await client.get('/activity')).json as { firstBreak: number | null }
  if (log.firstBreak !== null) return `the audit log is broken at ${log.firstBreak}`
  const { snapshots } = (await client.get('/engagements/1/chronicle')).json as { snapshots: { id: number }[] }
  for (const { id } of snapshots) {
    const snapshot = await client.get(`/engagements/1/snapshots/${id}`)
    if (snapshot.status !== 200) return `snapshot ${id} answers ${snapshot.status}`
    const records = (snapshot.json as { records: { id: number; carried: boolean }[] }).records
    if (records.length === 0) return `snapshot ${id} is empty`
    for (const record of records.filter(({ carried }) => !carried)) {
      const read = await client.get(`/engagements/1/records/${record.id}`)
      if (read.status !== 200) return `record ${record.id} answers ${read.status} ${read.text.slice(0, 100)}`
    }
  }
  const { audits } = (await client.get('/engagements/1/chronicle')).json as {
    audits: { id: number; finishedAt: string | null; counts: Record<string, number> | null }[]
  }
  for (const { id, finishedAt, counts } of audits) {
    const verdicts = await client.get(`/engagements/1/audits/${id}/verdicts?limit=1`)
    const total = (verdicts.json as { total?: number }).total ?? 0
    const stated = ['pass', 'fail', 'unknown', 'error', 'notapplicable'].reduce(
      (sum, outcome) => sum + (counts?.[outcome] ?? 0),
      0,
    )
    if (finishedAt === null || verdicts.status !== 200 || total < stated)
      return `audit ${id} holds ${total} of ${stated} verdicts`
  }
  return null
}

const report = new AttackReport()
let running = await start()
try {
  const first = new Client(running.address)
  const opened = await first.post('/first-user', {
    code: running.code,
    user: { name: 'lead', fullName: 'The lead', password: PASSWORD },
    engagement: { title: 'E', client: '' },
  })
  if (opened.status !== 200) throw new Error(`the first user was not created: ${opened.text}`)
  first.csrf = opened.json.csrf
  const known = {
    snapshot: (await first.freeze(1, { 'a.cfg': configOf(0, 0), 'b.cfg': configOf(0, 1) })).json.id as number,
  }
  for (const [name, work] of Object.entries(WORK)) {
    for (const target of ['server', 'database'] as const) {
      await report.part(`kill -9 of the ${target} during ${name}`, async (tried) => {
        for (let i = 0; i < Math.ceil(Number(values.runs) / 8); i++) {
          const run = Math.floor(random() * 1e6)
          const after = Math.floor(random() * oneOf(random, [50, 200, 800, 1500]))
          const what = `run ${run}, after ${after} ms`
          try {
            const client = new Client(running.address)
            if ((await client.signIn('lead', PASSWORD)) !== 200) throw new Error('nobody can sign in')
            const done = work(client, run, known).catch(() => null)
            await wait(after)
            if (target === 'server') {
              running.process.kill('SIGKILL')
              await running.ended
              running = await start()
            } else {
              process.kill(Number(readFileSync(join(folder, 'mariadb/mariadb.pid'), 'utf8')), 'SIGKILL')
              for (let left = 300; left > 0 && (await fetch(`${running.address}/readyz`)).status !== 200; left--)
                await wait(100)
              await Promise.race([done, wait(5_000)])
              // Ends that could not be written are written once it answers again.
              await wait(2_500)
            }
            if (running.process.exitCode !== null) throw new Error(`the server ended: ${running.said().slice(-300)}`)
            const again = new Client(running.address)
            if ((await again.signIn('lead', PASSWORD)) !== 200) throw new Error('nobody can sign in afterwards')
            for (
              let left = 100;
              left > 0 &&
              ((await again.get('/engagements/1/jobs')).json as { state: string }[]).some(
                ({ state }) => state === 'running',
              );
              left--
            )
              await wait(100)
            tried(what, await faultIn(again))
          } catch (error) {
            tried(what, String(error))
            if (running.process.exitCode !== null || running.process.signalCode !== null) running = await start()
          }
        }
      })
    }
  }
} finally {
  running.process.kill('SIGTERM')
  await running.ended
  rmSync(folder, { recursive: true, force: true })
}
console.log(`\n${report.tried} tried, ${report.tried - report.broken} held, ${report.broken} did not hold`)
process.exitCode = report.broken === 0 ? 0 : 1

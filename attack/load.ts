/**
 * What the compiled server does under load: 50 readers for a minute while audits run, memory after 30 audits, and open
 * files over ten generations of worker threads. npm run attack:load -- [--seconds N] [--readers N]
 */
import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { parseArgs } from 'node:util'
import { Client } from '../packages/server/test/world.ts'

const { values } = parseArgs({
  options: { seconds: { type: 'string', default: '60' }, readers: { type: 'string', default: '50' } },
})
const ROOT = fileURLToPath(new URL('..', import.meta.url))
const PASSWORD = 'a ferry in the morning fog'
const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))
const folder = mkdtempSync(join(tmpdir(), 'jurybox-load-'))
const child = spawn(process.execPath, ['-C', 'compiled', join(ROOT, 'packages/server/build/main.js'), 'start'], {
  env: { ...process.env, JURYBOX_DATA: folder, JURYBOX_PORT: '0' },
  stdio: ['ignore', 'pipe', 'inherit'],
})
let said = ''
child.stdout.on('data', (part: Buffer) => (said += part.toString()))
while (!said.includes('Ctrl-C stops it')) await wait(100)
const address = /http:\/\/127\.0\.0\.1:\d+/.exec(said)?.[0] ?? ''
const memory = (): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))?.[1]) / 1024
const openFiles = (): number => readdirSync(`/proc/${child.pid}/fd`).length
const share = (times: readonly number[], part: number): number =>
  Math.round(times.toSorted((a, b) => a - b)[Math.floor(times.length * part)] ?? 0)

try {
  const client = new Client(address)
  const code = /One-time code: {2}(\S+)/.exec(said)?.[1]
  client.csrf = (
    await client.post('/first-user', {
      code,
      user: { name: 'lead', fullName: 'L', password: PASSWORD },
      engagement: { title: 'E', client: '' },
    })
  ).json.csrf
  const devices = join(ROOT, 'scenario/2026-11-16/devices')
  const files: Record<string, string> = {}
  for (let copy = 0; copy < 6; copy++) {
    for (const name of readdirSync(devices)) {
      const config = join(devices, name, 'config.txt')
      try {
        files[`devices/${name}-${copy}/config.txt`] = `${readFileSync(config, 'utf8')}\n! ${copy}\n`
      } catch {
        // A gateway has no listing of that kind.
        continue
      }
    }
  }
  const { json: snapshot } = await client.freeze(1, files)
  console.log(
    `${Object.keys(files).length} devices; ${Math.round(memory())} MB, ${openFiles()} open files after their import`,
  )
  const { auditId } = await client.audit(1, snapshot.id)
  const deviceId = snapshot.records[0].deviceId as number
  const paths = [
    '/session',
    '/engagements/1',
    '/engagements/1/chronicle',
    `/engagements/1/snapshots/${snapshot.id}`,
    `/engagements/1/devices/${deviceId}`,
    `/engagements/1/devices/${deviceId}/model`,
    `/engagements/1/audits/${auditId}/verdicts?limit=50`,
    `/engagements/1/records/${snapshot.records[0].id}`,
  ]

  const readFor = async (seconds: number): Promise<{ times: number[]; errors: number }> => {
    const times: number[] = []
    let errors = 0
    const until = Date.now() + seconds * 1000
    await Promise.all(
      Array.from({ length: Number(values.readers) }, async (_, i) => {
        for (let n = i; Date.now() < until; n++) {
          const began = performance.now()
          const response = await fetch(`${address}/api${paths[n % paths.length]}`, {
            headers: { cookie: client.cookie },
          })
          await response.arrayBuffer()
          times.push(performance.now() - began)
          if (response.status !== 200 && response.status !== 202) errors++
          // A person reads what came.
          await wait(200)
        }
      }),
    )
    return { times, errors }
  }
  const show = (what: string, { times, errors }: { times: number[]; errors: number }): void =>
    console.log(
      `${what.padEnd(34)} ${times.length} answers, p50 ${share(times, 0.5)} ms, p99 ` +
        `${share(times, 0.99)} ms, ${errors} errors`,
    )
  show(`${values.readers} readers`, await readFor(Number(values.seconds) / 2))
  let auditing = true
  let audits = 0
  /** MB after each audit. */
  const held: number[] = []
  const judging = (async () => {
    const other = new Client(address)
    await other.signIn('lead', PASSWORD)
    while (auditing || audits < 30) {
      // Other values each time: everything is judged anew.
      const fitted = await other.put('/engagements/1/benchmarks/network-hardening', {
        profile: 'level-2',
        values: { idle_limit: 300 + audits },
      })
      if (fitted.status !== 204) throw new Error(fitted.text)
      await other.audit(1, snapshot.id)
      audits++
      held.push(memory())
    }
  })()
  show(`${values.readers} readers while audits run`, await readFor(Number(values.seconds)))
  auditing = false
  await judging
  // Idle threads end after half a minute.
  await wait(40_000)
  console.log(
    `memory after 1, 5, 10, 20 and ${audits} audits: ` +
      `${[0, 4, 9, 19, audits - 1].map((i) => Math.round(held[i] ?? 0)).join(', ')} MB; idle afterwards ` +
      `${Math.round(memory())} MB, ${openFiles()} open files`,
  )
  const figures = await (await fetch(`${address}/metrics`)).text()
  console.log(`long blocks of the main thread: ${/jurybox_long_blocks_total (\d+)/.exec(figures)?.[1]}`)
} finally {
  child.kill('SIGTERM')
  await new Promise((resolve) => child.once('exit', resolve))
  rmSync(folder, { recursive: true, force: true })
}

// Generations of worker threads, one after the other, in a process of its own.
const generations = spawn(
  process.execPath,
  [
    '-C',
    'compiled',
    '--input-type=module',
    '-e',
    `
  const { openPool } = await import(${JSON.stringify(new URL('../packages/server/build/jobs/pool.js', import.meta.url).href)})
  const { readdirSync } = await import('node:fs')
  const counts = []
  for (let i = 0; i < 10; i++) {
    const pool = openPool(new URL(${JSON.stringify(new URL('../packages/server/build/outside/worker.js', import.meta.url).href)}), { threads: 2, idleSeconds: 1, memoryMb: 512 })
    await Promise.all([1, 2].map(() => pool.run(Buffer.from('{}'), { name: 'parseJson' })))
    await pool.close()
    await new Promise((resolve) => setTimeout(resolve, 100))
    counts.push(readdirSync('/proc/self/fd').length)
  }
  console.log('open files over ten generations of workers: ' + counts.join(' '))
`,
  ],
  { stdio: 'inherit' },
)
await new Promise((resolve) => generations.once('exit', resolve))

/**
 * A collection from many devices, and again when nothing has changed: how long, how the server answers meanwhile, what
 * is kept.
 *   npm run bench:collect [devices]
 */
import { spawn } from 'node:child_process'
import { cpSync, mkdtempSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { fileURLToPath } from 'node:url'
import { DeviceConnections } from '../packages/server/src/collect/entity.ts'
import { startServer } from '../packages/server/src/server.ts'

const count = Number(process.argv[2] ?? 300)
const root = fileURLToPath(new URL('..', import.meta.url))
const folder = mkdtempSync(join(tmpdir(), 'jurybox-bench-'))
const scenario = join(root, 'scenario/2026-11-16/devices')
const models = ['qs-dist1', 'ops-core1', 'ops-edge1', 'qn-acc1']
for (let i = 0; i < count; i++) {
  const model = models[i % models.length] ?? ''
  const device = join(folder, 'estate/devices', `d${i}`)
  mkdirSync(device, { recursive: true })
  cpSync(join(scenario, model), device, { recursive: true })
  writeFileSync(
    join(device, 'config.txt'),
    readFileSync(join(scenario, model, 'config.txt'), 'utf8').replace(/^hostname .*$/m, `hostname d${i}`),
  )
}
// The devices run in a process of their own: here is only what asks them.
const network = spawn(
  process.execPath,
  ['--import', 'tsx', join(root, 'packages/cli/src/main.ts'), 'simulate', join(folder, 'estate')],
  { stdio: ['ignore', 'pipe', 'inherit'] },
)
const reaches: { device: string; dialect: string; address: string; port: number }[] = []
for await (const line of createInterface({ input: network.stdout })) {
  const [device = '', dialect = '', address = '', port = ''] = line.split(',')
  if (reaches.push({ device, dialect, address, port: Number(port) }) === count) break
}
const { services, address, stop } = await startServer({
  dataFolder: join(folder, 'data'),
  port: 0,
  webFolder: null,
  logLevel: 'error',
})
try {
  const lead = await services.createUser({ name: 'lead', fullName: 'Lead', password: 'a long enough password' })
  const { id } = await services.createEngagement({ title: 'Bench', client: '' }, lead)
  await services.collecting.credentials.add(id, lead.id, {
    title: 'A',
    user: 'jurybox',
    password: 'heron-at-low-tide',
    privileged: 'heron-on-the-weir',
  })
  await services.database
    .getRepository(DeviceConnections)
    .insert(reaches.map((reach) => ({ ...reach, engagementId: id, old: false, hostKey: null, credentialId: null })))
  const stored = async (): Promise<number> =>
    Number(
      (
        await services.database.query(
          `SELECT SUM(data_length + index_length) AS bytes
            FROM information_schema.tables
            WHERE table_schema = DATABASE()`,
        )
      )[0].bytes,
    )
  const collect = async (title: string): Promise<void> => {
    await services.database.query('ANALYZE TABLE records, snapshot_records, contents')
    const before = await stored()
    const started = performance.now()
    const job = await services.collecting.start(id, lead.id, null, title)
    const waits: number[] = []
    for (;;) {
      const asked = performance.now()
      await (await fetch(`${address}/api/openapi.json`)).text()
      waits.push(performance.now() - asked)
      const now = await services.jobs.find(job.id, id)
      if (now && now.state !== 'running') {
        const seconds = (performance.now() - started) / 1000
        await services.database.query('ANALYZE TABLE records, snapshot_records, contents')
        waits.sort((a, b) => a - b)
        console.log(
          `${title.padEnd(10)} ${now.state}: ${now.message}; ${seconds.toFixed(1)} s, ${Math.round((count / seconds) * 60)} devices a minute; ${waits.length} pages meanwhile, the median after ${Math.round(waits[waits.length >> 1] ?? 0)} ms, the slowest after ${Math.round(waits.at(-1) ?? 0)} ms; ${Math.round(((await stored()) - before) / 1024)} kB more in the tables`,
        )
        return
      }
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }
  await collect('first')
  await collect('unchanged')
  await collect('unchanged')
  console.log(`peak memory of the process: ${Math.round(process.resourceUsage().maxRSS / 1024)} MB`)
} finally {
  network.kill('SIGTERM')
  await stop()
  rmSync(folder, { recursive: true, force: true })
}

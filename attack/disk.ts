/**
 * Fills the disk below a server, on a small file system in memory, and makes room again; then sets the clock of the
 * process to and fro. Needs root, for the file system. npm run attack:disk
 */
import { spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startServer } from '../packages/server/src/server.ts'
import { CONFIG, makeWorld } from '../packages/server/test/world.ts'
import { AttackReport } from './report.ts'

const SIZE_MB = 480
const wait = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))
const report = new AttackReport()
const mount = mkdtempSync(join(tmpdir(), 'jurybox-disk-'))
if (spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${SIZE_MB}m`, 'tmpfs', mount]).status !== 0) {
  console.log('left out: a small file system cannot be mounted here (root is needed)')
  process.exit(0)
}
const data = join(mount, 'data')
mkdirSync(data)
const free = (): number => Math.floor((statfsSync(mount).bavail * statfsSync(mount).bsize) / 1_048_576)
const filler = join(mount, 'filler')
const world = await makeWorld(data)
try {
  await report.part('a disk that fills up, and has room again', async (tried) => {
    const lead = await world.client('lead')
    const base = `/engagements/${world.engagement}`
    const before = await lead.freeze(world.engagement, { 'a.cfg': CONFIG })
    const audit = await lead.audit(world.engagement, before.json.id)
    for (const [what, left] of [
      ['below the reserve', 40],
      ['to the last byte', 0],
    ] as const) {
      for (let round = 0; free() > left && round < 40; round++) {
        try {
          writeFileSync(`${filler}-${round}`, Buffer.alloc(Math.max(1, Math.min(32, free() - left)) * 1_048_576, 1))
        } catch (error) {
          if (!(error instanceof Error && 'code' in error && error.code === 'ENOSPC')) throw error
          break
        }
      }
      await wait(2_500)
      const refused = await lead.freeze(world.engagement, { 'b.cfg': CONFIG.replace('core', 'b') })
      tried(
        `an import, the disk full ${what}`,
        refused.status === 503 || refused.status === 400
          ? null
          : `answered ${refused.status} ${refused.text.slice(0, 120)}`,
      )
      const dropped = await lead.drop(world.engagement, { 'b.cfg': CONFIG.replace('core', 'b') })
      tried(
        `its reason, the disk full ${what}`,
        dropped.status === 503 && /disk of the server is full/.test(dropped.text)
          ? null
          : `answered ${dropped.status} ${dropped.text.slice(0, 120)}`,
      )
      const read = await lead.get(`${base}/audits/${audit.auditId}/verdicts`)
      tried(
        `reading, the disk full ${what}`,
        read.status === 200 ? null : `answered ${read.status} ${read.text.slice(0, 120)}`,
      )
      const ready = await fetch(`${world.server.address}/readyz`)
      tried(`readiness, the disk full ${what}`, ready.status === 503 ? null : `answered ${ready.status}`)
      // The database itself meets the end of the disk.
      const forced = await world.server.services.activity
        .add({
          userId: null,
          engagementId: null,
          action: 'while the disk is full',
          detail: { fill: 'x'.repeat(60_000) },
        })
        .then(
          () => null,
          (error: unknown) => error,
        )
      tried(
        `a write of the server itself, the disk full ${what}`,
        forced === null || forced instanceof Error ? null : String(forced),
      )
    }
    for (let round = 0; round < 40; round++) rmSync(`${filler}-${round}`, { force: true })
    for (let left = 300; left > 0 && (await fetch(`${world.server.address}/readyz`)).status !== 200; left--)
      await wait(200)
    const again = await lead.freeze(world.engagement, { 'c.cfg': CONFIG.replace('core', 'c') })
    tried(
      'an import when there is room again',
      again.status === 200 ? null : `answered ${again.status} ${again.text.slice(0, 200)}`,
    )
    const judged = await lead.audit(world.engagement, again.json.id)
    tried('an audit when there is room again', judged.state === 'done' ? null : `${judged.state}: ${judged.message}`)
    tried(
      'the audit log is whole',
      (await world.server.services.activity.firstBreak()) === null ? null : 'it is broken',
    )
  })
  await report.part('a clock that jumps', async (tried) => {
    const now = Date.now
    const day = 86_400_000
    const client = await world.client('lead')
    for (const [what, by, signedIn] of [
      ['an hour back', -3_600_000, true],
      ['a day forward', day + 1000, false],
      ['ten years back', -3650 * day, true],
    ] as const) {
      Date.now = () => now() + by
      try {
        const answer = await client.get('/session')
        tried(
          `a session when the clock goes ${what}`,
          (answer.status === 200) === signedIn ? null : `answered ${answer.status}`,
        )
        const other = await world.client()
        tried(
          `a sign-in when the clock goes ${what}`,
          (await other.signIn('lead')) === 200 ? null : 'nobody can sign in',
        )
      } finally {
        Date.now = now
      }
      if ((await client.get('/session')).status !== 200) await client.signIn('lead')
    }
    await world.server.services.activity.add({
      userId: null,
      engagementId: null,
      action: 'after the clock jumped',
      detail: {},
    })
    tried(
      'the audit log is whole',
      (await world.server.services.activity.firstBreak()) === null ? null : 'it is broken',
    )
  })
  await world.server.stop()
  await report.part('a start on a full disk', async (tried) => {
    for (let round = 0; free() > 0 && round < 60; round++) {
      try {
        writeFileSync(`${filler}-${round}`, Buffer.alloc(Math.min(32, free()) * 1_048_576, 1))
      } catch {
        // Full: that was the aim.
        break
      }
    }
    const said = await startServer({ dataFolder: data, port: 0, webFolder: null, logLevel: 'fatal' }).then(
      async (server) => {
        await server.stop()
        return 'started'
      },
      (error: unknown) => (error instanceof Error ? error.message : String(error)),
    )
    tried('says so, or starts', said.length > 0 ? null : 'said nothing')
    console.log(`  ${said.split('\n')[0]?.slice(0, 160)}`)
    for (let round = 0; round < 60; round++) rmSync(`${filler}-${round}`, { force: true })
    const server = await startServer({ dataFolder: data, port: 0, webFolder: null, logLevel: 'fatal' })
    tried('starts when there is room again', server.address === '' ? 'no address' : null)
    await server.stop()
  })
} finally {
  await world.server.stop().catch(() => undefined)
  spawnSync('umount', ['-l', mount])
  rmSync(mount, { recursive: true, force: true })
}
console.log(`\n${report.tried} tried, ${report.tried - report.broken} held, ${report.broken} did not hold`)
process.exitCode = report.broken === 0 ? 0 : 1

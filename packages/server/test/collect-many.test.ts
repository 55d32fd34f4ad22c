import { spawn, type ChildProcess } from 'node:child_process'
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { DeviceConnections } from '../src/collect/entity.ts'
import { Client, makeWorld, type World } from './world.ts'

const root = fileURLToPath(new URL('../../../', import.meta.url))
const scenario = join(root, 'scenario/2026-11-16/devices')

interface Address {
  readonly device: string
  readonly dialect: string
  readonly address: string
  readonly port: number
}

/** Devices in a process of their own. @param slow milliseconds before each part of an answer */
async function network(count: number, slow = 0): Promise<{ devices: Address[]; end: () => void }> {
  const folder = mkdtempSync(join(tmpdir(), 'jurybox-many-'))
  for (let i = 0; i < count; i++) {
    const device = join(folder, 'devices', `d${i}`)
    mkdirSync(device, { recursive: true })
    cpSync(join(scenario, 'qn-acc1'), device, { recursive: true })
    writeFileSync(
      join(device, 'config.txt'),
      readFileSync(join(scenario, 'qn-acc1/config.txt'), 'utf8').replace(/^hostname .*$/m, `hostname d${i}`),
    )
  }
  const weather = Object.fromEntries(Array.from({ length: count }, (_, i) => [`d${i}`, { slow }]))
  writeFileSync(
    join(folder, 'simulator.yaml'),
    JSON.stringify({
      accounts: [{ user: 'jurybox', password: 'heron-at-low-tide', privileged: 'heron-on-the-weir' }],
      weather: slow > 0 ? weather : {},
    }),
  )
  const child: ChildProcess = spawn(
    process.execPath,
    ['--import', 'tsx', join(root, 'packages/cli/src/main.ts'), 'simulate', folder],
    { stdio: ['ignore', 'pipe', 'ignore'] },
  )
  const devices: Address[] = []
  if (child.stdout) {
    for await (const line of createInterface({ input: child.stdout })) {
      const [device = '', dialect = '', address = '', port = ''] = line.split(',')
      if (devices.push({ device, dialect, address, port: Number(port) }) === count) break
    }
  }
  return {
    devices,
    end: () => {
      child.kill('SIGTERM')
      rmSync(folder, { recursive: true, force: true })
    },
  }
}

const connected = async (world: Pick<World, 'server' | 'engagement'>, devices: readonly Address[]): Promise<void> => {
  await world.server.services.collecting.credentials.add(world.engagement, 1, {
    title: 'A',
    user: 'jurybox',
    password: 'heron-at-low-tide',
    privileged: 'heron-on-the-weir',
  })
  await world.server.services.database
    .getRepository(DeviceConnections)
    .insert(
      devices.map((device) => ({
        ...device,
        engagementId: world.engagement,
        old: false,
        hostKey: null,
        credentialId: null,
      })),
    )
}

describe('collecting from many devices', function () {
  this.timeout(300_000)

  it('300 of them, 20 at a time, while the server answers pages', async () => {
    const { devices, end } = await network(300)
    const world = await makeWorld()
    try {
      await connected(world, devices)
      const lead = await world.client('lead')
      const base = `/engagements/${world.engagement}`
      const { json: job } = await lead.post(`${base}/collections`, { devices: null, title: 'All' })
      const seen: { done: number; state: string }[] = []
      while (seen.at(-1)?.state !== 'done' && seen.at(-1)?.state !== 'failed') {
        seen.push((await lead.get(`${base}/jobs`)).json.find((one: { id: number }) => one.id === job.id))
        await new Promise((resolve) => setTimeout(resolve, 100))
      }
      expect(seen.at(-1)).to.include({ state: 'done', message: '300 collected' })
      // Answered all along, not only before and after.
      expect(new Set(seen.map(({ done }) => Math.floor(done / 30))).size).to.be.greaterThan(7)
      expect((await lead.get(`${base}/snapshots`)).json[0]).to.include({ devices: 300, refused: 0 })
    } finally {
      end()
      await world.end()
    }
  })

  it('killed in the middle: nothing half-written counts, and the next run heals', async () => {
    const { devices, end } = await network(45, 60)
    const folder = mkdtempSync(join(tmpdir(), 'jurybox-killed-'))
    const first = await makeWorld(folder)
    await connected(first, devices)
    await first.server.stop()
    // A server in a process of its own, so that it can be killed.
    const child = spawn(process.execPath, ['--import', 'tsx', join(root, 'packages/server/src/main.ts'), 'start'], {
      env: { ...process.env, JURYBOX_DATA: folder, JURYBOX_PORT: '0' },
      stdio: ['ignore', 'pipe', 'ignore'],
    })
    try {
      let address = ''
      for await (const line of createInterface({ input: child.stdout })) {
        address = /ready: +(\S+)/.exec(line)?.[1] ?? ''
        if (address !== '') break
      }
      const lead = new Client(address)
      expect(await lead.signIn('lead')).to.equal(200)
      const base = `/engagements/${first.engagement}`
      const { json: job } = await lead.post(`${base}/collections`, { devices: null, title: 'Cut short' })
      for (let done = 0; done < 2;) {
        done = (await lead.get(`${base}/jobs`)).json.find((one: { id: number }) => one.id === job.id).done
        await new Promise((resolve) => setTimeout(resolve, 50))
      }
      const gone = new Promise((resolve) => child.once('exit', resolve))
      child.kill('SIGKILL')
      await gone

      const world = await makeWorld(folder)
      try {
        const again = await world.client('lead')
        const jobs = async (id: number) =>
          (await again.get(`${base}/jobs`)).json.find((one: { id: number }) => one.id === id)
        expect(await jobs(job.id)).to.include({ state: 'interrupted' })
        expect((await again.get(`${base}/snapshots`)).json).to.deep.equal([])
        for (const table of ['snapshots', 'records', 'snapshot_records', 'contents'])
          expect(
            Number((await world.server.services.database.query(`SELECT COUNT(*) AS n FROM ${table}`))[0].n),
            table,
          ).to.equal(0)
        const { json: next } = await again.post(`${base}/jobs/${job.id}/retry`)
        let state = 'running'
        while (state === 'running') {
          await new Promise((resolve) => setTimeout(resolve, 100))
          state = (await jobs(next.id)).state
        }
        expect(state).to.equal('done')
        expect(
          (await again.get(`${base}/snapshots`)).json.map(
            ({ title, devices: count }: { title: string; devices: number }) => [title, count],
          ),
        ).to.deep.equal([['Cut short', 45]])
      } finally {
        await world.end()
      }
    } finally {
      child.kill('SIGKILL')
      end()
    }
  })
})

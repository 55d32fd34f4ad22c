import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { LIMITS } from '@jurybox/collector'
import { simulate, type SimulatedNetwork } from '@jurybox/simulator'
import { Client, makeWorld, type World } from './world.ts'

const scenario = fileURLToPath(new URL('../../../scenario/2026-11-16/devices/', import.meta.url))

describe('collecting', function () {
  this.timeout(60_000)
  let world: World
  let network: SimulatedNetwork
  let folder: string
  let lead: Client
  let base: string
  const SECRET = 'heron-at-low-tide'
  const SECRETS = [SECRET, 'heron-on-the-weir', 'dunlin-by-the-bank', 'dunlin-over-the-bank', 'plover-under-the-pier']

  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-network-'))
    for (const name of ['qs-dist1', 'qs-fw1', 'dd-gw1'])
      cpSync(join(scenario, name), join(folder, 'devices', name), { recursive: true })
    network = await simulate(folder)
    world = await makeWorld()
    world.server.services.collecting.limits = { ...LIMITS, silence: 15_000, connect: 15_000, again: 0 }
    lead = await world.client('lead')
    base = `/engagements/${(await lead.post('/engagements', { title: 'Collecting', client: '' })).json.id}`
    await lead.put(`${base}/connections`, {
      devices: network.devices.map(({ name, dialect, port }) => ({
        device: name,
        dialect,
        address: '127.0.0.1',
        port,
      })),
    })
  })
  after(async () => {
    await world.end()
    await network.stop()
    rmSync(folder, { recursive: true, force: true })
  })
  afterEach(() => network.devices.forEach((device) => (device.weather = {})))

  const device = (name: string) => network.devices.find((one) => one.name === name) as (typeof network.devices)[number]
  async function collected(
    body: object,
  ): Promise<{
    state: string
    message: string
    params: {
      snapshotId?: number
      results: { device: string; ok: boolean; step: string | null; reason: string | null }[]
    }
  }> {
    const { json } = await lead.post(`${base}/collections`, body)
    if (json.id === undefined) throw new Error(json.error)
    return ended(json.id)
  }

  /** A job by its id: one that follows from an earlier job, such as an audit, may be newer in the list. */
  async function ended(asked: number) {
    for (;;) {
      const job = (await lead.get(`${base}/jobs`)).json.find(({ id }: { id: number }) => id === asked)
      if (job.state !== 'running') return job
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
  }

  it('asks for a credential first, keeps it sealed, and never gives it back', async () => {
    expect((await lead.post(`${base}/collections`, { title: 'Early' })).json.error).to.contain('no credential')
    expect(
      (
        await lead.post(`${base}/credentials`, {
          title: 'Audit account',
          user: 'jurybox',
          password: SECRET,
          privileged: 'heron-on-the-weir',
          snmp: { user: 'counter', auth: 'dunlin-by-the-bank', privacy: 'dunlin-over-the-bank' },
        })
      ).status,
    ).to.equal(200)
    expect(
      (
        await lead.post(`${base}/alerts`, {
          title: 'Log',
          to: { channel: 'webhook', url: 'http://127.0.0.1:9/' },
          secret: 'plover-under-the-pier',
          kinds: ['new'],
          severity: 'high',
        })
      ).status,
    ).to.equal(200)
    expect(
      (await lead.post(`${base}/credentials`, { title: 'Audit account', user: 'x', password: 'y' })).json.error,
    ).to.contain('already')
    const listed = await lead.get(`${base}/credentials`)
    expect(listed.json[0]).to.have.all.keys('id', 'title', 'user', 'createdAt')
    const { database } = world.server.services
    const tables: { name: string }[] = await database.query(
      `SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'`,
    )
    for (const { name } of tables) {
      const rows: unknown = await database.query(`SELECT * FROM \`${name}\``)
      const dump = JSON.stringify(rows, (_, value: unknown) =>
        typeof value === 'object' && value !== null && 'type' in value && value.type === 'Buffer'
          ? Buffer.from((value as unknown as { data: number[] }).data).toString('latin1')
          : value,
      )
      for (const secret of SECRETS) expect(dump.includes(secret), `${secret} in ${name}`).to.equal(false)
    }
  })

  it('tests one device step by step, and keeps nothing', async () => {
    const snapshots = async (): Promise<number> => (await lead.get(`${base}/snapshots`)).json.length
    const before = await snapshots()
    const test = async (name: string): Promise<any> => (await lead.post(`${base}/connections/${name}/test`)).json
    const states = ({ steps }: any): string => steps.map(({ state }: { state: string }) => state[0]).join('')
    const fine = await test('qs-dist1')
    expect(states(fine)).to.equal('ppppppppp')
    expect(fine.took).to.be.above(0)
    device('qs-dist1').weather = { refuses: true }
    const away = await test('qs-dist1')
    expect(states(away)).to.match(/^p*fn+$/)
    expect(away.steps.find(({ state }: any) => state === 'failed').reason)
      .to.be.a('string')
      .and.not.equal('')
    expect(await test('nobody')).to.have.property('error', 'There is no connection for “nobody”. Add it first.')
    expect(await snapshots()).to.equal(before)
  })

  it('takes a key in the place of a password, and asks for one of both', async () => {
    const refused = await lead.post(`${base}/credentials`, { title: 'Neither', user: 'audit', password: '' })
    expect(refused.json.fields).to.deep.equal([{ field: 'password', message: 'must be given, or a private key' }])
    const added = await lead.post(`${base}/credentials`, { title: 'Key', user: 'a', password: '', privateKey: 'PEM' })
    expect(added.status).to.equal(200)
    expect((await lead.call('DELETE', `${base}/credentials/${added.json.id}`)).status).to.equal(204)
  })

  it('freezes what every device gives as one snapshot, in its dialect', async () => {
    const job = await collected({ title: 'First round' })
    expect([job.state, job.message]).to.deep.equal(['done', '3 collected'])
    const snapshot = (await lead.get(`${base}/snapshots/${job.params.snapshotId}`)).json
    expect(snapshot.refused).to.deep.equal([])
    expect([
      ...new Set(snapshot.records.map((record: { device: string; kind: string }) => `${record.device} ${record.kind}`)),
    ]).to.include.members([
      'qs-dist1 running configuration',
      'qs-dist1 saved configuration',
      'qs-fw1 running configuration',
      'dd-gw1 running configuration',
      'dd-gw1 output: routes',
    ])
    const reach = (await lead.get(`${base}/connections`)).json.devices
    expect(
      reach.every(
        ({ hostKey, credentialId }: { hostKey: string | null; credentialId: number | null }) =>
          hostKey !== null && credentialId !== null,
      ),
    ).to.equal(true)
    const { auditId } = await lead.audit(Number(base.split('/').at(-1)), Number(job.params.snapshotId))
    expect((await lead.get(`${base}/audits/${auditId}`)).json.counts.fail).to.be.greaterThan(5)
  })

  it('one device that breaks off spoils nothing: it is named, and its earlier records are carried over with their age', async () => {
    device('qs-dist1').weather = { dropAfter: 700 }
    const job = await collected({ title: 'Second round' })
    expect([job.state, job.message]).to.deep.equal(['done', '2 collected, 1 missing'])
    expect(job.params.results.find(({ ok }) => !ok)).to.include({ device: 'qs-dist1', step: 'listing' })
    const snapshot = (await lead.get(`${base}/snapshots/${job.params.snapshotId}`)).json
    expect(snapshot.refused).to.have.length(1)
    expect(snapshot.refused[0])
      .to.include({ path: 'qs-dist1' })
      .and.property('reason')
      .contains('not collected (listing)')
    const carried = snapshot.records.filter(
      ({ device: name, carried: is }: { device: string; carried: boolean }) => name === 'qs-dist1' && is,
    )
    expect(carried.length).to.be.greaterThan(0)
    expect(
      snapshot.records.filter(
        ({ device: name, carried: is }: { device: string; carried: boolean }) => name !== 'qs-dist1' && is,
      ),
    ).to.deep.equal([])
  })

  it('collects some devices again after a fix', async () => {
    const job = await collected({ title: 'After the fix', devices: ['qs-dist1'] })
    expect([job.state, job.message]).to.deep.equal(['done', '1 collected'])
    expect((await lead.post(`${base}/collections`, { title: 'x', devices: ['nobody'] })).json.error).to.contain(
      '“nobody”',
    )
  })

  it('tells nothing to a device with another host key until a lead lets the key go', async () => {
    await device('qs-fw1').changeKey()
    const port = device('qs-fw1').port
    const job = await collected({ title: 'Key', devices: ['qs-fw1'] })
    expect([job.state, job.params.results[0]?.step]).to.deep.equal(['failed', 'key'])
    expect((await lead.get(`${base}/activity`)).text).to.contain('host key changed')
    expect((await lead.post(`${base}/connections/qs-fw1/delete-host-key`)).status).to.equal(204)
    expect((await collected({ title: 'Key', devices: ['qs-fw1'] })).state).to.equal('done')
    expect(port).to.be.greaterThan(0)
  })

  it('stops when asked, and nothing is kept', async () => {
    // Slower than the machine may be, so that the stop comes before the device is through.
    device('qs-dist1').weather = { slow: 5_000 }
    const before = (await lead.get(`${base}/snapshots`)).json.length
    const { json } = await lead.post(`${base}/collections`, { title: 'Slow', devices: ['qs-dist1'] })
    expect((await lead.post(`${base}/collections`, { title: 'Two at once' })).json.error).to.contain('already running')
    expect((await lead.post(`${base}/jobs/${json.id}/stop`)).status).to.equal(204)
    expect((await ended(json.id)).state).to.equal('stopped')
    expect((await lead.get(`${base}/snapshots`)).json.length).to.equal(before)
  })

  it('cannot be stopped any more while its result is saved, and says so', async () => {
    const { collecting } = world.server.services
    const { snapshots } = collecting.services
    const freeze = snapshots.freeze.bind(snapshots)
    let asked: { status: number; json: { error: string } } | null = null
    snapshots.freeze = async (...about) => {
      const running = (await lead.get(`${base}/jobs`)).json.find(({ kind }: { kind: string }) => kind === 'collect')
      asked = await lead.post(`${base}/jobs/${running.id}/stop`)
      return freeze(...about)
    }
    try {
      expect((await collected({ title: 'At the end', devices: ['qs-fw1'] })).state).to.equal('done')
    } finally {
      snapshots.freeze = freeze
    }
    expect(asked)
      .to.deep.include({ status: 409 })
      .and.property('json')
      .deep.include({ error: 'This job cannot be stopped any more: it has ended, or its result is being saved.' })
  })

  it('no secret is in any answer of the API about it', async () => {
    for (const path of [
      '/credentials',
      '/connections',
      '/jobs',
      '/activity',
      '/snapshots',
      '/alerts',
      '/schedules',
      '/set-up',
    ])
      for (const secret of SECRETS) expect((await lead.get(`${base}${path}`)).text, path).to.not.contain(secret)
  })
})

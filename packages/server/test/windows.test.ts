import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { simulate, type SimulatedNetwork } from '@jurybox/simulator'
import { connectDemo, loadDemo } from '../src/demo.ts'
import { settingsOf } from '../src/operation/settings.ts'
import { startServer, type RunningServer } from '../src/server.ts'
import { Client } from './world.ts'

const root = fileURLToPath(new URL('../../..', import.meta.url))
const CALM = { 'ves-tern': {}, 'ves-gannet': {}, 'ops-acc1': {} }

/** The day of the demo network: a quick fix, a change window, what was done beside it, and what is told of it. */
describe('a day of the network, with a change window', function () {
  this.timeout(240_000)
  let server: RunningServer
  let network: SimulatedNetwork
  let folder = ''
  let lead: Client
  const base = '/engagements/1'
  let baseline = 0
  /** When the day began: what the demo holds from before is not asked about. */
  let began = ''

  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-windows-'))
    network = await simulate(join(root, 'scenario/2026-11-16'), { settings: join(root, 'scenario'), weather: CALM })
    server = await startServer({
      dataFolder: folder,
      port: 0,
      webFolder: null,
      logLevel: 'fatal',
      syslog: { port: 0, address: '127.0.0.1' },
      settings: settingsOf({ JURYBOX_CHECK_RESPONSES: '1' }),
    })
    await loadDemo(server.services, join(root, 'scenario'))
    await connectDemo(server.services, network)
    network.tellAt({ host: '127.0.0.1', port: server.services.schedules.listener.port ?? 0 })
    lead = new Client(server.address)
    expect(await lead.signIn('lead', 'kittiwake-at-dawn')).to.equal(200)
    server.services.windows.again = 300
  })
  after(async () => {
    await server.stop()
    await network.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  async function answered(path: string): Promise<any> {
    for (;;) {
      const { status, json } = await lead.get(path)
      if (status !== 202) return json
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }
  async function until(id: number, ...states: readonly string[]): Promise<any> {
    for (let tries = 0; tries < 1500; tries++) {
      const window = await answered(`${base}/windows/${id}`)
      if (states.includes(window.state) || (window.problem !== '' && !states.includes('closed'))) return window
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    return expect.fail('the window did not move on')
  }
  const step = async (id: number, what: string): Promise<void> =>
    void expect((await lead.post(`${base}/windows/${id}/step`, { do: what })).status).to.equal(204)

  it('begins from a state that somebody approved', async () => {
    began = new Date().toISOString()
    const { json: job } = await lead.post(`${base}/collections`, { devices: null, title: 'Morning' })
    for (;;) {
      const found = (await lead.get(`${base}/jobs`)).json.find(({ id }: { id: number }) => id === job.id)
      if (found.state !== 'running') {
        baseline = found.params.snapshotId
        break
      }
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
    await lead.idle(1)
    expect((await lead.put(`${base}/snapshots/${baseline}/tags`, { tags: ['approved'] })).status).to.equal(200)
    const { rows } = await answered(`${base}/drift`)
    expect(rows.filter(({ kind }: any) => kind === 'approved')).to.deep.equal([])
  })

  let window = 0
  it('a window is planned, and its devices are collected when it begins', async () => {
    const plan = {
      title: 'Kiosk switch',
      reason: 'Ticket 4711',
      beginsAt: new Date(Date.now() + 3_600_000).toISOString(),
      endsAt: new Date(Date.now() + 7_200_000).toISOString(),
      devices: ['qn-dist1'],
      checks: 'filter-change',
    }
    expect((await lead.post(`${base}/windows`, { ...plan, endsAt: plan.beginsAt })).status).to.equal(400)
    expect((await lead.post(`${base}/windows`, { ...plan, checks: 'heron' })).status).to.equal(422)
    window = (await lead.post(`${base}/windows`, { ...plan, beginsAt: new Date(Date.now() - 1000).toISOString() })).json
      .id
    // Its time has come: nobody has to press anything.
    const open = await until(window, 'open')
    expect([open.state, open.before.title]).to.deep.equal(['open', 'Before: Kiosk switch'])
    expect(open.counts).to.equal(null)
  })

  it('what is done in it and beside it is told apart, with names', async () => {
    for (let i = 0; i < 4; i++) network.step()
    await step(window, 'end')
    const closed = await until(window, 'closed', 'settling')
    expect(closed.after.title).to.equal('After: Kiosk switch')
    expect(closed.results.map(({ device, changed }: any) => [device, changed])).to.deep.equal([['qn-dist1', true]])
    const own = closed.results[0]
    expect(own.standing).to.equal('fail')
    const filters = own.checked.results.find(({ check }: any) => check === 'filters-applied')
    expect(filters.outcome).to.equal('fail')
    expect(filters.failing.map(({ key, before, after }: any) => [key, before, after])).to.deep.equal([
      ['Vlan30', 'in4 KIOSK-IN', ''],
    ])
    const unplanned = Object.fromEntries(
      closed.unplanned.map(({ device, authors }: any) => [device, authors.map(({ by }: any) => by)]),
    )
    expect(unplanned).to.deep.equal({ 'ops-core2': ['marlow'], 'ops-fw1': ['ingram'], 'ves-gannet': ['skerry'] })
  })

  it('drift names who did it, and what no window explains', async () => {
    const { rows } = await answered(`${base}/drift`)
    const approved = rows.filter(({ kind }: any) => kind === 'approved')
    expect(
      approved.map(({ name, authors, explained }: any) => [
        name,
        authors.map(({ by }: any) => by).join(),
        explained?.title ?? null,
      ]),
    ).to.deep.equal([
      ['ops-core2', 'marlow', null],
      ['ops-fw1', 'ingram', null],
      ['ves-gannet', 'skerry', null],
      ['qn-dist1', 'ingram', 'Kiosk switch'],
    ])
    const core = approved.find(({ name }: any) => name === 'ops-core2')
    expect(core.lines.join('\n')).to.contain('transport input telnet ssh')
    // What was not saved departs from what is saved for the next boot; the window saved what it did.
    const unsaved = rows.filter(({ kind }: any) => kind === 'saved').map(({ name }: any) => name)
    expect(unsaved).to.include('ops-core2').and.not.include('qn-dist1')
    expect((await lead.get(`${base}/drift.csv`)).text)
      .to.contain('ops-core2')
      .and.contain('marlow')
  })

  it('a check that failed passes after the fix, when the window is checked again', async () => {
    for (let i = 0; i < 3; i++) network.step()
    await step(window, 'check')
    let own: any
    for (let tries = 0; tries < 300; tries++) {
      const now = await until(window, 'closed', 'settling')
      own = now.results[0]?.checked?.results.find(({ check }: any) => check === 'filters-applied')
      if (own?.outcome === 'pass' && now.state === 'closed') break
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
    expect(own.outcome).to.equal('pass')
  })

  it('has a report as HTML, Markdown and PDF', async () => {
    const report = async (format: string): Promise<any> => lead.get(`${base}/windows/${window}/report.${format}`)
    expect((await report('html')).text)
      .to.contain('Change window: Kiosk switch')
      .and.contain('Changed outside of the plan: ops-core2')
    expect((await report('md')).text).to.contain('## Checks of qn-dist1')
    const pdf = await report('pdf')
    expect([pdf.status, pdf.text.slice(0, 5)]).to.deep.equal([200, '%PDF-'])
    expect((await report('heron')).status).to.equal(404)
  })

  it('may rest on snapshots that were taken some other way, and can be cancelled', async () => {
    const plan = {
      title: 'By hand',
      beginsAt: new Date(Date.now() + 86_400_000).toISOString(),
      endsAt: new Date(Date.now() + 90_000_000).toISOString(),
      devices: ['ops-core2', 'no-such'],
    }
    const { id } = (await lead.post(`${base}/windows`, plan)).json
    await lead.put(`${base}/windows/${id}/snapshots`, {
      before: baseline,
      after: (await answered(`${base}/windows/${window}`)).after.id,
    })
    const chosen = await answered(`${base}/windows/${id}`)
    expect([chosen.state, chosen.results.map(({ device, standing }: any) => [device, standing])]).to.deep.equal([
      'closed',
      [
        ['ops-core2', 'unchecked'],
        ['no-such', 'missing'],
      ],
    ])
    const other = (await lead.post(`${base}/windows`, plan)).json.id
    await step(other, 'cancel')
    expect((await answered(`${base}/windows`)).map(({ title, state }: any) => [title, state])).to.deep.include([
      'By hand',
      'cancelled',
    ])
  })

  it('the chronicle has exactly the marks of the day, with who did what', async () => {
    const { events, more } = await answered(`${base}/chronicle/events?from=${encodeURIComponent(began)}`)
    expect(more).to.equal(false)
    const changes = events.filter(({ code }: any) => code === 'configuration-changed')
    // As the day of the scenario says it: each who typed, once for each time.
    expect(changes.map(({ devices, by }: any) => `${devices[0]} by ${by}`).sort()).to.deep.equal([
      'ops-core2 by marlow',
      'ops-fw1 by ingram',
      'qn-dist1 by ingram',
      'qn-dist1 by ingram',
      'ves-gannet by skerry',
    ])
    const of = (kind: string): any[] => events.filter((one: any) => one.kind === kind)
    expect(of('window').map(({ title, devices }) => [title, devices])).to.deep.include(['Kiosk switch', ['qn-dist1']])
    expect(of('approval').map(({ code, by }) => [code, by])).to.deep.equal([['snapshot-approved', 'Isolde Wren']])
    expect(of('snapshot').map(({ title }) => title)).to.include.members([
      'Morning',
      'Before: Kiosk switch',
      'After: Kiosk switch',
    ])
    const own = await answered(
      `${base}/chronicle/events?device=ves-gannet&kinds=change&from=${encodeURIComponent(began)}`,
    )
    expect(own.events.map(({ by }: any) => by)).to.deep.equal(['skerry'])
    const site = await answered(`${base}/chronicle/events?site=fleet&kinds=change&from=${encodeURIComponent(began)}`)
    expect(site.events.map(({ devices }: any) => devices[0])).to.deep.equal(['ves-gannet'])
    expect((await lead.get(`${base}/chronicle/events?kinds=heron`)).status).to.equal(400)
  })

  it('trends: a point for each audited snapshot, and changes by week', async () => {
    const { points, weeks, sites } = await answered(`${base}/trends`)
    expect(points.length).to.be.greaterThan(2)
    expect(points[0].score).to.be.within(0, 100)
    expect(points.at(-1).severities.high).to.be.greaterThan(0)
    expect(weeks.reduce((sum: number, { changes }: any) => sum + changes, 0)).to.be.greaterThan(5)
    expect(sites).to.include('ves-gannet')
    const fleet = await answered(`${base}/trends?site=fleet`)
    expect(fleet.points.at(-1).devices).to.equal(3)
  })

  it('the docket: open findings by severity, exposure and spread, with its formula', async () => {
    const { items, formula, guests } = await answered(`${base}/docket`)
    expect(formula).to.contain('severity').and.contain('exposure').and.contain('spread')
    expect(guests, 'as the scenario states them').to.have.length(3).and.include('10.40.205.0/24')
    const priorities = items.map(({ priority }: any) => priority)
    expect(priorities).to.deep.equal([...priorities].sort((a: number, b: number) => b - a))
    expect(items.some(({ exposure }: any) => exposure === 'outside' || exposure === 'undecided')).to.equal(true)
    expect((await lead.put(`${base}/docket/guests`, { places: ['no such place'] })).status).to.equal(422)
    expect((await lead.put(`${base}/docket/guests`, { places: ['10.40.40.0/24'] })).status).to.equal(204)
    expect((await answered(`${base}/docket`)).guests).to.deep.equal(['10.40.40.0/24'])
    expect((await lead.get(`${base}/docket.csv`)).text).to.contain('no,priority,rule,device')
  })

  it('checks of two snapshots name the devices that only one of them has, and show lines of both sides', async () => {
    const { results, absent } = await answered(`${base}/checks/results?set=upgrade`)
    expect(results.some(({ device }: any) => device === null || device.name === 'ops-core2')).to.equal(true)
    expect(absent.map(({ name }: any) => name)).not.to.include('ops-core2')
    const one = await answered(`${base}/checks/results?checks=no-such`)
    expect(one.error).to.contain('no-such')
  })

  it('references: derived from the estate, saved by one press, and drift from then on', async () => {
    const derived = await answered(`${base}/references/derived?feature=aaa&dialect=indented`)
    expect(derived.outliers.map(({ name }: any) => name)).to.include('qs-acc1')
    expect((await lead.post(`${base}/references`, derived.reference)).status).to.equal(200)
    const { references, devices } = await answered(`${base}/references`)
    const place = references.findIndex(({ id }: any) => id === 'aaa-indented')
    const of = (name: string): any => devices.find((one: any) => one.name === name).outcomes[place]
    expect([of('ops-core1').outcome, of('qs-acc1').outcome, of('ops-fw1').outcome]).to.deep.equal([
      'conforms',
      'departs',
      'outside',
    ])
    const device = devices.find((one: any) => one.name === 'qs-acc1').device
    const answer = await answered(`${base}/references/aaa-indented/devices/${device}`)
    expect(answer.commands).to.include('aaa new-model')
    const { rule } = (await lead.get(`${base}/references/aaa-indented/rule`)).json
    expect(rule.decide[0].when.conforms.dialect).to.equal('indented')
    expect((await lead.get(`${base}/references/no-such/rule`)).status).to.equal(404)
    const departs = async (): Promise<string[]> =>
      (await answered(`${base}/drift`)).rows
        .filter(({ kind, baseline: from }: any) => kind === 'reference' && from.id === 'aaa-indented')
        .map(({ name }: any) => name)
    expect(await departs()).to.include('qs-acc1')
    expect((await lead.call('DELETE', `${base}/references/aaa-indented`)).status).to.equal(204)
    expect((await answered(`${base}/references`)).references).to.have.length(references.length - 1)
    expect(await departs()).to.deep.equal([])
  })
})

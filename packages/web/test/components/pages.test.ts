import { expect } from 'chai'
import { asLead, component, serve, settled, shown } from './stage.ts'

const BenchmarkPage = await component('benchmarks/BenchmarkPage.vue')
const DevicePage = await component('estate/DevicePage.vue')
const VerdictPage = await component('verdicts/VerdictPage.vue')
const AlertList = await component('collect/AlertList.vue')
const EstatePage = await component('estate/EstatePage.vue')
const KeyPanel = await component('settings/KeyPanel.vue')
const OverviewPage = await component('overview/OverviewPage.vue')
const ScheduleList = await component('collect/ScheduleList.vue')
const { useVisibleColumns } = await import('../../src/verdicts/visible-columns.ts')

const BASE = '/api/engagements/0'

describe('the estate', () => {
  const device = (id: number, name: string) => ({
    id,
    name,
    dialect: 'indented',
    facts: { site: 'quay', labels: { card: true } },
    lines: 10,
    unread: 2,
    whole: true,
    takenAt: '2026-11-16T10:00:00Z',
    timeSource: 'stated',
    carried: false,
    down: null,
    changedAt: null,
    counts: { fail: 1 },
  })
  const standing = { os: 'OstOS', model: 'C-24', version: '7.4', serial: null, approved: 'on', why: '' }
  const answers = {
    [`GET ${BASE}/devices`]: { devices: [device(1, 'core-1'), device(2, 'edge-1')], auditId: null },
    [`GET ${BASE}/estate/standing`]: [
      { id: 1, name: 'core-1', ...standing, groups: ['Card systems'] },
      { id: 2, name: 'edge-1', ...standing, groups: [] },
    ],
    [`GET ${BASE}/groups`]: [{ id: 1, title: 'Nobody', kind: 'filter', text: 'false' }],
  }
  const rows = (text: string): string[] => ['core-1', 'edge-1'].filter((name) => text.includes(name))

  it('lists all devices, or those of a group that is in the address', async () => {
    const served = serve(answers)
    const all = await shown(EstatePage)
    expect(rows(all.wrapper.text())).to.deep.equal(['core-1', 'edge-1'])
    expect(served.asked.map(({ path }) => path)).to.not.include(`${BASE}/groups`)
    const some = await shown(EstatePage, { at: '/e/1/estate?group=Card systems' })
    expect(rows(some.wrapper.text())).to.deep.equal(['core-1'])
    served.stop()
  })

  it('asks for groups without members where one of them is shown', async () => {
    const served = serve(answers)
    const { wrapper } = await shown(EstatePage, { at: '/e/1/estate?group=Nobody' })
    expect(rows(wrapper.text())).to.deep.equal([])
    expect(served.asked.map(({ path }) => path)).to.include(`${BASE}/groups`)
    served.stop()
  })

  it('tells what went wrong, and does not call the estate empty', async () => {
    const served = serve({})
    const { wrapper } = await shown(EstatePage)
    expect(wrapper.text()).to.contain('nobody answers').and.not.contain('Devices appear here')
    served.stop()
  })
})

describe('the overview', () => {
  it('of an engagement without a snapshot begins with its first steps', async () => {
    const served = serve({ [`GET ${BASE}/overview`]: null })
    const { wrapper } = await shown(OverviewPage)
    await asLead()
    expect(wrapper.text()).to.contain('Drop configuration files, a folder or a zip.')
    served.stop()
  })

  it('tells what went wrong in place of first steps', async () => {
    const served = serve({})
    const { wrapper } = await shown(OverviewPage)
    await asLead()
    expect(wrapper.text()).to.contain('nobody answers').and.not.contain('Drop configuration files')
    served.stop()
  })
})

describe('the master key', () => {
  const view = (change: object) => ({
    build: 'b',
    key: { source: 'file', change },
    freeDiskMb: 1000,
    longestBlockMs: 3,
  })

  it('is changed by one press; the page asks until it is done, and tells so', async function () {
    this.timeout(5000)
    const states = [{ state: 'none' }, { state: 'running' }, { state: 'done', sealed: 1234 }]
    let asked = 0
    const served = serve({
      'GET /api/installation': () => view(states[Math.min(asked++, 2)] ?? {}),
      'POST /api/installation/key': { state: 'running' },
    })
    const { wrapper } = await shown(KeyPanel)
    await wrapper.find('button').trigger('click')
    await settled()
    expect(wrapper.emitted('changed')).to.equal(undefined)
    await new Promise((resolve) => setTimeout(resolve, 1100))
    await settled()
    expect(wrapper.text()).to.contain('1,234')
    expect(wrapper.emitted('changed')).to.have.length(1)
    served.stop()
  })

  it('tells what went wrong where nothing could be read', async () => {
    const served = serve({})
    const { wrapper } = await shown(KeyPanel)
    expect(wrapper.text()).to.contain('nobody answers')
    served.stop()
  })
})

describe('alerts and schedules', () => {
  const alert = {
    id: 4,
    title: 'To the desk',
    channel: 'mail',
    settings: { host: 'desk.example', port: 587, tls: 'starttls', from: 'a@example.com', to: ['b@example.com'] },
    hasSecret: false,
    kinds: ['new'],
    severity: 'high',
    when: 'at once',
    zone: 'UTC',
    paused: false,
    deliveries: [],
  }

  it('an alert is paused, and the list is asked for again', async () => {
    let paused = false
    const served = serve({
      [`GET ${BASE}/alerts`]: () => [{ ...alert, paused }],
      [`PUT ${BASE}/alerts/4`]: () => {
        paused = true
        return {}
      },
    })
    const { wrapper } = await shown(AlertList)
    await asLead()
    expect(wrapper.text()).to.contain('To the desk').and.contain('at once')
    const pause = wrapper.findAll('button').find((button) => button.text() === 'Pause')
    await pause?.trigger('click')
    await settled()
    served.stop()
    expect(served.asked.map(({ method }) => method)).to.include('PUT')
    expect(wrapper.text()).to.contain('Resume')
    expect(wrapper.emitted('changed')).to.have.length(1)
  })

  it('schedules tell what could not be read, and list the rest', async () => {
    const served = serve({ [`GET ${BASE}/schedules`]: [], [`GET ${BASE}/benchmarks`]: [] })
    const { wrapper } = await shown(ScheduleList)
    await asLead()
    expect(wrapper.text()).to.contain('nobody answers GET /api/engagements/0/groups')
    served.stop()
  })
})

describe('a page of something that is not there', () => {
  const pages = [
    [BenchmarkPage, '/e/:engagement/benchmarks/:benchmark', '/e/0/benchmarks/none', 'This benchmark cannot be shown'],
    [DevicePage, '/e/:engagement/estate/:device', '/e/0/estate/99', 'This device cannot be shown'],
    [VerdictPage, '/e/:engagement/verdicts/:audit/:verdict', '/e/0/verdicts/1/99', 'This verdict cannot be shown'],
  ] as const
  for (const [tested, route, at, title] of pages)
    it(`${title}: says why, and leads back`, async () => {
      const served = serve({ 'GET /api/dialects': [], 'GET /api/frameworks': [] })
      const { wrapper } = await shown(tested, { route, at })
      expect(wrapper.find('h1').text()).to.equal(title)
      expect(wrapper.text()).to.contain('nobody answers')
      expect(wrapper.find('a[href]').attributes('href')).to.equal(at.split('/').slice(0, 4).join('/'))
      served.stop()
    })
})

describe('the grid on paper', () => {
  it('draws all columns while the page is printed', async () => {
    const many = { template: '<p :ref="box">{{ first }}–{{ end }}</p>', setup: () => useVisibleColumns(() => 400) }
    const { wrapper } = await shown(many)
    expect(wrapper.text()).to.not.equal('0–400')
    window.dispatchEvent(new Event('beforeprint'))
    await settled()
    expect(wrapper.text()).to.equal('0–400')
    window.dispatchEvent(new Event('afterprint'))
    await settled()
    expect(wrapper.text()).to.not.equal('0–400')
  })
})

import { expect } from 'chai'
import { asLead, component, serve, settled, shown } from './stage.ts'

const BASE = '/api/engagements/0'
const event = (id: string, kind: string, code: string, at: string, more: object = {}): object => ({
  id,
  kind,
  code,
  at,
  until: null,
  title: '',
  devices: ['core'],
  by: null,
  place: null,
  count: null,
  resolved: null,
  opens: { path: 'changes/device', query: { device: 'core' } },
  ...more,
})
const EVENTS = [
  event('1', 'change', 'configuration-changed', '2026-11-14T21:40:00Z', { by: 'marlow', place: '10.40.0.77' }),
  event('2', 'incident', 'session-down', '2026-11-10T10:00:00Z', { title: '10.40.0.1' }),
  event('3', 'window', 'window', '2026-11-14T21:00:00Z', { until: '2026-11-14T22:00:00Z', title: 'Upgrade' }),
  event('4', 'snapshot', 'snapshot-taken', '2026-11-01T10:00:00Z', { title: 'Whole estate', devices: [] }),
]

describe('the chronicle', () => {
  async function page(at = '/e/1/chronicle') {
    const served = serve({ [`GET ${BASE}/chronicle/events`]: { events: EVENTS, more: false, sites: ['qn'] } })
    const made = await shown(await component('chronicle/ChroniclePage.vue'), { at })
    await asLead()
    await settled()
    return { ...made, served }
  }

  it('shows all kinds with who did it, and opens each', async () => {
    const { wrapper, router, served } = await page()
    const text = wrapper.text()
    expect(text).to.contain('Configuration of core changed').and.contain('marlow, 10.40.0.77')
    expect(text).to.contain('core: session 10.40.0.1 down').and.contain('Window “Upgrade”: core')
    expect(wrapper.findAll('button.mark')).to.have.length(4)
    await wrapper.find('button.mark.change').trigger('click')
    await settled()
    expect(router.currentRoute.value.fullPath).to.equal('/e/0/changes/device?device=core')
    served.stop()
  })

  it('leaves out kinds, and keeps that in the address', async () => {
    const { wrapper, router, served } = await page()
    await wrapper
      .findAll('button.kind')
      .find((one) => one.text().startsWith('Incidents'))
      ?.trigger('click')
    await settled()
    expect(router.currentRoute.value.query['hide']).to.equal('incident')
    expect(wrapper.text()).not.to.contain('core: session 10.40.0.1 down')
    served.stop()
  })

  it('zooms in to a shorter time and back', async () => {
    const { wrapper, served } = await page()
    const button = (label: string) => wrapper.find(`button[aria-label="${label}"]`)
    const rows = (): number => wrapper.findAll('tbody tr').filter((one) => one.text() !== '').length
    const all = rows()
    for (let times = 0; times < 6; times++) await button('Zoom in').trigger('click')
    await settled()
    expect(rows()).to.be.lessThan(all)
    await wrapper
      .findAll('button')
      .find((one) => one.text() === 'Everything')
      ?.trigger('click')
    await settled()
    expect(rows()).to.equal(all)
    served.stop()
  })
})

describe('the docket', () => {
  const said = (name: string | null, more: object = {}): object => ({
    owner: name === null ? null : { id: 1, name },
    due: null,
    note: '',
    done: null,
    overdue: false,
    ...more,
  })
  const VIEW = {
    audit: 4,
    formula: 'Priority = severity × exposure × spread.',
    guests: ['10.40.40.0/24'],
    items: [
      {
        benchmark: 'b',
        rule: 'r1',
        title: 'Remote login uses SSH only',
        severity: 'high',
        exposure: 'outside',
        priority: 72,
        findings: [
          { verdict: 7, device: 'core', outcome: 'fail', exposure: 'outside', said: said('Isolde Wren') },
          { verdict: 8, device: 'edge', outcome: 'unknown', exposure: 'unknown', said: said(null, { overdue: true }) },
        ],
      },
    ],
  }
  async function page(at = '/e/1/verdicts/docket', view: object = VIEW) {
    const served = serve({ [`GET ${BASE}/docket`]: view, [`PUT ${BASE}/docket/guests`]: {} })
    const made = await shown(await component('verdicts/DocketPage.vue'), { at })
    await asLead()
    const { useEngagement } = await import('../../src/stores/engagement.ts')
    const at1 = '2026-11-01T10:00:00Z'
    useEngagement().snapshots = [{ id: 1, title: 'S', takenAt: at1, createdAt: at1, refused: 0, tags: [] }]
    await settled()
    return { ...made, served }
  }

  it('prints its formula, what one remediation settles, and whose it is', async () => {
    const { wrapper, served } = await page()
    expect(wrapper.text()).to.contain('severity × exposure × spread').and.contain('reached from outside')
    expect(wrapper.text()).to.contain('Isolde Wren').and.contain('1 overdue')
    served.stop()
  })

  it('is limited to one person, or to what nobody owns', async () => {
    const { wrapper, served } = await page('/e/1/verdicts/docket?owner=-')
    await wrapper.find('tbody tr').trigger('click')
    await settled()
    expect(wrapper.text()).to.contain('edge').and.not.contain('core')
    expect(wrapper.find('.findings a').attributes('href')).to.equal('/e/0/verdicts/4/8')
    served.stop()
  })

  it('says when there is no audit', async () => {
    const { wrapper, served } = await page(undefined, { audit: null, formula: '', guests: [], items: [] })
    expect(wrapper.text()).to.contain('The selected snapshot is not audited')
    served.stop()
  })
})

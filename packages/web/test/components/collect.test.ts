import { expect } from 'chai'
import { Refusal, asLead, component, serve, settled, shown } from './stage.ts'

const CollectPage = await component('collect/CollectPage.vue')
const DiscoverPage = await component('collect/DiscoverPage.vue')
const SetUpPage = await component('collect/SetUpPage.vue')
const SettingsPage = await component('settings/SettingsPage.vue')
const SitesPanel = await component('estate/SitesPanel.vue')
const { useJobs } = await import('../../src/stores/jobs.ts')

const BASE = '/api/engagements/0'
type Wrapper = Awaited<ReturnType<typeof shown>>['wrapper']
const press = async (wrapper: Wrapper, words: string): Promise<void> => {
  const button = wrapper.findAll('button').find((one) => one.text().startsWith(words))
  if (!button)
    throw new Error(
      `no button "${words}" among ${wrapper
        .findAll('button')
        .map((one) => one.text())
        .join()}`,
    )
  await button.trigger('click')
  await settled()
}

const connection = (device: string) => ({
  device,
  dialect: 'indented',
  address: '10.0.0.1',
  port: 22,
  old: false,
  hostKey: null,
  credentialId: null,
  netconfPort: null,
  snmpPort: null,
})
const connections = (devices: string[]) => ({
  steps: [
    { step: 'address', title: 'Address' },
    { step: 'login', title: 'Login' },
    { step: 'listing', title: 'Listing' },
  ],
  dialects: ['indented'],
  devices: devices.map(connection),
  connectRanges: ['10.0.0.0/24'],
})
const beside = {
  'GET /api/dialects': [],
  [`GET ${BASE}/credentials`]: [],
  [`GET ${BASE}/connections`]: connections(['core-1', 'edge-1']),
}
const job = (state: string, more: object = {}) => ({
  id: 9,
  kind: 'collect',
  state,
  done: 1,
  total: 2,
  message: '',
  createdAt: '2026-11-16T10:00:00Z',
  finishedAt: '2026-11-16T10:01:00Z',
  params: {},
  ...more,
})

describe('collecting', () => {
  it('begins with devices where there are none', async () => {
    const served = serve({ ...beside, [`GET ${BASE}/connections`]: connections([]) })
    const { wrapper } = await shown(CollectPage)
    await asLead()
    expect(wrapper.text()).to.contain('No connections yet')
    served.stop()
  })

  it('collects from all, or from those that were chosen', async () => {
    const served = serve({ ...beside, [`POST ${BASE}/collections`]: job('running') })
    const { wrapper } = await shown(CollectPage)
    await asLead()
    await wrapper.find('input[type="checkbox"]').setValue(true)
    await press(wrapper, 'Collect from 1 selected')
    const body = served.asked.find(({ method }) => method === 'POST')?.body as { devices: string[] }
    expect(body.devices).to.deep.equal(['core-1'])
    expect(wrapper.text()).to.contain('Stop (1 of 2)')
    served.stop()
  })

  it('shows at which step a device stopped, and offers those that failed again', async () => {
    const served = serve({ ...beside, [`POST ${BASE}/collections`]: job('running') })
    const { wrapper } = await shown(CollectPage)
    await asLead()
    const results = [
      { device: 'core-1', ok: true, records: 3, step: null, reason: null },
      { device: 'edge-1', ok: false, records: 0, step: 'login', reason: 'The password was refused.' },
    ]
    useJobs().jobs = [job('done', { params: { results } })] as never
    await settled()
    await press(wrapper, 'stopped: login')
    const rungs = wrapper.findAll('.ladder li').map((one) =>
      one
        .classes()
        .filter((name) => name !== 'ladder')
        .join(),
    )
    expect(rungs).to.deep.equal(['done', 'stopped', 'open'])
    expect(wrapper.text()).to.contain('The password was refused.')
    await press(wrapper, 'Retry')
    const body = served.asked.find(({ method }) => method === 'POST')?.body as { devices: string[] }
    expect(body.devices).to.deep.equal(['edge-1'])
    served.stop()
  })

  it('tells what could not be read', async () => {
    const served = serve({ 'GET /api/dialects': [], [`GET ${BASE}/credentials`]: [] })
    const { wrapper } = await shown(CollectPage)
    expect(wrapper.text()).to.contain(`nobody answers GET ${BASE}/connections`).and.not.contain('No connections yet')
    served.stop()
  })
})

describe('discovery', () => {
  const sighting = (id: number, device: string, more: object = {}) => ({
    id,
    jobId: 1,
    kind: 'appeared',
    device,
    found: {
      name: device,
      dialect: 'indented',
      model: 'C-24',
      version: '7.4',
      serial: 'S',
      reachedAt: '10.0.0.9',
      neighbourOf: [],
    },
    why: '',
    state: 'waiting',
    by: '',
    decidedAt: null,
    at: '2026-11-16T10:00:00Z',
    suggested: { site: 'quay', role: 'access' },
    ...more,
  })
  const view = (sightings: object[]) => ({ port: 22, ranges: [], translations: [], last: null, sightings })
  const answers = {
    'GET /api/dialects': [],
    [`GET ${BASE}/sites`]: [{ name: 'quay', title: 'Quay', around: null, devices: 1 }],
  }

  it('adds what was found with the site that is suggested, in one step for devices alike', async () => {
    let taken = false
    const served = serve({
      ...answers,
      [`GET ${BASE}/discovery`]: () =>
        view([
          sighting(1, 'new-1', taken ? { state: 'taken' } : {}),
          sighting(2, 'new-2', taken ? { state: 'taken' } : {}),
          sighting(3, 'new-3', { suggested: { site: null, role: null }, ...(taken ? { state: 'taken' } : {}) }),
        ]),
      [`POST ${BASE}/discovery/decide`]: () => {
        taken = true
        return { came: [{ device: 'new-1', ok: true, what: 'added' }] }
      },
    })
    const { wrapper } = await shown(DiscoverPage)
    await asLead()
    await press(wrapper, 'Add to inventory (3)')
    const bodies = served.asked.filter(({ method }) => method === 'POST').map(({ body }) => body)
    expect(bodies).to.deep.equal([
      { sightings: [1, 2], decision: 'take', facts: { site: 'quay', role: 'access' } },
      { sightings: [3], decision: 'take', facts: {} },
    ])
    expect(wrapper.text()).to.contain('new-1: added').and.not.contain('Add to inventory')
    served.stop()
  })

  it('counts the addresses of a range, and tries them only when somebody agreed', async () => {
    const served = serve({
      ...answers,
      [`GET ${BASE}/discovery`]: view([]),
      [`POST ${BASE}/discoveries/tries`]: { tries: 254 },
      [`POST ${BASE}/discoveries`]: job('running', { kind: 'discover' }),
    })
    const { wrapper } = await shown(DiscoverPage)
    await asLead()
    const range = wrapper
      .findAll('input')
      .find((one) => one.element.closest('.v-input')?.textContent?.includes('Scan range'))
    await range?.setValue('10.0.0.0/24')
    await wrapper.find('form').trigger('submit')
    await settled()
    expect(served.asked.map(({ path }) => path)).to.include(`${BASE}/discoveries/tries`)
    expect(served.asked.filter(({ method }) => method === 'POST')).to.have.length(1)
    expect(wrapper.text()).to.contain('254')
    served.stop()
  })
})

describe('setting up', () => {
  const done = { key: 'file', credentials: 1, devices: 0, schedules: 0, alerts: 0, snapshots: 0, audits: 0 }

  it('opens the first step that is neither done nor put off', async () => {
    const served = serve({ ...beside, [`GET ${BASE}/set-up`]: done })
    const { wrapper } = await shown(SetUpPage)
    await asLead()
    const open = (): string =>
      wrapper
        .findAll('.head')
        .find((one) => one.attributes('aria-expanded') === 'true')
        ?.text() ?? ''
    expect(open()).to.contain('Master key')
    await press(wrapper, 'I have a copy')
    expect(open()).to.contain('First devices')
    await press(wrapper, 'Move down')
    expect(open()).to.contain('First collection')
    served.stop()
  })
})

describe('members', () => {
  const members = [
    { id: 1, name: 'lead', fullName: 'Isolde Wren', role: 'lead' },
    { id: 2, name: 'reader', fullName: 'Casper Dunlin', role: 'reader' },
  ]
  const answers = {
    [`GET ${BASE}/members`]: members,
    'GET /api/session/others': [],
    'GET /api/sessions': [],
    [`GET ${BASE}/activity`]: { entries: [], total: 0, intact: true, firstBreak: null },
  }

  it('are added by name; a name that is not known is said beside the field', async () => {
    const served = serve({ ...answers, [`POST ${BASE}/members`]: new Refusal({ name: 'no account has this name' }) })
    const { wrapper } = await shown(SettingsPage)
    await asLead()
    const forms = wrapper.findAll('form')
    const form = forms.find((one) => one.text().includes('Add member'))
    await form?.find('input').setValue('nobody')
    await form?.trigger('submit')
    await settled()
    expect(served.asked.some(({ method, path }) => method === 'POST' && path === `${BASE}/members`)).to.equal(true)
    expect(form?.find('.v-messages__message').text()).to.equal('no account has this name')
    served.stop()
  })
})

describe('sites', () => {
  const sites = [
    { name: 'shore', title: 'On shore', around: null, devices: 1 },
    { name: 'quay', title: 'Quay', around: 'shore', devices: 3 },
    { name: 'lost', title: 'Lost', around: 'nowhere', devices: 2 },
  ]

  it('are shown in each other, each with the devices of all within', async () => {
    const served = serve({ [`GET ${BASE}/sites`]: sites })
    const { wrapper } = await shown(SitesPanel)
    await asLead()
    const rows = wrapper.findAll('.tree li').map((one) => one.text().replace(/\s+/g, ' '))
    expect(rows).to.deep.equal(['On shore shore 4 devices', 'Quay quay 3 devices', 'Lost lost 2 devices'])
    served.stop()
  })

  it('are added by form, which stays open where that was refused', async () => {
    const served = serve({ [`GET ${BASE}/sites`]: sites })
    const { wrapper } = await shown(SitesPanel)
    await asLead()
    await press(wrapper, 'Add site')
    await wrapper.find('form input').setValue('dock')
    await wrapper.find('form').trigger('submit')
    await settled()
    expect(served.asked.find(({ method }) => method === 'PUT')?.body).to.include({ name: 'dock', title: 'dock' })
    expect(wrapper.find('form').exists()).to.equal(true)
    expect(wrapper.text()).to.contain('nobody answers')
    served.stop()
  })
})

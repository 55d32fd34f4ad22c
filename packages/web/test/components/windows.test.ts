import { expect } from 'chai'
import { Refusal, asLead, component, serve, settled, shown } from './stage.ts'

const BASE = '/api/engagements/0'
const AT = '2026-11-14T22:00:00.000Z'
const moment = (id: number, title: string): object => ({ id, title, takenAt: AT })
const WINDOW = {
  id: 3,
  title: 'Firewall rules',
  reason: '',
  state: 'closed',
  beginsAt: AT,
  endsAt: '2026-11-14T23:00:00.000Z',
  devices: ['core', 'edge'],
  checks: 'upgrade',
  before: moment(1, 'Before'),
  after: moment(2, 'After'),
  problem: '',
  createdBy: 'Isolde Wren',
  createdAt: AT,
  counts: { pass: 0, fail: 1, unknown: 1, pending: 0, unchecked: 0 },
}
const FAILING = {
  check: 'sessions',
  title: 'Sessions are established as before',
  topic: 'routing',
  outcome: 'fail',
  rows: 4,
  failing: [{ key: '10.40.0.1', code: 'changed', before: 'established', after: 'idle', a: [], b: [] }],
  doubt: null,
  error: null,
}
const VIEW = {
  ...WINDOW,
  results: [
    {
      device: 'core',
      standing: 'fail',
      changed: true,
      summary: ['mtu 1500 → 9000'],
      checked: { device: { id: 1, name: 'core' }, results: [FAILING, { ...FAILING, check: 'x', outcome: 'pass' }] },
    },
    { device: 'edge', standing: 'missing', changed: false, summary: [], checked: null },
  ],
  network: null,
  unplanned: [
    {
      device: 'attic',
      standing: 'changed',
      summary: ['+ ip route 0.0.0.0 0.0.0.0 10.40.0.9'],
      authors: [{ by: 'marlow', place: '10.40.0.77', at: AT, source: 'syslog' }],
    },
    { device: 'shed', standing: 'removed', summary: [], authors: [] },
  ],
}

describe('change windows', () => {
  async function page(at = '/e/1/changes/windows'): ReturnType<typeof shown> {
    const made = await shown(await component('changes/WindowsPage.vue'), { at })
    await asLead()
    await settled()
    return made
  }

  it('tell how planned devices came out, and name what changed elsewhere', async () => {
    const served = serve({ [`GET ${BASE}/windows`]: [WINDOW], [`GET ${BASE}/windows/3`]: VIEW })
    const { wrapper } = await page('/e/1/changes/windows?window=3')
    const text = wrapper.text()
    expect(text).to.contain('Devices: 0 pass, 1 fail, 1 unknown')
    expect(text).to.contain('10.40.0.1: changed, established → idle')
    expect(text).to.contain('Checks: 1 pass, 1 fail, 0 not checked')
    expect(text).to.contain('marlow from 10.40.0.77').and.contain('ip route 0.0.0.0')
    expect(text).to.contain('not captured after')
    served.stop()
    wrapper.unmount()
  })

  it('move on by the steps that their state allows', async () => {
    const state = { now: 'planned' }
    const served = serve({
      [`GET ${BASE}/windows`]: () => [{ ...WINDOW, state: state.now, counts: null }],
      [`GET ${BASE}/windows/3`]: () => ({ ...VIEW, state: state.now, counts: null, results: [], unplanned: [] }),
      [`POST ${BASE}/windows/3/step`]: () => ({ ...WINDOW, state: 'before' }),
    })
    const { wrapper } = await page('/e/1/changes/windows?window=3')
    const titles = wrapper.findAll('.detail-head button').map((one) => one.text())
    expect(titles).to.deep.equal(['Cancel window', 'Begin window'])
    await wrapper.findAll('.detail-head button')[1]?.trigger('click')
    await settled()
    expect(served.asked.find(({ method }) => method === 'POST')?.body).to.deep.equal({ do: 'begin' })
    served.stop()
    wrapper.unmount()
  })

  it('are planned with devices and times', async () => {
    const served = serve({
      [`GET ${BASE}/windows`]: [],
      [`GET ${BASE}/checks`]: { checks: [], sets: [] },
      [`POST ${BASE}/windows`]: WINDOW,
    })
    const { wrapper } = await page()
    expect(wrapper.text()).to.contain('No change windows yet')
    await wrapper
      .findAll('button')
      .find((one) => one.text() === 'Plan window')
      ?.trigger('click')
    await settled()
    const save = [...document.querySelectorAll('.v-dialog button')].find(
      (one) => one.textContent?.trim() === 'Plan window',
    ) as HTMLButtonElement
    expect(save.disabled, 'without title and devices').to.equal(true)
    served.stop()
    wrapper.unmount()
  })
})

describe('checks on change', () => {
  it('show what fails first, with both values, and what could not be compared', async () => {
    const served = serve({
      [`GET ${BASE}/checks`]: {
        checks: [],
        sets: [{ id: 'upgrade', title: 'Software upgrade', checks: ['sessions'], shipped: true }],
      },
      [`GET ${BASE}/checks/results`]: {
        absent: [{ name: 'attic', only: 'b' }],
        results: [
          {
            device: { id: 1, name: 'core' },
            results: [
              { ...FAILING, outcome: 'pass', failing: [], title: 'Default route is the same' },
              {
                ...FAILING,
                outcome: 'unknown',
                failing: [],
                title: 'Alarms',
                doubt: { code: 'not-captured', side: 'a' },
              },
              FAILING,
            ],
          },
        ],
      },
    })
    const { wrapper } = await shown(await component('changes/ChecksPage.vue'), { at: '/e/1/changes/checks' })
    await asLead()
    const { useEngagement } = await import('../../src/stores/engagement.ts')
    useEngagement().snapshots = [1, 2].map((id) => ({
      id,
      title: `S${id}`,
      takenAt: `2026-11-0${id}T10:00:00Z`,
      createdAt: AT,
      refused: 0,
      tags: [],
    }))
    await settled()
    const text = wrapper.text()
    expect(text).to.contain('1 fail, 0 error, 1 unknown, 1 pass')
    expect(text.indexOf('Sessions are')).to.be.lessThan(text.indexOf('Alarms'))
    expect(text).to.contain('established → idle').and.contain('The table was not captured. (A)')
    expect(text).to.contain('Not checked, only in B: attic').and.not.contain('Default route is the same')
    served.stop()
  })
})

describe('drift', () => {
  const row = (more: object): object => ({
    device: 1,
    name: 'core',
    site: 'qn',
    kind: 'approved',
    baseline: { id: '1', title: 'Approved state' },
    lines: ['+ ip http server'],
    count: 6,
    authors: [{ by: 'marlow', place: null, at: null, source: 'listing' }],
    explained: null,
    ...more,
  })
  async function page(view: object): Promise<string> {
    const served = serve({ [`GET ${BASE}/drift`]: view })
    const { wrapper } = await shown(await component('changes/DriftPage.vue'), { at: '/e/1/changes/drift' })
    await asLead()
    const { useEngagement } = await import('../../src/stores/engagement.ts')
    useEngagement().snapshots = [{ id: 1, title: 'S', takenAt: AT, createdAt: AT, refused: 0, tags: [] }]
    await settled()
    served.stop()
    return wrapper.text()
  }

  it('names who did it, and what nobody explained', async () => {
    const explained = { kind: 'window', id: 1, title: 'Upgrade', by: 'Isolde Wren' }
    const text = await page({
      rows: [row({}), row({ name: 'edge', device: 2, explained })],
      unapproved: ['attic'],
      unsaved: [],
      undecided: [],
    })
    expect(text).to.contain('+ ip http server').and.contain('marlow').and.contain('and 2 more')
    expect(text).to.contain('unexplained').and.contain('window Upgrade')
    expect(text).to.contain('No approved state: attic')
  })

  it('does not say that there is none where records are incomplete', async () => {
    const text = await page({ rows: [], unapproved: [], unsaved: [], undecided: ['core'] })
    expect(text).to.contain('Undecided, records incomplete or unreadable: core').and.not.contain('No drift')
    expect(await page({ rows: [], unapproved: [], unsaved: [], undecided: [] })).to.contain('No drift')
  })
})

describe('reference configurations', () => {
  const outcome = (named: string, missing = 0): object => ({ outcome: named, missing, extra: 0, undecided: 0 })
  const VIEWED = {
    version: 2,
    references: [{ id: 'ntp', title: 'Clock', feature: 'ntp', dialect: 'indented', note: '', scope: null }],
    features: [{ id: 'ntp', title: 'NTP', dialects: ['indented'] }],
    devices: [
      { device: 1, name: 'core', site: 'qn', groups: ['Cores'], outcomes: [outcome('departs', 2)] },
      { device: 2, name: 'edge', site: 'qn', groups: [], outcomes: [outcome('conforms')] },
      { device: 3, name: 'roof', site: null, groups: [], outcomes: [outcome('outside')] },
    ],
  }
  const ANSWER = {
    outcome: 'departs',
    reason: null,
    lines: [
      { state: 'matching', block: [], text: 'ntp server 10.40.0.11', doubt: null, lines: [] },
      { state: 'missing', block: [], text: 'ntp authenticate', doubt: null, lines: [] },
    ],
    values: [
      { name: 'source', value: ['Vlan99'], from: 'override', override: { title: 'Old switch', by: 'Isolde Wren' } },
    ],
    state: [],
    commands: ['ntp authenticate'],
    rollback: ['no ntp authenticate'],
  }

  it('stand by site or group, and a device shows what it lacks with the commands', async () => {
    const served = serve({ [`GET ${BASE}/references`]: VIEWED, [`GET ${BASE}/references/ntp/devices/1`]: ANSWER })
    const { wrapper, router } = await shown(await component('changes/ReferencesPage.vue'), {
      at: '/e/1/changes/references?by=group',
    })
    await asLead()
    expect(wrapper.text()).to.contain('Cores').and.contain('no group').and.contain('Clock (indented)')
    await router.push('/e/1/changes/references')
    await settled()
    expect(wrapper.text()).to.contain('qn').and.contain('no site')
    await wrapper.find('button.cell').trigger('click')
    await settled()
    await router.push({ query: { ...router.currentRoute.value.query, device: 'core' } })
    await settled()
    const text = wrapper.text()
    expect(text).to.match(/missing\s+ntp authenticate.*matching\s+ntp server/)
    expect(text).to.contain('Commands').and.contain('no ntp authenticate')
    expect(text).to.contain('source is Vlan99: Old switch, by Isolde Wren')
    served.stop()
  })

  it('are derived, with outliers and the values that differ, and saved by one press', async () => {
    const reference = {
      id: 'ntp-indented',
      title: 'NTP',
      feature: 'ntp',
      dialect: 'indented',
      note: '',
      values: [],
      parts: [{ block: [], lines: [{ line: 'ntp server {server}', kind: 'required' }] }],
    }
    const served = serve({
      [`GET ${BASE}/references`]: { ...VIEWED, references: [] },
      [`GET ${BASE}/groups`]: [],
      [`GET ${BASE}/references/derived`]: {
        samples: 9,
        reference,
        values: [
          { name: 'server', line: 'ntp server {server}', values: [{ value: '10.40.0.11', samples: ['core', 'edge'] }] },
        ],
        state: [
          {
            title: 'Clock synchronised',
            that: '(state.ntp.synchronised) == true',
            values: [{ value: 'true', samples: ['core', 'edge'] }],
            unknown: ['shed'],
          },
          { title: 'Stratum', that: null, values: [], unknown: ['core', 'edge', 'shed'] },
        ],
        outliers: [{ name: 'roof', deviations: [{ kind: 'missing', block: [], text: 'ntp authenticate' }] }],
      },
      [`POST ${BASE}/references`]: { version: 1 },
    })
    const { wrapper } = await shown(await component('changes/ReferencesPage.vue'), { at: '/e/1/changes/references' })
    await asLead()
    const { useEngagement } = await import('../../src/stores/engagement.ts')
    useEngagement().snapshots = [{ id: 1, title: 'S', takenAt: AT, createdAt: AT, refused: 0, tags: [] }]
    await settled()
    const press = async (title: string): Promise<void> => {
      await wrapper
        .findAll('button')
        .filter((one) => one.text() === title)
        .at(-1)
        ?.trigger('click')
      await settled()
    }
    await press('Derive reference')
    expect(wrapper.text()).to.contain('Common lines of 9 devices').and.contain('1 outlier').and.contain('roof')
    const details = wrapper.findAll('details').map((one) => one.text().replace(/\s+/g, ' '))
    expect(details.find((one) => one.startsWith('Clock')))
      .to.contain('Clock synchronised: true')
      .and.contain('shed')
    expect(details.find((one) => one.startsWith('Stratum'))).to.contain('not known of 3 devices')
    await press('Save reference')
    expect(served.asked.find(({ method }) => method === 'POST')?.body).to.deep.include({ id: 'ntp-indented' })
    served.stop()
  })
})

describe('the files of changes', () => {
  it('are edited as text, and a fault of the server is shown with its line', async () => {
    const answers = { wrong: true }
    const served = serve({
      [`GET ${BASE}/change-files/noise`]: { text: 'noise: []', version: 3 },
      [`PUT ${BASE}/change-files/noise`]: () =>
        answers.wrong ? new Refusal({ text: 'noise.yaml, line 1: expected a list' }) : { version: 4 },
    })
    const saved: unknown[] = []
    await shown(await component('changes/ChangeFileDialog.vue'), {
      props: { kind: 'noise', modelValue: true, onSaved: () => saved.push(true) },
    })
    await asLead()
    await settled()
    const dialog = document.querySelector('.v-dialog')
    expect(dialog?.textContent).to.contain('Noise rules as YAML').and.contain('Version 3')
    const save = [...(dialog?.querySelectorAll('button') ?? [])].find((one) => one.textContent?.trim() === 'Save')
    save?.click()
    await settled()
    expect(document.querySelector('.v-dialog')?.textContent).to.contain('The request is not valid')
    expect(saved).to.deep.equal([])
    answers.wrong = false
    save?.click()
    await settled()
    expect(saved).to.deep.equal([true])
    expect(served.asked.filter(({ method }) => method === 'PUT').at(-1)?.body).to.deep.equal({ text: 'noise: []' })
    served.stop()
  })
})

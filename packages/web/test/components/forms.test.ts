import { expect } from 'chai'
import { Refusal, component, serve, settled, shown } from './stage.ts'

const PasswordForm = await component('settings/PasswordForm.vue')
const ConnectionDialog = await component('collect/ConnectionDialog.vue')
const GroupsPage = await component('estate/GroupsPage.vue')
const BenchmarkValues = await component('benchmarks/BenchmarkValues.vue')
const ExpectationForm = await component('traffic/ExpectationForm.vue')
const IntakePanel = await component('snapshots/IntakePanel.vue')
const ModelNamesPanel = await component('estate/ModelNamesPanel.vue')
const RangesPanel = await component('collect/RangesPanel.vue')
const { BLANK } = await import('../../src/traffic/expectation-form.ts')
const { useEngagement } = await import('../../src/stores/engagement.ts')

/** What stands below each field, by its label. */
const saidBelow = (): Record<string, string> =>
  Object.fromEntries(
    [...document.querySelectorAll('.v-input')].flatMap((field) => {
      const label = field.querySelector('label')?.textContent?.trim() ?? ''
      const said = field.querySelector('.v-messages__message')?.textContent?.trim()
      return said ? [[label, said]] : []
    }),
  )

describe('a form whose fields are refused', () => {
  it('says so beside the field: a password that is too short', async () => {
    const served = serve({ 'PUT /api/password': new Refusal({ next: 'must have 15 characters or more' }) })
    const { wrapper } = await shown(PasswordForm)
    for (const input of wrapper.findAll('input')) await input.setValue('short')
    await wrapper.find('form').trigger('submit')
    await settled()
    served.stop()
    expect(Object.values(saidBelow())).to.include('must have 15 characters or more')
    expect(wrapper.emitted('changed')).to.equal(undefined)
  })

  it('beside the field of the device that it was about', async () => {
    const served = serve({
      'PUT /api/engagements/0/connections': new Refusal({ 'devices.0.address': 'is no address' }),
      'GET /api/dialects': [],
    })
    const { wrapper } = await shown(ConnectionDialog, { props: { reach: null, dialects: ['indented'] } })
    document.querySelector('form')?.dispatchEvent(new Event('submit'))
    await settled()
    served.stop()
    expect(served.asked.map(({ method, path }) => `${method} ${path}`)).to.include('PUT /api/engagements/0/connections')
    expect(Object.values(saidBelow())).to.include('is no address')
    expect(wrapper.emitted('done')).to.equal(undefined)
  })
})

describe('a form of the lead', () => {
  /** Shows it to somebody who may do everything. */
  const asLead = async (tested: typeof RangesPanel, props: object = {}) => {
    const { wrapper } = await shown(tested, { props })
    useEngagement().view = { id: 0, role: 'lead' } as never
    await settled()
    return wrapper
  }

  it('names the scan range that is refused', async () => {
    const served = serve({
      'PUT /api/engagements/0/scan-ranges': new Refusal({ 'ranges.1': 'a prefix, such as 10.40.0.0/16' }),
    })
    const wrapper = await asLead(RangesPanel, { ranges: ['10.40.0.0/16'], translations: [] })
    await wrapper.find('input').setValue('10.40.0.0/16, harbour')
    await wrapper.find('form').trigger('submit')
    await settled()
    served.stop()
    expect(Object.values(saidBelow())).to.deep.equal(['harbour: a prefix, such as 10.40.0.0/16'])
  })

  it('says beside a value of a benchmark what is expected of it', async () => {
    const value = (name: string) => ({ name, title: name, type: 'int', unit: null, default: 10, set: null })
    const view = {
      id: 'b',
      profile: 'base',
      profiles: [{ id: 'base', title: 'Base' }],
      values: [value('minutes'), value('hours')],
      overrides: [],
      tailoring: [],
      rules: [],
    }
    const served = serve({
      'PUT /api/engagements/0/benchmarks/b': new Refusal({ 'values.hours': 'expected a whole number' }),
    })
    const wrapper = await asLead(BenchmarkValues, { view })
    await wrapper.find('#value-hours').setValue('many')
    await wrapper.find('form').trigger('submit')
    await settled()
    served.stop()
    expect(wrapper.findAll('.value').map((one) => one.find('.v-messages__message').exists())).to.deep.equal([
      false,
      true,
    ])
    expect(wrapper.emitted('saved')).to.equal(undefined)
  })

  it('does not save an expectation whose id is taken, or is none', async () => {
    const served = serve({})
    const start = { ...BLANK, title: 'T', from: ['a'], to: ['b'], id: 'new' }
    const wrapper = await asLead(ExpectationForm, { start, problem: '', isNew: true, taken: ['old'] })
    const id = wrapper.findAll('.code input').at(-1)
    const save = () => wrapper.find('button[type="submit"]').attributes('disabled')
    expect(save()).to.equal(undefined)
    for (const [text, said] of [
      ['old', 'Another expectation has this id.'],
      ['Two words', 'Use lower-case letters, digits and hyphens.'],
    ] as const) {
      await id?.setValue(text)
      await settled()
      expect(Object.values(saidBelow())).to.include(said)
      expect(save()).to.not.equal(undefined)
    }
    served.stop()
  })

  describe('of imported files', () => {
    const intake = {
      id: 'i',
      title: 'Imported files',
      takenAt: '2026-11-16T10:00:00Z',
      note: '',
      devices: [{ name: 'core-1', dialect: 'indented', records: [] }],
      refused: [],
      sameName: [{ name: 'core-1', paths: ['a/core.txt', 'b/core.txt'] }],
    }
    it('asks for what is before the time that is stated, and freezes when all is decided', async () => {
      const served = serve({
        'GET /api/dialects': [],
        'GET /api/engagements/0/imports/i/carried': ['edge-1', 'core-1-2'],
        'POST /api/engagements/0/snapshots': new Refusal({ title: 'a snapshot has a title' }),
      })
      const wrapper = await asLead(IntakePanel, { intake })
      expect(wrapper.text())
        .to.contain('2 of 2 other devices')
        .and.contain('Decide about the duplicate host names first.')
      const asAnother = wrapper.findAll('.question button').at(-1)
      await asAnother?.trigger('click')
      await settled()
      // The file comes in under the name of a device that is then not carried over.
      expect(wrapper.text()).to.contain('1 of 1 other devices').and.not.contain('Decide about')
      await wrapper.find('form').trigger('submit')
      await settled()
      served.stop()
      expect(Object.values(saidBelow())).to.include('a snapshot has a title')
      expect(served.asked.at(-1)?.body).to.deep.include({
        settled: [{ path: 'b/core.txt', as: 'core-1-2' }],
        without: [],
      })
      expect(wrapper.emitted('frozen')).to.equal(undefined)
    })
    it('says that nothing can be frozen where nothing could be imported', async () => {
      const served = serve({ 'GET /api/dialects': [], 'GET /api/engagements/0/imports/i/carried': [] })
      const wrapper = await asLead(IntakePanel, { intake: { ...intake, devices: [], sameName: [] } })
      expect(wrapper.text()).to.contain('None of the files could be imported.')
      served.stop()
    })
  })

  it('lists object identifiers without a name, and says beside a new one what is wrong', async () => {
    const served = serve({
      'GET /api/engagements/0/model-names': {
        names: [{ objectId: '1.3.6.1.4.1.99999.1.7', name: 'C-68' }],
        unnamed: [{ objectId: '1.3.6.1.4.1.99999.1.8', devices: ['acc-1', 'acc-2'] }],
      },
      'PUT /api/engagements/0/model-names': new Refusal({ 'names.1.objectId': 'an object identifier' }),
    })
    const wrapper = await asLead(ModelNamesPanel)
    expect(wrapper.findAll('tbody tr').map((row) => row.text())).to.have.length(2)
    expect(wrapper.find('tbody').text()).to.contain('no name yet: acc-1, acc-2').and.contain('C-68')
    await wrapper.find('.head button').trigger('click')
    const [objectId, name] = wrapper.findAll('form input')
    await objectId?.setValue('1.3.6.1.4.1.99999.1.7')
    await settled()
    expect(Object.values(saidBelow())).to.deep.equal(['This identifier already has a name.'])
    await objectId?.setValue('C-40')
    await name?.setValue('C-40')
    await wrapper.find('form').trigger('submit')
    await settled()
    served.stop()
    expect(Object.values(saidBelow())).to.deep.equal(['an object identifier'])
    expect(wrapper.text()).to.not.contain('Error.')
    expect(wrapper.emitted('changed')).to.equal(undefined)
  })
})

describe('groups', () => {
  const GROUP = {
    id: 1,
    title: 'Card systems',
    kind: 'filter',
    text: 'device.labels.card',
    counted: true,
    inside: ['core-1'],
    outside: ['edge-1'],
    undecided: [{ device: 'old-1', why: 'no label' }],
  }
  it('show who is in, and who cannot be decided and why', async () => {
    const served = serve({ 'GET /api/engagements/0/groups': [GROUP] })
    const { wrapper } = await shown(GroupsPage)
    useEngagement().view = { id: 7, role: 'lead' } as never
    await settled()
    expect(wrapper.find('tbody tr.row').text()).to.contain('Card systems').and.contain('+ 1 ?')
    await wrapper.find('tbody .as-link').trigger('click')
    expect(wrapper.find('.detail').text()).to.contain('core-1').and.contain('old-1').and.contain('no label')
    served.stop()
  })
})

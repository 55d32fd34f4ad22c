import { expect } from 'chai'
import { Refusal, component, serve, settled, shown } from './stage.ts'

const PasswordForm = await component('settings/PasswordForm.vue')
const ConnectionDialog = await component('collect/ConnectionDialog.vue')
const GroupsPage = await component('estate/GroupsPage.vue')
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

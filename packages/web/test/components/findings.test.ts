import { expect } from 'chai'
import { component, serve, settled, shown, type Served } from './stage.ts'

const FindingForm = await component('verdicts/FindingForm.vue')
const WaiverList = await component('verdicts/WaiverList.vue')
const { useEngagement } = await import('../../src/stores/engagement.ts')

const MEMBERS = [
  { id: 1, name: 'isolde', fullName: 'Isolde Wren', role: 'lead' },
  { id: 2, name: 'orla', fullName: 'Orla Finch', role: 'engineer' },
  { id: 3, name: 'bram', fullName: 'Bram Teasel', role: 'reader' },
]

describe('the form of a finding', () => {
  let served: Served
  beforeEach(() => {
    served = serve({
      'GET /api/engagements/0/members': MEMBERS,
      'PUT /api/engagements/0/audits/4/findings': [{ verdict: 9 }, { verdict: 10 }],
    })
  })
  afterEach(() => served.stop())
  const saved = (): unknown => served.asked.find(({ method }) => method === 'PUT')?.body
  const form = (props: object) => shown(FindingForm, { props: { auditId: 4, ...props } })

  it('changes of many only what is filled in', async () => {
    const { wrapper } = await form({ verdicts: [9, 10], finding: null })
    await wrapper.find('textarea').setValue('Patched in the next window.')
    await wrapper.find('form').trigger('submit')
    await settled()
    expect(saved()).to.deep.equal({ verdicts: [9, 10], comment: 'Patched in the next window.' })
    expect(wrapper.emitted('saved')).to.have.length(1)
  })

  it('of one, clears what is emptied', async () => {
    const finding = { owner: { id: 2, name: 'Orla Finch' }, due: '2026-12-01', comment: 'Asked.', done: null }
    const { wrapper } = await form({ verdicts: [9], finding })
    await wrapper.find('textarea').setValue('')
    await wrapper.find('form').trigger('submit')
    await settled()
    expect(saved()).to.deep.equal({ verdicts: [9], owner: 2, due: '2026-12-01', comment: '' })
  })

  it('shows what was refused, and says nothing of success', async () => {
    served.stop()
    served = serve({ 'GET /api/engagements/0/members': MEMBERS })
    const { wrapper } = await form({ verdicts: [9], finding: null })
    await wrapper.find('form').trigger('submit')
    await settled()
    expect(wrapper.text()).to.contain('nobody answers PUT')
    expect(wrapper.emitted('saved')).to.equal(undefined)
  })
})

describe('the list of waivers', () => {
  const waiver = (id: number, more: object) => ({
    id,
    benchmark: 'network-hardening',
    rule: 'vty-ssh-only',
    device: 'core-1',
    subject: null,
    reason: 'Replaced in spring.',
    owner: 'Isolde Wren',
    expires: '2999-01-31T00:00:00Z',
    endedAt: null,
    ...more,
  })
  const list = async (waivers: readonly object[], role: string) => {
    const served = serve({ 'GET /api/engagements/0/waivers': waivers })
    const { wrapper } = await shown(WaiverList)
    useEngagement().view = { id: 7, role } as never
    await settled()
    served.stop()
    return wrapper
  }

  it('offers to withdraw what stands, and tells what has ended apart', async () => {
    const wrapper = await list(
      [
        waiver(1, {}),
        waiver(2, { device: null }),
        waiver(3, { endedAt: '2026-01-01T00:00:00Z' }),
        waiver(4, { expires: '2020-01-01T00:00:00Z' }),
      ],
      'lead',
    )
    const rows = wrapper.findAll('tbody tr.row')
    expect(rows.map((row) => row.findAll('button').length)).to.deep.equal([1, 1, 0, 0])
    expect(rows.map((row) => row.classes('over'))).to.deep.equal([false, false, true, true])
    expect(rows[1]?.text()).to.contain('every device')
    expect(rows[3]?.text()).to.contain('ended 2020-01-01')
  })

  it('offers nothing to who may not waive', async () => {
    const wrapper = await list([waiver(1, {})], 'reader')
    expect(wrapper.findAll('tbody button')).to.have.length(0)
  })

  it('says that there are none, and how one comes to be', async () => {
    const wrapper = await list([], 'lead')
    expect(wrapper.find('table').exists()).to.equal(false)
    expect(wrapper.text()).to.match(/no waivers/i)
  })
})

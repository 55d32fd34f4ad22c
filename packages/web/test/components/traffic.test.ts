import { expect } from 'chai'
import { component, serve, settled, shown } from './stage.ts'

const AskPage = await component('traffic/AskPage.vue')
const ChangesPage = await component('traffic/ChangesPage.vue')
const ListCompare = await component('traffic/ListCompare.vue')
const OutsidePorts = await component('traffic/OutsidePorts.vue')
const { useEngagement } = await import('../../src/stores/engagement.ts')

const BASE = '/api/engagements/0'
/** Two snapshots, and somebody who may do everything. */
async function begun(): Promise<void> {
  Object.assign(useEngagement(), {
    view: { id: 0, role: 'lead' },
    snapshots: [
      { id: 1, title: 'August' },
      { id: 2, title: 'November' },
    ],
  })
  await settled()
}
const asks = ({ asked }: ReturnType<typeof serve>): string[] => asked.map(({ method, path }) => `${method} ${path}`)
const places = {
  places: ['outside', 'core-1', '10.0.0.0/24'],
  points: ['core-1:Vlan1', 'edge-1:Gi0'],
  outside: ['edge-1:Gi0'],
  declared: false,
  tables: [],
}

describe('asking about traffic', () => {
  const reach = { parts: [], picture: { links: [], ends: [], starts: [] }, unanswered: [] }
  const survey = { place: 'core-1', direction: 'from', rows: [], subnets: [] }

  it('asks nothing before both places or one is given', async () => {
    const served = serve({ [`GET ${BASE}/traffic/places`]: places })
    await shown(AskPage, { at: '/e/0/traffic/ask' })
    await begun()
    expect(asks(served)).to.deep.equal([`GET ${BASE}/traffic/places`])
    served.stop()
  })

  it('asks the question that the address tells: of both places, of one, of a packet', async () => {
    const at = async (query: string): Promise<string[]> => {
      const served = serve({
        [`GET ${BASE}/traffic/places`]: places,
        [`GET ${BASE}/traffic/reach`]: reach,
        [`GET ${BASE}/traffic/survey`]: survey,
      })
      const { wrapper } = await shown(AskPage, { at: `/e/0/traffic/ask?${query}` })
      await begun()
      wrapper.unmount()
      served.stop()
      return asks(served).filter((one) => !one.endsWith('/places'))
    }
    expect(await at('from=core-1&to=outside')).to.include(`GET ${BASE}/traffic/reach`)
    expect(await at('to=outside')).to.deep.equal([`GET ${BASE}/traffic/survey`])
    expect(await at('at=core-1:Vlan1&src=10.0.0.1&dst=10.0.0.2')).to.deep.equal([`GET ${BASE}/traffic/trace`])
    expect(await at('at=core-1:Vlan1&src=10.0.0.1')).to.deep.equal([])
  })

  it('tells what could not be answered', async () => {
    const served = serve({ [`GET ${BASE}/traffic/places`]: places })
    const { wrapper } = await shown(AskPage, { at: '/e/0/traffic/ask?from=core-1&to=outside' })
    await begun()
    expect(wrapper.text()).to.contain('nobody answers GET /api/engagements/0/traffic/reach')
    served.stop()
  })
})

describe('traffic between two snapshots', () => {
  const flow = (more: object) => ({
    from: ['10.0.0.0/24'],
    to: ['10.0.1.0/24'],
    ends: ['core-1'],
    classes: ['tcp'],
    whole: true,
    count: '1000',
    decision: { device: 'core-1', before: null, after: null },
    lines: { before: [], after: [] },
    proven: false,
    example: null,
    ...more,
  })
  const view = (changes: object[]) => ({ added: ['10.9.0.0/24'], gone: [], changes })

  it('puts what came open or was cut before the rest', async () => {
    const served = serve({
      [`GET ${BASE}/traffic/changes`]: view([
        flow({ before: ['undecided'], after: ['arrives'] }),
        flow({ before: ['arrives'], after: ['leaves'] }),
        flow({ before: ['stopped'], after: ['arrives'] }),
      ]),
    })
    const { wrapper } = await shown(ChangesPage, { at: '/e/0/traffic/changes' })
    await begun()
    const labels = wrapper.findAll('article').map((one) => one.attributes('aria-label'))
    expect(labels).to.deep.equal(['stopped to arrives', 'arrives to leaves', 'undecided to arrives'])
    expect(wrapper.text()).to.contain('10.9.0.0/24')
    served.stop()
  })

  it('says so where nothing changed, and where there is nothing to compare with', async () => {
    const served = serve({ [`GET ${BASE}/traffic/changes`]: { added: [], gone: [], changes: [] } })
    const { wrapper } = await shown(ChangesPage, { at: '/e/0/traffic/changes' })
    await begun()
    expect(wrapper.findAll('article')).to.have.length(0)
    expect(wrapper.text()).to.contain('No connection changed')
    useEngagement().snapshots = [{ id: 1, title: 'August' }] as never
    await settled()
    expect(wrapper.text()).to.contain('only one snapshot').and.not.contain('No connection changed')
    served.stop()
  })
})

describe('two access lists', () => {
  const row = (device: string, family = 'ipv4') => ({ device, list: 'X', family, lines: 4 })
  const answers = {
    [`GET ${BASE}/traffic/lists`]: [row('core-1'), row('edge-1'), row('edge-2', 'ipv6')],
    [`GET ${BASE}/traffic/lists/compared`]: {
      onlyFirst: { classes: ['tcp and dst port 22'], whole: true },
      onlySecond: null,
    },
  }

  it('are compared when asked, within one family; another choice takes the answer away', async () => {
    const served = serve(answers)
    const { wrapper } = await shown(ListCompare)
    await begun()
    const [first, second] = wrapper.findAll('select')
    await first?.setValue('core-1|X|ipv4')
    expect(second?.findAll('option').map((one) => one.attributes('value'))).to.deep.equal(['edge-1|X|ipv4'])
    await second?.setValue('edge-1|X|ipv4')
    expect(asks(served)).to.not.include(`GET ${BASE}/traffic/lists/compared`)
    await wrapper.find('form').trigger('submit')
    await settled()
    expect(wrapper.find('.answer').text()).to.contain('tcp and dst port 22')
    await first?.setValue('edge-2|X|ipv6')
    await settled()
    expect(wrapper.find('.answer').exists()).to.equal(false)
    served.stop()
  })

  it('are not offered where there is one', async () => {
    const served = serve({ [`GET ${BASE}/traffic/lists`]: [row('core-1')] })
    const { wrapper } = await shown(ListCompare)
    await begun()
    expect(wrapper.find('form').exists()).to.equal(false)
    served.stop()
  })
})

describe('interfaces that lead outside', () => {
  it('are declared beginning with those inferred; then the list is asked for again', async () => {
    const served = serve({ [`GET ${BASE}/traffic/places`]: places, [`PUT ${BASE}/traffic/outside`]: null })
    const { wrapper } = await shown(OutsidePorts)
    await begun()
    expect(wrapper.find('[data-part="outside"]').text()).to.contain('edge-1:Gi0')
    await wrapper.find('button').trigger('click')
    await wrapper.find('form').trigger('submit')
    await settled()
    const put = served.asked.find(({ method }) => method === 'PUT')
    expect(put?.body).to.deep.equal({ ports: ['edge-1:Gi0'] })
    expect(asks(served).at(-1)).to.equal(`GET ${BASE}/traffic/places`)
    expect(wrapper.emitted('changed')).to.have.length(1)
    expect(wrapper.find('form').exists()).to.equal(false)
    served.stop()
  })

  it('stay open to be corrected where they were refused', async () => {
    const served = serve({ [`GET ${BASE}/traffic/places`]: places })
    const { wrapper } = await shown(OutsidePorts)
    await begun()
    await wrapper.find('button').trigger('click')
    await wrapper.find('form').trigger('submit')
    await settled()
    expect(wrapper.text()).to.contain('nobody answers')
    expect(wrapper.find('form').exists()).to.equal(true)
    expect(wrapper.emitted('changed')).to.equal(undefined)
    served.stop()
  })
})

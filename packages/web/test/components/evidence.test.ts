import { expect } from 'chai'
import { asLead, component, serve, settled, shown } from './stage.ts'

const BASE = '/api/engagements/0'
const AT = '2026-11-16T06:30:00Z'
const pack = (id: number, more: object = {}): object => ({
  id,
  audit: 4,
  snapshot: { id: 1, title: 'November', takenAt: AT },
  masked: true,
  root: '0'.repeat(64),
  files: 91,
  size: 2_714_163,
  notReproduced: 0,
  madeBy: 'Isolde Wren',
  madeAt: AT,
  countersigned: [],
  mayCountersign: false,
  ...more,
})

describe('evidence packs', () => {
  it('show who signed, what they hold, and what rests on masked secrets', async () => {
    const served = serve({
      [`GET ${BASE}/packs`]: {
        key: { public: 'A'.repeat(43), fingerprint: '1bf2 9aee d143' },
        packs: [
          pack(2, { countersigned: [{ by: 'Bram Teasel', at: AT, fingerprint: '' }], notReproduced: 13 }),
          pack(1, { notReproduced: 1, mayCountersign: true }),
        ],
      },
      [`POST ${BASE}/packs/1/countersignature`]: null,
    })
    const { wrapper } = await shown(await component('reports/EvidencePage.vue'), { at: '/e/1/reports/evidence' })
    await asLead()
    await settled()
    const text = wrapper.text().replace(/\s+/g, ' ')
    expect(text).to.contain('1bf2 9aee d143').and.contain('Isolde Wren, Bram Teasel').and.contain('91, 2.7 MB')
    expect(text).to.contain('13 verdicts rest on masked secrets').and.contain('1 verdict rests on masked secrets')
    const buttons = wrapper.findAll('button').filter((one) => one.text() === 'Countersign')
    expect(buttons.map((one) => one.attributes('aria-label'))).to.deep.equal(['Countersign pack 1'])
    await buttons[0]?.trigger('click')
    await settled()
    expect(
      served.asked.some(({ method, path }) => method === 'POST' && path.endsWith('/packs/1/countersignature')),
    ).to.equal(true)
    served.stop()
    wrapper.unmount()
  })

  it('without an audit there is nothing to pack', async () => {
    const served = serve({ [`GET ${BASE}/packs`]: { key: null, packs: [] } })
    const { wrapper } = await shown(await component('reports/EvidencePage.vue'), { at: '/e/1/reports/evidence' })
    await asLead()
    await settled()
    expect(wrapper.text()).to.contain('A pack needs an audit of the selected snapshot.')
    expect(wrapper.text()).not.to.contain('Make evidence pack')
    served.stop()
    wrapper.unmount()
  })
})

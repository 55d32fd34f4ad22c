import { expect } from 'chai'
import { asLead, component, serve, settled, shown } from './stage.ts'

const BASE = '/api/engagements/0'
const reference = {
  ...{ id: 'ntp', title: 'NTP', feature: 'ntp', dialect: 'indented' },
  parts: [{ block: [], lines: [{ line: 'ntp server {server}', kind: 'required' }] }],
}

describe('a reference that is derived', () => {
  it('shows what is in common, who departs from it and how, and becomes the reference when it is saved', async () => {
    const served = serve({
      [`GET ${BASE}/groups`]: [],
      [`GET ${BASE}/references/derived`]: {
        samples: 19,
        reference,
        values: [
          {
            name: 'server',
            line: 'ntp server {server}',
            values: [
              { value: '10.40.0.21', samples: ['quay', 'pier'] },
              { value: '10.43.9.9', samples: ['dock'] },
            ],
          },
        ],
        state: [
          { title: 'NTP synchronised', that: 'yes', values: [{ value: 'yes', samples: ['quay'] }], unknown: ['dock'] },
        ],
        outliers: [{ name: 'dock', deviations: [{ kind: 'missing', block: [], text: 'ntp authenticate' }] }],
      },
      [`POST ${BASE}/references`]: { version: 2 },
    })
    const saves: boolean[] = []
    const save = async (action: () => Promise<unknown>): Promise<boolean> => {
      await action()
      return saves.push(true) > 0
    }
    const { wrapper } = await shown(await component('changes/DerivePanel.vue'), {
      props: { features: [{ id: 'ntp', title: 'NTP', dialects: ['indented'] }], save },
    })
    const { useEngagement } = await import('../../src/stores/engagement.ts')
    const engagement = useEngagement()
    engagement.snapshots = [{ id: 4, title: 'November', takenAt: '2026-11-16T06:30:00Z' }] as never
    await asLead()
    await settled()
    const text = wrapper.text().replace(/\s+/g, ' ')
    expect(text).to.contain('ntp server {server}').and.contain('10.43.9.9').and.contain('NTP synchronised')
    expect(text).to.contain('dock').and.contain('ntp authenticate')
    await wrapper.findAll('button').at(-1)?.trigger('click')
    await settled()
    expect(served.asked.find(({ method }) => method === 'POST')?.body).to.deep.equal(reference)
    expect([saves, wrapper.emitted('saved')?.length]).to.deep.equal([[true], 1])
    served.stop()
    wrapper.unmount()
  })
})

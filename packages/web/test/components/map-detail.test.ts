import { expect } from 'chai'
import { component, shown } from './stage.ts'

const MapDetail = await component('estate/MapDetail.vue')

describe('a device that is chosen on the map', () => {
  const device = {
    id: 1,
    name: 'ship-1',
    site: 'fleet',
    role: 'router',
    down: null,
    takenAt: '2026-11-16T10:00:00Z',
    changedAt: null,
    changed: 'same',
    counts: {},
    failures: {},
    approved: 'none',
    why: '',
    vlans: [],
    subnets: [],
    anyVlan: false,
  }
  const end = (name: string, from: number | null) => ({
    device: name,
    inEstate: true,
    port: 'Tunnel1',
    oper: null,
    at: from === null ? null : { record: 7, from, to: from },
  })
  for (const [standing, words] of [
    ['agreed', 'Line 193 of its neighbour table'],
    ['subnet', 'Line 193 of its configuration'],
  ] as const) {
    it(`names the record that a link of standing “${standing}” is from`, async () => {
      const links = [{ a: end('ship-1', 193), b: end('edge-1', null), standing, note: '' }]
      const { wrapper } = await shown(MapDetail, { props: { name: 'ship-1', device, links, overlay: 'verdicts' } })
      expect(wrapper.text()).to.contain(words)
      expect(wrapper.find('li a').attributes('href')).to.contain('line=193')
    })
  }
})

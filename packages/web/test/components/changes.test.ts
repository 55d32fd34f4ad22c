import { expect } from 'chai'
import { asLead, component, serve, settled, shown } from './stage.ts'

const moment = (id: number, title: string): object => ({ id, title, takenAt: `2026-11-0${id}T10:00:00Z` })
const row = (name: string, more: object = {}): object => ({
  device: name.length,
  name,
  site: 'qn',
  standing: 'changed',
  counts: { lines: 2, meanings: 1, accessLists: 0, state: 0 },
  doubts: 0,
  summary: [`interface of ${name}: mtu 1500 → 9000`],
  authors: [],
  configured: true,
  explained: null,
  findings: { new: 0, resolved: 0 },
  ...more,
})
const VIEW = {
  a: moment(1, 'Before'),
  b: moment(2, 'After'),
  audited: true,
  devices: [
    row('approved', { explained: { kind: 'approval', id: 1, title: 'Ticket 4711', by: 'Isolde Wren' } }),
    row('loud', {
      authors: [{ by: 'marlow', place: '10.40.0.9', at: null, source: 'syslog' }],
      findings: { new: 3, resolved: 1 },
    }),
    row('quiet', {
      standing: 'same',
      configured: false,
      summary: [],
      counts: { lines: 0, meanings: 0, accessLists: 0, state: 0 },
    }),
  ],
}

describe('changes', () => {
  async function page(): Promise<Awaited<ReturnType<typeof shown>>['wrapper']> {
    const { wrapper } = await shown(await component('changes/ChangesPage.vue'), { at: '/e/1/changes' })
    await asLead()
    const { useEngagement } = await import('../../src/stores/engagement.ts')
    useEngagement().snapshots = [1, 2].map((id) => ({
      id,
      title: id === 1 ? 'Before' : 'After',
      takenAt: `2026-11-0${id}T10:00:00Z`,
      createdAt: `2026-11-0${id}T10:00:00Z`,
      refused: 0,
      tags: [],
    }))
    await settled()
    return wrapper
  }

  it('what nobody explained comes first; devices without a change wait', async () => {
    const served = serve({ 'GET /api/engagements/0/changes': VIEW })
    const wrapper = await page()
    const text = wrapper.text()
    expect(text.indexOf('loud')).to.be.lessThan(text.indexOf('approved'))
    expect(text).to.contain('2 of 3 devices changed').and.contain('1 unexplained').and.contain('marlow from 10.40.0.9')
    expect(text).to.contain('approved: Ticket 4711').and.contain('3 new, 1 resolved')
    expect(text).not.to.contain('interface of quiet')
    served.stop()
  })

  it('a kind of change leaves only its devices', async () => {
    const served = serve({ 'GET /api/engagements/0/changes': VIEW })
    const wrapper = await page()
    const button = wrapper.findAll('button.kind').find((one) => one.text().startsWith('Unexplained'))
    await button?.trigger('click')
    await settled()
    expect(wrapper.text()).to.contain('interface of loud').and.not.contain('interface of approved')
    served.stop()
  })
})

describe('changes of a device', () => {
  it('says what it means, what was not compared, and opens lines', async () => {
    const side = (id: number, title: string): object => ({
      snapshot: moment(id, title),
      device: { id: 1, name: 'core' },
      listing: 'config',
      record: id,
    })
    const served = serve({
      'GET /api/engagements/0/changes/sides': {
        a: side(1, 'Before'),
        b: side(2, 'After'),
        records: [],
        model: [
          {
            change: 'changed',
            subject: ['interface Vlan30'],
            field: 'mtu',
            before: '1500',
            after: '9000',
            a: [],
            b: [],
          },
          { change: 'added', subject: ['user heron'], field: '', before: null, after: 'privilege 15', a: [], b: [] },
        ],
        accessLists: [
          {
            list: 'CARDS',
            family: 'ipv4',
            interfaces: ['Vlan30 in'],
            permits: { classes: ['tcp and dst port 8080'], whole: true },
            denies: null,
            undecided: null,
            tooComplex: false,
            a: [],
            b: [],
          },
        ],
        state: [{ table: 'routes', title: 'route', key: '10.40.0.0/16', change: 'vanished', fields: [], a: [], b: [] }],
        doubts: [{ code: 'not-captured', side: 'a', part: 'bgp', lines: [], reason: null }],
        rates: {
          seconds: null,
          rates: [],
          sensors: [
            { kind: 'temperature', name: 'inlet', before: '41 C', after: '58.5 C', difference: 17.5, ok: false },
          ],
        },
        authors: [{ by: null, place: null, at: null, source: 'listing' }],
        explained: null,
        findings: [],
      },
      'GET /api/engagements/0/changes/sides/texts': { a: 'mtu 1500', b: 'mtu 9000' },
      'GET /api/engagements/0/traffic/changes': { changes: [], added: [], gone: [] },
      'GET /api/engagements/0/devices': { snapshot: null, audit: null, devices: [] },
    })
    const { wrapper } = await shown(await component('changes/DeviceChangesPage.vue'), {
      at: '/e/1/changes/device?device=core',
      route: '/e/:engagement/changes/device',
    })
    await asLead()
    const { useEngagement } = await import('../../src/stores/engagement.ts')
    useEngagement().snapshots = [1, 2].map((id) => ({
      id,
      title: 'S',
      takenAt: `2026-11-0${id}T10:00:00Z`,
      createdAt: '',
      refused: 0,
      tags: [],
    }))
    await settled()
    const text = wrapper.text()
    expect(text).to.contain('interface Vlan30, mtu').and.contain('1500 → 9000')
    expect(text).to.contain('user heron').and.contain('added (privilege 15)')
    expect(text).to.contain('now also permits').and.contain('port 8080')
    expect(text).to.contain('10.40.0.0/16').and.contain('vanished')
    expect(text).to.contain('A:').and.contain('Not captured: bgp')
    expect(text).to.contain('unknown author').and.contain('unexplained')
    expect(text).to.contain('temperature inlet').and.contain('+17.5').and.contain('not ok')
    served.stop()
  })
})

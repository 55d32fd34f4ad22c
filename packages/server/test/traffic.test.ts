import { expect } from 'chai'
import { TrafficOutcomes } from '../src/traffic/entity.ts'
import { makeWorld, type Client, type World } from './world.ts'

const FILES = (list: string): Record<string, string> => ({
  'devices/core/config.txt':
    'hostname core\nsnmp-server community sparrowhawk RO\ninterface lan\n ip address 10.1.0.1 255.255.255.0\ninterface pair\n ip address 10.9.0.1 255.255.255.252\nip route 10.2.0.0 255.255.255.0 10.9.0.2\nend\n',
  'devices/core/device.yaml': 'site: ops\n',
  'devices/far/config.txt': `hostname far\ninterface pair\n ip address 10.9.0.2 255.255.255.252\n ip access-group IN in\ninterface lan\n ip address 10.2.0.1 255.255.255.0\nip access-list extended IN\n${list}end\n`,
  'expectations.yaml':
    'expectations:\n  - { id: web, title: The web, from: 10.1.0.0/24, to: 10.2.0.0/24, only: tcp dst port 443, must: arrive, severity: high, references: [pci-dss-4.0.1:1.3.1] }\n  - { id: mistaken, title: Mistaken, from: 10.1.0.0/24, to: 10.2.0.0/24, only: udp, must: arrive }\n',
  'links.yaml': 'links:\n  - between: [core]\n',
})

describe('traffic', () => {
  let world: World
  let lead: Client
  let first: number
  let second: number
  const base = (): string => `/engagements/${world.engagement}/traffic`
  const asked = async (path: string) => {
    for (;;) {
      const answer = await lead.get(`${base()}${path}`)
      if (answer.status !== 202) return answer
      expect(answer.json.reading.total).to.be.greaterThan(0)
    }
  }
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    first = (await lead.freeze(world.engagement, FILES(' permit tcp any any eq 443\n'))).json.id
    second = (await lead.freeze(world.engagement, FILES(' deny tcp any any eq 443\n'))).json.id
  })
  after(() => world.end())

  it('answers what a snapshot states is expected, since when, and whether it ever held', async () => {
    const { expectations } = (await asked('')).json
    expect(
      expectations.map(({ id, outcome, everHeld, since }: Record<string, unknown>) => [
        id,
        outcome,
        everHeld,
        (since as { snapshot: number }).snapshot,
      ]),
    ).to.deep.equal([
      ['web', 'violated', true, second],
      ['mistaken', 'violated', false, first],
    ])
    const [web] = expectations
    expect(web).to.include({ must: 'must arrive', severity: 'high' })
    expect(web.of.classes[0]).to.contain('dst port 443')
    expect(web.example.trace.paths[0]).to.include({ fate: 'stopped', device: 'far' })
    const record = await lead.get(`/engagements/${world.engagement}/records/${web.exhibits[0].record}`)
    expect(JSON.stringify(record.json)).to.contain('deny tcp any any eq 443')
    expect(
      (await asked(`?snapshot=${first}`)).json.expectations.map(({ outcome }: { outcome: string }) => outcome),
    ).to.deep.equal(['met', 'violated'])
  })

  it('refuses a file that is not as it should be, with the reason, and keeps the rest', async () => {
    const { refused } = (await lead.get(`/engagements/${world.engagement}/snapshots/${second}`)).json
    expect(refused).to.have.length(1)
    expect(refused[0].path).to.equal('links.yaml')
    const wrong = await lead.put(`${base()}/expectations`, {
      text: 'expectations:\n  - { id: A, title: x, from: a, to: b, must: arrive }\n',
    })
    expect(wrong.status).to.equal(422)
    expect(wrong.json.error).to.match(/expectations\.yaml: .*lower-case/)
    expect((await asked('')).json.expectations).to.have.length(2)
  })

  it('takes the ports that lead outside from the page, beside the links that are stated', async () => {
    const places = async () => (await asked('/places')).json
    const before = await places()
    expect(before).to.include({ declared: false })
    const kept = '# stated by hand\nlinks:\n  - between: [core:pair, far:pair]\n'
    expect((await lead.put(`${base()}/links`, { text: kept })).status).to.equal(204)
    expect((await lead.put(`${base()}/outside`, { ports: ['far lan'] })).json.error).to.contain('expected DEVICE:PORT')
    expect((await lead.put(`${base()}/outside`, { ports: ['far:lan'] })).status).to.equal(204)
    expect(await places())
      .to.include({ declared: true })
      .and.deep.include({ outside: ['far:lan'] })
    expect((await asked('')).json.links, 'the rest stays as it was written')
      .to.contain('# stated by hand')
      .and.contain('core:pair, far:pair')
    const reader = await world.client('reader')
    expect((await reader.put(`${base()}/outside`, { ports: [] })).status).to.equal(403)
    expect((await lead.put(`${base()}/outside`, { ports: [] })).status).to.equal(204)
    expect(await places()).to.deep.include({ declared: false, outside: before.outside })
  })

  it('names addresses by the configurations, and ports by the registry', async () => {
    const { hosts, ports } = (await asked('/names')).json
    expect(hosts).to.include({ '10.1.0.1': 'core lan', '10.2.0.1': 'far lan' })
    expect(ports).to.include({ 22: 'ssh', 443: 'https' })
  })

  it('tells every fate between two places, one packet with its lines, and what is odd about lists', async () => {
    const { parts } = (await asked(`/reach?from=${encodeURIComponent('core:lan')}&to=10.2.0.0%2F24&only=tcp`)).json
    expect(new Set(parts.map(({ fate }: { fate: string }) => fate))).to.deep.equal(new Set(['stopped']))
    const trace = (await asked('/trace?at=core:lan&src=10.1.0.9&dst=10.2.0.9&proto=tcp&dport=443')).json
    expect(trace.fates).to.deep.equal(['stopped'])
    expect(trace.paths[0].hops.at(-1).decisions[0].exhibits[0].record).to.be.a('number')
    expect((await asked('/filters')).json).to.be.an('array')
    expect((await asked('/places')).json.places).to.include.members(['site:ops', 'core', 'core:lan', 'far:pair'])
  })

  it('gives the picture of where packets go: links with fates and layers, and where they end', async () => {
    const { picture } = (await asked(`/reach?from=${encodeURIComponent('core:lan')}&to=10.2.0.0%2F24&only=tcp`)).json
    expect(picture.links).to.deep.equal([
      { from: { device: 'core', port: 'pair' }, to: { device: 'far', port: 'pair' }, fates: ['stopped'], layers: [] },
    ])
    expect(picture.ends).to.deep.equal([{ device: 'far', fates: ['stopped'] }])
    expect(
      (await asked('/trace?at=core:lan&src=10.1.0.9&dst=10.2.0.9&proto=tcp&dport=443')).json.picture,
    ).to.deep.equal(picture)
  })

  it('tells who reaches a place, and what a place reaches', async () => {
    expect(
      (await asked(`/survey?to=10.2.0.0%2F24&snapshot=${first}`)).json.rows.map(
        ({ place }: { place: string }) => place,
      ),
    ).to.deep.equal(['10.1.0.0/24'])
    expect((await asked(`/survey?from=10.1.0.0%2F24&snapshot=${first}`)).json.rows[0].arrives.classes[0]).to.contain(
      'dst port 443',
    )
    expect((await asked('/survey?from=10.1.0.0%2F24')).json).to.deep.equal({ of: 2, rows: [] })
    expect((await asked('/survey')).status).to.equal(400)
  })

  it('tells which flows have another fate, because of which lines', async () => {
    const { changes, gone, added } = (await asked(`/changes?a=${first}&b=${second}`)).json
    expect([gone, added]).to.deep.equal([[], []])
    expect(changes).to.have.length(1)
    expect(changes[0]).to.deep.include({ before: ['arrives'], after: ['stopped'], from: ['10.1.0.0/24'] })
    expect(changes[0].classes.join()).to.contain('dst port 443')
    for (const [side, text] of [
      ['before', 'permit tcp any any eq 443'],
      ['after', 'deny tcp any any eq 443'],
    ]) {
      const record = await lead.get(
        `/engagements/${world.engagement}/records/${changes[0].lines[side ?? ''][0].record}`,
      )
      expect(record.json.lines[changes[0].lines[side ?? ''][0].from - 1]).to.contain(text)
    }
    expect((await asked(`/changes?a=${second}&b=${second}`)).json.changes).to.deep.equal([])
  })

  it('compares two lists, and finds what does not fit together and which functions do not get through', async () => {
    expect((await asked('/lists')).json).to.deep.equal([{ device: 'far', list: 'IN', family: 'ipv4', lines: 1 }])
    expect((await asked('/lists/compared?a=far%7CIN%7Cipv4&b=far%7CIN%7Cipv4')).json).to.deep.equal({
      onlyFirst: null,
      onlySecond: null,
    })
    expect((await asked('/lists/compared?a=far&b=far')).status).to.equal(400)
    expect((await asked('/findings')).json).to.deep.equal([])
    expect((await asked('/functions')).json).to.deep.equal([])
  })

  it('an expectation that never held is meant when somebody says so', async () => {
    const reader = await world.client('reader')
    expect((await reader.post(`${base()}/expectations/mistaken/confirm`, {})).status).to.equal(403)
    expect((await lead.post(`${base()}/expectations/nothing/confirm`, {})).status).to.equal(404)
    expect((await lead.post(`${base()}/expectations/mistaken/confirm`, {})).status).to.equal(204)
    expect(
      (await asked('')).json.expectations.map(({ id, confirmed }: Record<string, unknown>) => [id, confirmed]),
    ).to.deep.equal([
      ['web', false],
      ['mistaken', true],
    ])
  })

  it('expectations are verdicts in the reports of an audit, and speak to requirements', async () => {
    const { auditId: audit } = await lead.audit(world.engagement, second)
    const document = (await lead.get(`/engagements/${world.engagement}/audits/${audit}/report.json`)).json
    const [web] = document.expected
    expect(web).to.include({ rule: 'web', outcome: 'fail', severity: 'high', branch: 'violated' })
    expect(web.references).to.deep.equal(['pci-dss-4.0.1:1.3.1'])
    expect(web.exhibits.map(({ text }: { text: string }) => text)).to.deep.equal([' deny tcp any any eq 443'])
    const html = (await lead.get(`/engagements/${world.engagement}/audits/${audit}/preview`)).text
    expect(html)
      .to.contain('Expectations')
      .and.contain('From 10.1.0.0/24 to 10.2.0.0/24, tcp dst port 443: must arrive.')
      .and.not.contain('sparrowhawk')
    const { coverage } = (await lead.get(`/engagements/${world.engagement}/benchmarks/network-hardening`)).json
    expect(
      coverage.find(
        ({ framework, requirement }: Record<string, string>) =>
          framework === 'pci-dss-4.0.1' && requirement === '1.3.1',
      ).expectations,
    ).to.deep.equal(['web'])
  })

  it('an expectation is waived as a whole: it stays broken, and views and reports say by whom it is borne', async () => {
    const waive = (body: object) =>
      lead.post(`/engagements/${world.engagement}/waivers`, {
        benchmark: 'expectations',
        rule: 'web',
        devices: null,
        reason: 'Until the proxy is there',
        owner: 'I. Wren',
        expires: '2099-01-01T00:00:00Z',
        ...body,
      })
    expect((await waive({ rule: 'nothing' })).json.error).to.equal('There is no expectation "nothing".')
    expect((await waive({ devices: ['core'] })).json.error).to.equal(
      'An expectation is waived as a whole, not for a device.',
    )
    expect((await waive({})).json.came).to.deep.equal([{ device: null, what: 'waived' }])
    expect(
      (await asked('')).json.expectations.map(({ id, outcome, waived }: Record<string, unknown>) => [
        id,
        outcome,
        waived,
      ]),
    ).to.deep.equal([
      [
        'web',
        'violated',
        { subject: null, reason: 'Until the proxy is there', owner: 'I. Wren', expires: '2099-01-01T00:00:00.000Z' },
      ],
      ['mistaken', 'violated', null],
    ])
    const { auditId: audit } = await lead.audit(world.engagement, second)
    const document = (await lead.get(`/engagements/${world.engagement}/audits/${audit}/report.json`)).json
    expect(
      document.expected.map(({ rule, waived }: { rule: string; waived?: { owner: string }[] }) => [
        rule,
        waived?.[0]?.owner,
      ]),
    ).to.deep.equal([
      ['web', 'I. Wren'],
      ['mistaken', undefined],
    ])
    const [waiver] = (await lead.get(`/engagements/${world.engagement}/waivers`)).json
    await lead.call('DELETE', `/engagements/${world.engagement}/waivers/${waiver.id}`)
    expect((await asked('')).json.expectations.map(({ waived }: Record<string, unknown>) => waived)).to.deep.equal([
      null,
      null,
    ])
  })

  it('says what is wrong with a question', async () => {
    expect((await asked('/reach?from=nobody&to=core')).json.error).to.match(/"nobody" is not a place/)
    expect((await asked('/reach?from=core&to=far&only=tcp%20dst%20prot')).json.error).to.match(/column 9/)
    expect((await asked('/trace?at=core:wan&src=10.1.0.9&dst=10.2.0.9&proto=tcp')).json.error).to.match(
      /core has no interface "wan"/,
    )
    expect((await lead.get(`${base()}/reach?from=core`)).status).to.equal(400)
  })

  it('takes what is stated anew, from who may state it, and answers that', async () => {
    const reader = await world.client('reader')
    const text =
      'expectations:\n  - { id: quiet, title: Quiet, from: 10.1.0.0/24, to: 10.2.0.0/24, only: udp, must: not-arrive }\n'
    expect((await reader.put(`${base()}/expectations`, { text })).status).to.equal(403)
    expect((await lead.put(`${base()}/expectations`, { text })).status).to.equal(204)
    expect(
      (await asked('')).json.expectations.map(({ id, outcome }: Record<string, string>) => [id, outcome]),
    ).to.deep.equal([['quiet', 'met']])
    expect(
      (
        await lead.put(`${base()}/links`, {
          text: 'links:\n  - between: [core:pair, far:pair]\n    protection: { by: link encryptor, attestedBy: I. Wren, on: 2026-11-02 }\n',
        })
      ).status,
    ).to.equal(204)
  })

  it('says since when, though several ask at the same time and the database takes its time', async () => {
    const rows = world.server.services.database.getRepository(TrafficOutcomes)
    const { save } = rows
    const third = (await lead.freeze(world.engagement, FILES(' deny tcp any any eq 443\n'))).json.id
    Object.assign(rows, {
      save: async (...values: Parameters<typeof save>) => (
        await new Promise((resolve) => setTimeout(resolve, 200)),
        save.apply(rows, values)
      ),
    })
    try {
      await lead.put(`${base()}/expectations`, {
        text: 'expectations:\n  - { id: quiet, title: Quiet again, from: 10.1.0.0/24, to: 10.2.0.0/24, only: udp, must: not-arrive }\n',
      })
      const all = await Promise.all([first, second, third].map((id) => asked(`?snapshot=${id}`)))
      // The third holds what the second holds.
      expect(all.map(({ json }) => json.expectations[0].since.snapshot)).to.deep.equal([first, first, first])
    } finally {
      Object.assign(rows, { save })
    }
  })

  it('no secret is in any answer', async () => {
    for (const path of [
      '',
      '/filters',
      '/places',
      '/trace?at=core:lan&src=10.1.0.9&dst=10.2.0.9&proto=tcp&dport=443',
      '/findings',
      '/functions',
      '/lists',
      `/changes?a=${first}&b=${second}`,
    ])
      expect(JSON.stringify((await asked(path)).json)).to.not.contain('sparrowhawk')
  })
})

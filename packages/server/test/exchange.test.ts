import { readOscal } from '@jurybox/core/exchange'
import { expect } from 'chai'
import { makeWorld, type Client, type World } from './world.ts'

const CONFIG = 'hostname quay\nip http server\nline vty 0 4\n transport input telnet\n'

/** Open formats of others, in and out of an engagement. */
const NONE = { count: 0, names: [] }

describe('open formats', function () {
  this.timeout(60_000)
  let world: World
  let [lead, reader] = [] as unknown as [Client, Client]
  let [audit, snapshot] = [0, 0]
  const e = (path: string): string => `/engagements/${world.engagement}${path}`

  before(async () => {
    world = await makeWorld()
    ;[lead, reader] = [await world.client('lead'), await world.client('reader')]
    const frozen = await lead.freeze(world.engagement, { 'quay.cfg': CONFIG })
    snapshot = frozen.json.id
    audit = (await lead.audit(world.engagement, snapshot)).auditId
  })
  after(async () => world.end())

  async function sent(path: string, text: string, client = lead): Promise<{ status: number; json: any; text: string }> {
    const form = new FormData()
    form.set('data', JSON.stringify({ paths: ['file'] }))
    form.append('files', new Blob([text]), 'file')
    return client.call('POST', e(path), form)
  }
  const report = async (form: string): Promise<string> => (await lead.get(e(`/audits/${audit}/report.${form}`))).text
  const benchmark = async (format: string): Promise<string> =>
    (await lead.get(e(`/benchmarks/network-hardening/exchange/${format}`))).text

  it('a benchmark goes out as catalog, profile, component definition and XCCDF', async () => {
    expect(readOscal(await benchmark('oscal-catalog'), 'catalog').groups).to.have.length.above(5)
    expect(readOscal(await benchmark('oscal-profile'), 'profile').imports).to.have.length(1)
    const components = readOscal(await benchmark('oscal-component-definition'), 'component-definition')
    expect(components.components?.[0]?.['control-implementations']).to.have.length.above(3)
    expect(await benchmark('xccdf')).to.contain('<Benchmark xmlns="http://checklists.nist.gov/xccdf/1.2"')
    expect((await lead.get(e('/benchmarks/network-hardening/exchange/rtf'))).status).to.equal(404)
    const catalog = await lead.get(e('/frameworks/pci-dss-4.0.1/catalog.json'))
    expect(readOscal(catalog.text, 'catalog').metadata.title).to.equal('PCI DSS 4.0.1')
    expect((await lead.get(e('/frameworks/weather/catalog.json'))).status).to.equal(404)
  })

  it('a profile fits the benchmark, signed by whoever brings it in; a wrong one changes nothing', async () => {
    const profile = JSON.parse(await benchmark('oscal-profile'))
    profile.profile.modify = {
      'set-parameters': [{ 'param-id': 'network-hardening_value_idle_limit', values: ['300'] }],
      alters: [
        {
          'control-id': 'network-hardening_login-banner',
          adds: [
            {
              props: [
                { name: 'severity', value: 'info' },
                { name: 'reason', value: 'Nobody reads it' },
              ],
            },
          ],
        },
      ],
    }
    expect((await sent('/benchmarks/network-hardening/oscal-profile', '{}', reader)).status).to.equal(403)
    const came = await sent('/benchmarks/network-hardening/oscal-profile', JSON.stringify(profile))
    expect([came.status, came.json]).to.deep.equal([200, { values: 1, tailored: 1, lost: NONE }])
    const { values, tailoring } = (await lead.get(e('/benchmarks/network-hardening'))).json
    expect(values.find(({ name }: { name: string }) => name === 'idle_limit').set).to.equal(300)
    expect(tailoring[0]).to.include({ rule: 'login-banner', severity: 'info', reason: 'Nobody reads it' })
    expect(tailoring[0].by).to.not.equal('')
    profile.profile.modify['set-parameters'][0].values = ['many']
    expect((await sent('/benchmarks/network-hardening/oscal-profile', JSON.stringify(profile))).status).to.equal(422)
    const refused = await sent('/benchmarks/network-hardening/oscal-profile', '{"profile":{}}')
    expect([refused.status, refused.json.error]).to.satisfy(
      ([status, words]: [number, string]) => status === 422 && words.includes('no OSCAL profile: profile.uuid'),
    )
    expect((await lead.get(e('/benchmarks/network-hardening'))).json.tailoring).to.have.length(1)
  })

  it('own controls come in as a catalog, stand beside the frameworks, and an audit can be for them', async () => {
    const catalog = {
      catalog: {
        uuid: 'a2ed6657-e927-468b-95e1-2665a8aea6a2',
        metadata: {
          ...{
            title: 'Harbour controls',
            'last-modified': '2026-11-24T10:00:00Z',
            version: '1',
            'oscal-version': '1.1.2',
          },
          props: [{ name: 'framework', value: 'harbour-1' }],
        },
        controls: [
          {
            id: 'h-1',
            title: 'Clear text logins are off',
            props: [
              { name: 'label', value: '1' },
              { name: 'same-as', value: 'pci-dss-4.0.1:2.2.7', ns: 'https://jurybox.example/ns' },
            ],
            parts: [{ name: 'statement', prose: 'No telnet.' }],
          },
          { id: 'h-2', title: 'Doors are shut', props: [{ name: 'label', value: '2' }] },
        ],
      },
    }
    expect((await sent('/frameworks', JSON.stringify(catalog), reader)).status).to.equal(403)
    const came = await sent('/frameworks', JSON.stringify(catalog))
    expect([came.status, came.json]).to.deep.equal([
      200,
      { id: 'harbour-1', title: 'Harbour controls', requirements: 2, lost: { count: 1, names: ['prose of h-1'] } },
    ])
    const listed = (await lead.get(e('/frameworks'))).json.find(({ id }: { id: string }) => id === 'harbour-1')
    expect(listed).to.include({ own: true, requirements: 2 }).and.to.have.property('rules').above(0)
    const { json: job, status, text } = await lead.post(e('/audits'), { snapshotId: snapshot, framework: 'harbour-1' })
    expect(status, text).to.equal(200)
    await lead.idle(world.engagement)
    const done = (await lead.get(e('/jobs'))).json.find(({ id }: { id: number }) => id === job.id)
    const html = (await lead.get(e(`/audits/${done.params.auditId}/report.html`))).text
    expect(html)
      .to.contain('<h2>Harbour controls</h2>')
      .and.contain('<b>not met</b>')
      .and.contain('<b>not assessed</b>')
    expect((await lead.call('DELETE', e('/frameworks/harbour-1'))).status).to.equal(409)
    expect((await lead.call('DELETE', e('/frameworks/pci-dss-4.0.1'))).status).to.equal(404)
    const shipped = (await lead.get(e('/frameworks/pci-dss-4.0.1/catalog.json'))).text
    expect((await sent('/frameworks', shipped)).status, 'one that ships is not replaced').to.equal(409)
  })

  it('a plan of action brings state, due date and comment back, once', async () => {
    const { 'plan-of-action-and-milestones': plan } = JSON.parse(await report('oscal-poam.json'))
    const [item] = plan['poam-items']
    const risk = plan.risks.find((one: any) => one.uuid === item['related-risks'][0]['risk-uuid'])
    item.remarks = 'Ordered'
    Object.assign(risk, { status: 'closed', deadline: '2026-12-24T23:59:59Z' })
    const stranger = { ...item, uuid: plan.uuid, props: undefined, title: 'Of somebody else' }
    const text = JSON.stringify({
      'plan-of-action-and-milestones': { ...plan, 'poam-items': [...plan['poam-items'], stranger] },
    })
    expect((await sent(`/audits/${audit}/oscal-poam`, text, reader)).status).to.equal(403)
    const came = await sent(`/audits/${audit}/oscal-poam`, text)
    expect(came.json).to.deep.equal({
      changed: 1,
      unchanged: plan['poam-items'].length - 1,
      unknown: NONE,
      lost: { count: 1, names: ['item “Of somebody else”'] },
    })
    const again = JSON.parse(await report('oscal-poam.json'))['plan-of-action-and-milestones']
    const same = again['poam-items'].find((one: any) => one.uuid === item.uuid)
    expect(same.remarks).to.equal('Ordered')
    expect(again.risks.find((one: any) => one.uuid === risk.uuid)).to.include({
      status: 'closed',
      deadline: '2026-12-24T23:59:59Z',
    })
    expect((await sent(`/audits/${audit}/oscal-poam`, text)).json.changed).to.equal(0)
    expect(await report('grc.csv'))
      .to.contain('Remediated, not verified')
      .and.contain('2026-12-24')
  })

  it('results of another tool are held against the verdicts', async () => {
    const own = await report('xccdf.xml')
    const whole = await sent(`/audits/${audit}/other-results`, own)
    expect(whole.json).to.include({ same: own.split('<rule-result ').length - 1 })
    expect(whole.json.differing).to.deep.equal([])
    const other = own
      .replace('<result>fail</result>', '<result>pass</result>')
      .replace(/_rule_[^"]*ntp-servers"/g, '_rule_nobody"')
    const { differing, unknown } = (await sent(`/audits/${audit}/other-results`, other)).json
    expect(differing).to.have.length(1)
    expect(differing[0]).to.include({ device: 'quay', ours: 'fail', theirs: 'pass' })
    expect(unknown.names.every((one: string) => one.includes('nobody'))).to.equal(true)
    const oscal = await report('oscal-results.json')
    const observed = (await sent(`/audits/${audit}/other-results`, oscal)).json
    expect(observed).to.include({ same: whole.json.same })
    expect(observed.differing).to.deep.equal([])
    const turned = JSON.parse(oscal)
    const [one] = turned['assessment-results'].results[0].observations
    const outcome = one.props.find(({ name }: { name: string }) => name === 'outcome')
    const [was, now] = [outcome.value, outcome.value === 'pass' ? 'fail' : 'pass']
    outcome.value = now
    const told = (await sent(`/audits/${audit}/other-results`, JSON.stringify(turned))).json
    expect(told.differing.map((each: any) => [each.ours, each.theirs])).to.deep.equal([[was, now]])
    outcome.value = 'excellent'
    expect((await sent(`/audits/${audit}/other-results`, JSON.stringify(turned))).json.lost).to.deep.equal({
      count: 1,
      names: [`observation ${one.uuid}`],
    })
    expect((await sent(`/audits/${audit}/other-results`, '<a>')).status).to.equal(422)
    expect((await sent(`/audits/${audit}/other-results`, '{}')).json.error).to.match(/no OSCAL assessment-results/)
  })
})

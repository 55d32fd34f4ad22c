import { expect } from 'chai'
import { makeWorld, type Client, type World } from './world.ts'

describe('an audit for a framework', function () {
  this.timeout(60_000)
  const PCI = 'pci-dss-4.0.1'
  let world: World
  let lead: Client
  let base = ''
  let snapshotId = 0
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
    snapshotId = (await lead.freeze(world.engagement, { 'a.cfg': 'hostname a\nip http server\n' })).json.id
  })
  after(() => world.end())

  const run = async (body: Record<string, unknown>): Promise<number> => {
    const started = await lead.post(`${base}/audits`, { snapshotId, ...body })
    expect(started.status, started.json?.error).to.equal(200)
    await lead.idle(world.engagement)
    const jobs = (await lead.get(`${base}/jobs`)).json
    return jobs.find(({ id }: { id: number }) => id === started.json.id).params.auditId
  }

  it('judges the rules that speak to it, and no others', async () => {
    const whole = await run({ choices: [{ benchmark: 'network-hardening' }] })
    const audit = await run({ framework: PCI })
    const verdicts = async (id: number): Promise<any[]> =>
      (await lead.get(`${base}/audits/${id}/verdicts?limit=500`)).json.verdicts
    const [all, some] = [await verdicts(whole), await verdicts(audit)]
    expect(some.length).to.be.above(10).and.below(all.length)
    const outcomes = new Map(all.map(({ rule, outcome }) => [rule, outcome]))
    for (const { rule, outcome } of some) expect(outcome, rule).to.equal(outcomes.get(rule))
    const grid = (await lead.get(`${base}/audits/${audit}/grid`)).json
    expect(
      grid.rules.filter(({ references }: any) => references.some((one: string) => one.startsWith(`${PCI}:`))).length,
    ).to.be.above(10)

    const report = JSON.parse((await lead.get(`${base}/audits/${audit}/report.json`)).text)
    expect(report.framework).to.equal(PCI)
    expect(report.attested.length).to.be.above(0)
    for (const { references } of report.attested)
      expect(references.some((one: string) => one.startsWith(`${PCI}:`))).to.equal(true)
    const html = (await lead.get(`${base}/audits/${audit}/report.html`)).text
    expect(html).to.contain('<section id="assessment"><h2>PCI DSS 4.0.1</h2>').and.contain('<b>Not tested</b>')
    expect((await lead.get(`${base}/audits/${whole}/report.html`)).text).to.not.contain('id="assessment"')
  })

  it('does not stand in the place of an audit of whole benchmarks', async () => {
    const { audits } = (await lead.get(`${base}/chronicle`)).json
    expect(audits.map(({ framework }: any) => framework)).to.deep.equal([null, PCI])
    const devices = (await lead.get(`${base}/devices`)).json.devices
    const whole = audits[0].counts
    expect(devices[0].counts.fail, 'pages show the whole one').to.equal(whole.fail)
    expect((await lead.get(base)).json.waiting.verdicts).to.equal(whole.fail + whole.unknown + whole.error)
  })

  it('lists the frameworks that something speaks to', async () => {
    const frameworks = (await lead.get(`${base}/frameworks`)).json
    const pci = frameworks.find(({ id }: any) => id === PCI)
    expect(pci.rules).to.be.above(10)
    expect(pci.questions).to.be.above(0)
    expect(frameworks.every(({ rules, questions }: any) => rules + questions > 0)).to.equal(true)
  })

  it('refuses an unknown framework, and neither or both of framework and benchmarks', async () => {
    const refused = async (body: Record<string, unknown>): Promise<string> =>
      (await lead.post(`${base}/audits`, { snapshotId, ...body })).json.error
    expect(await refused({ framework: 'no-such' })).to.equal('There is no framework “no-such”.')
    expect(await refused({})).to.equal('Select benchmarks, or a framework.')
    expect(await refused({ framework: PCI, choices: [{ benchmark: 'network-hardening' }] })).to.equal(
      'Select benchmarks, or a framework.',
    )
  })

  it('the report for CMMC Level 2 says what the evidence comes to so far, as a range', async () => {
    const audit = await run({ framework: 'cmmc-2.0' })
    const html = (await lead.get(`${base}/audits/${audit}/report.html`)).text
    expect(html).to.match(/What the network evidence says so far, by [^:]*: between -?\d+ and \d+ of 110\./)
    expect(html).to.contain('No score can be reported before these are met: CA.L2-3.12.4.')
  })
})

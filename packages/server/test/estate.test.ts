import { expect } from 'chai'
import { makeWorld, type Client, type World } from './world.ts'

const config = (name: string, more = ''): string => `hostname ${name}\n${more}line vty 0 4\n transport input ssh\nend\n`
const facts = (more: string): string => `site: qs\nrole: access\nmodel: C-24\nos: OstOS\nversion: '7.4'\n${more}`
const VERSION = (version: string, serial: string): string =>
  `${version}\nVersion ${version}\nModel: C-24\nSerial number: ${serial}\n`

/** Three devices at three sites, with tables of neighbours. */
const FILES: Record<string, string> = {
  'devices/core1/config.txt': config(
    'core1',
    'interface TenGigabitEthernet1/1\n description To the terminal\n ip address 10.40.7.1 255.255.255.252\ninterface Vlan30\n ip address 10.40.30.1 255.255.255.0\nusername marlow privilege 15 secret 5 $1$abcd$0123456789abcdefghijk.\nsnmp-server community sparrowhawk RO\n',
  ),
  'devices/core1/device.yaml': `site: ops\nrole: core\nmodel: C-68\nlabels: { owner: network desk, card: true }\n`,
  'devices/core1/state/neighbours.txt':
    'Device ID           Local Intf     Hold-time  Capability      Port ID\nacc1                Te1/1          110        B,R             Te1/7\n',
  'devices/acc1/config.txt': config(
    'acc1',
    'interface TenGigabitEthernet1/7\n ip address 10.40.7.2 255.255.255.252\ninterface Vlan30\n ip access-group KIOSK-IN in\n',
  ),
  'devices/acc1/device.yaml': facts('labels: { card: true }\n'),
  'devices/acc1/state/neighbours.txt':
    'Device ID           Local Intf     Hold-time  Capability      Port ID\ncore1               Te1/7          110        B,R             Te1/1\n',
  'devices/acc1/state/version.txt': VERSION('7.2', 'S1'),
  'devices/ship1/config.txt': config('ship1', 'interface Tunnel1\n ip address 10.9.0.1 255.255.255.252\n'),
  'devices/ship1/device.yaml': facts('').replace('site: qs', 'site: ves-petrel'),
}

describe('the estate', () => {
  let world: World
  let lead: Client
  let snapshot: number
  const base = (): string => `/engagements/${world.engagement}`
  /** Until the estate is read. */
  const asked = async (path: string, who = lead) => {
    for (;;) {
      const answer = await who.get(`${base()}${path}`)
      if (answer.status !== 202) return answer
      expect(answer.json.reading.total).to.be.greaterThan(0)
    }
  }
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    snapshot = (await lead.freeze(world.engagement, FILES)).json.id
  })
  after(() => world.end())

  describe('labels', () => {
    it('are defined, set in bulk by someone at some time, and refused where they are of another type', async () => {
      const engineer = await world.client('engineer')
      expect(
        (await engineer.put(`${base()}/labels`, { name: 'tier', type: 'choice', choices: ['low', 'high'] })).status,
      ).to.equal(204)
      const set = await engineer.post(`${base()}/labels/set`, {
        label: 'tier',
        value: 'high',
        devices: ['core1', 'acc1', 'nowhere'],
      })
      expect(set.json.came).to.deep.equal([
        { device: 'core1', what: 'set' },
        { device: 'acc1', what: 'set' },
        { device: 'nowhere', what: 'there is no such device' },
      ])
      expect(
        (await engineer.post(`${base()}/labels/set`, { label: 'tier', value: 'high', devices: ['core1'] })).json.came,
      ).to.deep.equal([{ device: 'core1', what: 'no change' }])
      const refused = await engineer.post(`${base()}/labels/set`, { label: 'tier', value: 'huge', devices: ['core1'] })
      expect([refused.status, refused.json.error]).to.deep.equal([
        422,
        '“huge” is not a choice (expected one of low, high).',
      ])
      const { json: devices } = await lead.get(`${base()}/devices`)
      const core = devices.devices.find(({ name }: { name: string }) => name === 'core1')
      expect(core.facts.labels).to.deep.equal({ owner: 'network desk', card: true, tier: 'high' })
      const { json: one } = await lead.get(`${base()}/devices/${core.id}`)
      expect(one.labels.find(({ label }: { label: string }) => label === 'tier')).to.include({
        value: 'high',
        how: 'person',
        by: 'The engineer',
      })
      expect(one.labels.find(({ label }: { label: string }) => label === 'owner')).to.include({
        value: 'network desk',
        how: 'snapshot',
        by: '',
      })
      expect(
        (
          await (
            await world.client('reader')
          ).post(`${base()}/labels/set`, { label: 'tier', value: 'low', devices: ['core1'] })
        ).status,
      ).to.equal(403)
    })

    it('are not defined anew against the values that devices have', async () => {
      const { status, json } = await lead.put(`${base()}/labels`, { name: 'tier', type: 'number' })
      expect([status, json.error]).to.deep.equal([
        422,
        'Devices have values that the label tier does not allow: acc1: “high” (expected a number, such as 12 or 0.5); core1: “high” (expected a number, such as 12 or 0.5).',
      ])
    })

    it('follow facts where a rule sets them, also of what is brought in later, and leave what people said', async () => {
      await lead.put(`${base()}/labels`, { name: 'afloat', type: 'flag', sets: 'device.site.startsWith("ves-")' })
      const preview = (await lead.get(`${base()}/labels/from-facts`)).json
      expect(preview.changes.map(({ device, after }: any) => [device, after])).to.deep.equal([
        ['acc1', false],
        ['core1', false],
        ['ship1', true],
      ])
      await lead.post(`${base()}/labels/set`, { label: 'afloat', value: true, devices: ['core1'] })
      expect((await lead.post(`${base()}/labels/from-facts`)).json.set).to.equal(2)
      await lead.freeze(
        world.engagement,
        { 'devices/ship2/config.txt': config('ship2'), 'devices/ship2/device.yaml': 'site: ves-gannet\n' },
        { title: 'Later', takenAt: '2026-11-03T10:00:00Z' },
      )
      const labels = Object.fromEntries(
        (await lead.get(`${base()}/devices`)).json.devices.map(({ name, facts: said }: any) => [
          name,
          said.labels.afloat,
        ]),
      )
      expect(labels).to.deep.equal({ acc1: false, core1: true, ship1: true, ship2: true })
    })

    it('go out and come in as a list; what is wrong is named by its line', async () => {
      const { text } = await lead.get(`${base()}/devices.csv`)
      expect(text.split('\r\n')[0]).to.equal(
        'device,dialect,site,role,model,os,version,managementAddress,label:afloat,label:card,label:owner,label:tier',
      )
      const list = text
        .replace(/^acc1,.*$/m, 'acc1,indented,qs,distribution,C-24,OstOS,7.4,,no,,,low')
        .replace(/^ship1,.*$/m, 'ship1,,,,,,,,perhaps,,,')
      const preview = (
        await lead.post(`${base()}/devices-list`, { text: list.replace(',label:card,label:owner', ',,'), apply: false })
      ).json
      expect(preview).to.deep.include({
        applied: false,
        labels: [{ device: 'acc1', label: 'tier', before: 'high', after: 'low' }],
        facts: [{ device: 'acc1', fact: 'role', before: 'access', after: 'distribution' }],
      })
      expect(preview.refused).to.deep.equal([
        { line: 4, reason: '“perhaps” is not a flag for afloat (expected yes or no)' },
      ])
      expect((await lead.get(`${base()}/devices`)).json.devices[0].facts.role).to.equal('access')
      expect(
        (await lead.post(`${base()}/devices-list`, { text: 'device,role\nacc1,distribution\n', apply: true })).json
          .applied,
      ).to.equal(true)
      expect((await lead.get(`${base()}/devices`)).json.devices[0].facts.role).to.equal('distribution')
      await lead.post(`${base()}/devices-list`, { text: 'device,role\nacc1,access\n', apply: true })
    })
  })

  describe('sites and groups', () => {
    it('sites are in sites, and in no circle', async () => {
      for (const [name, around] of [
        ['shore', null],
        ['ops', 'shore'],
        ['qs', 'shore'],
        ['fleet', null],
        ['ves-petrel', 'fleet'],
      ])
        expect((await lead.put(`${base()}/sites`, { name, title: `The ${name}`, around })).status).to.equal(204)
      const circle = await lead.put(`${base()}/sites`, { name: 'shore', title: 'Shore', around: 'qs' })
      expect([circle.status, circle.json.error]).to.deep.equal([
        422,
        '“shore” cannot be inside “qs”, because “qs” is inside “shore”.',
      ])
      expect((await lead.get(`${base()}/sites`)).json.find(({ name }: any) => name === 'ves-gannet')).to.deep.equal({
        name: 'ves-gannet',
        title: 'ves-gannet',
        around: null,
        devices: 1,
      })
    })

    it('filters say who is in, who is not, and of whom it cannot be said', async () => {
      const tried = async (kind: string, text: string) =>
        (await asked(`/groups/try?kind=${kind}&text=${encodeURIComponent(text)}`)).json
      expect(await tried('filter', '"shore" in device.sites && device.labels.card')).to.deep.equal({
        inside: ['acc1', 'core1'],
        undecided: [],
        outside: ['ship1', 'ship2'],
      })
      expect(
        (await tried('filter', 'device.labels.owner == "network desk"')).undecided.map(({ device }: any) => device),
      ).to.deep.equal(['acc1', 'ship1', 'ship2'])
      // The device model, and the times of records.
      expect((await tried('filter', 'interfaces.exists(i, i.kind == "tunnel")')).inside).to.deep.equal(['ship1'])
      expect((await tried('filter', 'device.changedDays > 0')).inside).to.deep.equal(['acc1', 'core1', 'ship1'])
      expect((await tried('search', 'access-group inside "interface vlan"')).inside).to.deep.equal(['acc1'])
      const wrong = await lead.get(`${base()}/groups/try?kind=filter&text=${encodeURIComponent('device.site ==')}`)
      expect([wrong.status, wrong.json.error]).to.satisfy(
        ([status, words]: [number, string]) => status === 422 && words.includes('device.site =='),
      )
      expect(
        (await lead.get(`${base()}/groups/try?kind=search&text=${encodeURIComponent('/a(/')}`)).json.error,
      ).to.contain('is not RE2 syntax')
    })

    it('a saved search is a group, and the scope of a rule; an audit follows it', async () => {
      expect(
        (
          await lead.post(`${base()}/groups`, {
            title: 'Kiosk ports',
            kind: 'search',
            text: 'access-group inside "interface vlan"',
            counted: true,
          })
        ).status,
      ).to.equal(200)
      expect((await asked('/groups')).json.map(({ title, inside }: any) => [title, inside])).to.deep.equal([
        ['Kiosk ports', ['acc1']],
      ])
      const text = `id: own-rules\ntitle: Own\nversion: 1.0.0\nstatement: s\nprofiles: [{ id: base, title: All }]\nrules:\n  - id: kiosk\n    title: t\n    statement: s\n    topic: Names\n    severity: low\n    profile: base\n    references: []\n    dialects: [indented]\n    scope: '"Kiosk ports" in device.groups'\n    decide:\n      - { id: found, outcome: fail, note: n }\n`
      const latest = (await lead.get(`${base()}/chronicle`)).json.snapshots.at(-1).id
      const trial = (await lead.post(`${base()}/own-benchmarks/trial`, { text, snapshotId: latest })).json
      const outcomes = Object.fromEntries(trial.rules[0].devices.map(({ device, outcome }: any) => [device, outcome]))
      expect(outcomes).to.deep.equal({
        acc1: 'fail',
        core1: 'notapplicable',
        ship1: 'notapplicable',
        ship2: 'notapplicable',
      })
    })
  })

  describe('approved versions', () => {
    it('are said of models, with their images and reviews; a device is on the list, off it, or has none', async () => {
      const given = {
        models: ['C-24', 'C-24P'],
        version: '7.4',
        image: 'os-7.4.bin',
        source: 'the maker’s portal',
        sha256: 'ab'.repeat(32),
        fits: ['C-24', 'C-24P'],
        reviewedBy: 'A. Marlow',
        reviewedAt: '2026-10-01',
      }
      expect((await lead.post(`${base()}/approvals`, given)).status).to.equal(200)
      const { json } = await asked('/approvals')
      expect(json.versions[0]).to.include({ version: '7.4', setBy: 'The lead', reviewedBy: 'A. Marlow' })
      // What a device prints of its version goes before what a file states of it.
      expect(
        Object.fromEntries(json.devices.map(({ device, version, standing }: any) => [device, [version, standing]])),
      ).to.deep.equal({ acc1: ['7.2', 'off'], core1: [null, 'none'], ship1: ['7.4', 'on'], ship2: [null, 'none'] })
      expect(json.devices[0].images).to.deep.equal([{ image: 'os-7.4.bin', version: '7.4' }])
      expect((await lead.post(`${base()}/approvals`, { ...given, fits: ['C-68'] })).json.error).to.contain(
        'must include the model “C-24”',
      )
    })

    it('an exception lets a device run another one, for a time', async () => {
      expect(
        (
          await lead.post(`${base()}/approval-exceptions`, {
            device: 'acc1',
            version: '7.2',
            reason: 'Its module needs it',
            until: '2020-01-01',
          })
        ).status,
      ).to.equal(422)
      const { json } = await lead.post(`${base()}/approval-exceptions`, {
        device: 'acc1',
        version: '7.2',
        reason: 'Its module needs it',
        until: '2099-01-01',
      })
      expect((await asked('/approvals')).json.devices[0]).to.include({
        standing: 'on',
        why: 'an exception until 2099-01-01: Its module needs it',
      })
      expect((await lead.call('DELETE', `${base()}/approvals/${json.id}`)).status).to.equal(204)
      expect((await asked('/approvals')).json.devices[0].standing).to.equal('off')
    })

    it('rules ask for it', async () => {
      const { auditId } = await lead.audit(
        world.engagement,
        (await lead.get(`${base()}/chronicle`)).json.snapshots.at(-1).id,
      )
      const { json } = await lead.get(`${base()}/audits/${auditId}/verdicts?rule=software-approved&limit=100`)
      expect(Object.fromEntries(json.verdicts.map(({ device, outcome }: any) => [device, outcome]))).to.deep.equal({
        acc1: 'fail',
        core1: 'notchecked',
        ship1: 'pass',
        ship2: 'notchecked',
      })
    })
  })

  describe('search', () => {
    const found = async (q: string, more = '') =>
      Object.fromEntries(
        (await asked(`/search?q=${encodeURIComponent(q)}${more}`)).json.map((part: any) => [part.kind, part]),
      )
    it('finds who owns an address, and which subnets hold it, each with its line', async () => {
      const { address } = await found('10.40.7.1')
      expect(address.hits.map(({ device, title, detail }: any) => [device, title, detail])).to.deep.equal([
        ['core1', 'owns 10.40.7.1', 'TenGigabitEthernet1/1'],
        ['acc1', 'in the subnet of 10.40.7.2/30', 'TenGigabitEthernet1/7'],
      ])
      const { record, from } = address.hits[0].at
      const lines = (await lead.get(`${base()}/records/${record}`)).json.lines.slice(from - 1, address.hits[0].at.to)
      expect(lines).to.deep.equal([' ip address 10.40.7.1 255.255.255.252'])
    })
    it('finds lines by words, by pattern and inside a block, and opens them', async () => {
      const { line } = await found('/^ +ip access-group/ inside interface')
      expect(line).to.deep.include({ total: 1 })
      expect(line.hits[0].title).to.equal('ip access-group KIOSK-IN in')
      expect(line.hits[0].to).to.contain(`record=${line.hits[0].at.record}&line=${line.hits[0].at.from}`)
    })
    it('finds names, labels, users, rules and requirements', async () => {
      expect((await found('network desk'))['device'].hits[0].title).to.equal('core1')
      expect((await found('marlow'))['user'].hits[0].device).to.equal('core1')
      expect((await found('snmp'))['rule'].total).to.be.greaterThan(0)
      expect((await found('8.2.1'))['requirement'].total).to.be.greaterThan(0)
    })
    it('does not find a secret by trying', async () =>
      expect((await asked('/search?q=sparrowhawk')).json).to.deep.equal([]))
    it('as of an earlier snapshot finds what was there then', async () => {
      expect((await found('ship2'))['device']).to.deep.include({ total: 1 })
      expect(await found('ship2', `&snapshot=${snapshot}`)).to.deep.equal({})
    })
  })

  describe('the map and the tables', () => {
    it('links with both ends checked, down devices and sites', async () => {
      const { json } = await asked('/estate/map')
      expect(json.links.map(({ a, b, standing }: any) => [a.device, a.port, standing, b.device, b.port])).to.deep.equal(
        [['acc1', 'TenGigabitEthernet1/7', 'agreed', 'core1', 'TenGigabitEthernet1/1']],
      )
      expect(json.links[0].a.at).to.include({ from: 2, to: 2 })
      expect(json.devices.find(({ name }: any) => name === 'ship2')).to.include({
        changed: 'new',
        site: 'ves-gannet',
        down: null,
      })
      expect(json.devices.find(({ name }: any) => name === 'acc1')).to.include({ changed: 'same', approved: 'off' })
    })
    it('tables whose rows open their lines', async () => {
      const { json } = await asked('/estate/tables/subnets')
      const row = json.rows.find(({ values }: any) => values.prefix === '10.40.7.0/30')
      expect(row.members.map(({ device, what }: any) => [device, what])).to.deep.equal([
        ['acc1', 'TenGigabitEthernet1/7 10.40.7.2'],
        ['core1', 'TenGigabitEthernet1/1 10.40.7.1'],
      ])
      const { record, from } = row.members[0].at
      expect((await lead.get(`${base()}/records/${record}`)).json.lines[from - 1]).to.equal(
        ' ip address 10.40.7.2 255.255.255.252',
      )
      expect(
        (await asked('/estate/tables/versions')).json.rows.map(({ values, members }: any) => [
          values.version,
          values.devices,
          members[0].what,
        ]),
      ).to.deep.include(['7.2', 1, 'C-24, not approved'])
      expect((await lead.get(`${base()}/estate/tables/nothing`)).status).to.equal(404)
    })
  })

  describe('as a whole', () => {
    it('has an overview that counts what the tables hold', async () => {
      const { json: overview } = await asked('/overview')
      const { json: list } = await lead.get(`${base()}/devices`)
      expect(overview).to.include({
        devices: list.devices.length,
        judged: 4,
        unread: list.devices.reduce((sum: number, one: any) => sum + one.unread, 0),
        lines: list.devices.reduce((sum: number, one: any) => sum + one.lines, 0),
      })
      const { json: verdicts } = await lead.get(`${base()}/audits/${overview.auditId}/verdicts?outcome=fail&limit=1`)
      expect(overview.counts.fail).to.equal(verdicts.total)
      expect(overview.changes).to.deep.include({ changed: [], appeared: ['ship2'], gone: [] })
      expect(overview.groups).to.deep.include({
        id: 1,
        title: 'Kiosk ports',
        kind: 'search',
        text: 'access-group inside "interface vlan"',
        devices: 1,
      })
      expect(overview.evidence.reduce((sum: number, { devices }: any) => sum + devices, 0)).to.equal(4)
    })

    it('is not read again after a restart: what was read is kept, sealed', async () => {
      const rows: { body: Buffer; digest_key: string }[] = await world.server.services.database.query(
        'SELECT digest_key, body FROM digests',
      )
      expect(rows.length).to.be.greaterThan(3)
      expect(rows.some(({ body }) => body.includes('hostname'))).to.equal(false)
      world = await world.restart()
      lead = await world.client('lead')
      expect((await asked('/search?q=10.40.7.1')).json[0].hits[0].title).to.equal('owns 10.40.7.1')
      expect((await world.server.services.database.query('SELECT digest_key FROM digests')).length).to.equal(
        rows.length,
      )
    })
  })
})

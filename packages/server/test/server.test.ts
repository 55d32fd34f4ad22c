import { createHash } from 'node:crypto'
import { writeFileSync } from 'node:fs'
import { expect } from 'chai'
import { fittingSchema } from '@jurybox/core/benchmarks'
import { zipSync } from 'fflate'
import { parse } from 'yaml'
import { MAY, ROLES } from '@jurybox/api/roles'
import { Activities } from '../src/activity/entity.ts'
import { Contents, Records } from '../src/snapshots/entity.ts'
import { Jobs } from '../src/jobs/entity.ts'
import { Users } from '../src/auth/entity.ts'
import { ENDPOINTS } from '@jurybox/api'
import { startServer } from '../src/server.ts'
import { Vault } from '../src/vault/vault.ts'
import { CONFIG, Client, PASSWORD, cookieAttributes, makeWorld, type World } from './world.ts'

describe('the server', function () {
  this.timeout(300_000)
  let world: World
  before(async () => (world = await makeWorld()))
  after(async () => world.end())
  const e = (path = ''): string => `/engagements/${world.engagement}${path}`

  describe('signing in', () => {
    it('gives an HttpOnly same-site cookie, and says nothing of which half was wrong', async () => {
      const client = await world.client()
      const right = await client.post('/sign-in', { name: 'lead', password: PASSWORD })
      expect(cookieAttributes(right.headers)).to.include({ httpOnly: true, sameSite: 'strict' })
      const wrong = await Promise.all([
        new Client(world.server.address).post('/sign-in', { name: 'lead', password: 'x' }),
        new Client(world.server.address).post('/sign-in', { name: 'nobody', password: 'x' }),
      ])
      expect(wrong.map((answer) => [answer.status, answer.json.error])).to.deep.equal([
        [401, 'Name or password is wrong.'],
        [401, 'Name or password is wrong.'],
      ])
    })

    it('ends with signing out, on the server too', async () => {
      const client = await world.client('lead')
      const { cookie } = client
      expect((await client.post('/sign-out')).status).to.equal(204)
      client.cookie = cookie
      expect((await client.get('/session')).status).to.equal(401)
    })

    it('stores passwords as scrypt hashes, and tokens as hashes', async () => {
      const user = await world.server.services.database.getRepository(Users).findOneByOrFail({ name: 'lead' })
      expect(user.passwordHash).to.match(/^scrypt\$32768\$8\$1\$/)
      const client = await world.client('lead')
      const rows: { token_hash: string }[] = await world.server.services.database.query(
        'SELECT token_hash FROM sessions',
      )
      expect(rows.some((row) => client.cookie.includes(row.token_hash))).to.equal(false)
    })

    it('refuses a change without the CSRF token', async () => {
      const client = await world.client('lead')
      client.csrf = ''
      expect((await client.post(e('/members'), {})).status).to.equal(403)
      client.csrf = 'x'.repeat(43)
      expect((await client.post('/sign-out')).status).to.equal(403)
    })
  })

  describe('who may do what', () => {
    const concrete = (path: string): string =>
      path
        .replace(':engagement', String(world.engagement))
        .replace(':form', 'json')
        .replace(':benchmark', 'network-hardening')
        .replace(/:\w+/g, '999999')

    for (const route of [...ENDPOINTS.values()].filter(({ access }) => access !== 'everyone')) {
      it(`${route.method.toUpperCase()} ${route.path}: ${route.access}`, async () => {
        const stranger = await world.client()
        expect((await stranger.call(route.method.toUpperCase(), concrete(route.path))).status).to.equal(401)
        if (route.access === 'signed-in' || route.access === 'everyone' || route.access === 'administrator') return
        for (const role of ROLES) {
          const client = await world.client(role)
          if (route.path.endsWith('/events')) {
            // This answer has no end: its beginning is enough.
            const controller = new AbortController()
            const { status } = await fetch(`${client.address}/api${concrete(route.path)}`, {
              headers: { cookie: client.cookie },
              signal: controller.signal,
            })
            controller.abort()
            expect(status, role).to.equal(200)
            continue
          }
          const { status } = await client.call(
            route.method.toUpperCase(),
            concrete(route.path),
            route.method === 'get' || route.method === 'delete' ? undefined : {},
          )
          if (MAY[route.access].includes(role)) expect(status, role).to.not.equal(403).and.not.equal(401)
          else expect(status, role).to.equal(403)
          expect(status, role).to.be.below(500)
        }
      })
    }

    it('an engagement one takes no part in is not there', async () => {
      const client = await world.client('lead')
      const { json } = await client.post('/engagements', { title: 'Mine', client: '' })
      const reader = await world.client('reader')
      expect((await reader.get(`/engagements/${json.id}`)).status).to.equal(404)
      expect((await client.get(`/engagements/${json.id}`)).status).to.equal(200)
    })

    it('nothing of one engagement is reached through another', async () => {
      const lead = await world.client('lead')
      const frozen = await lead.freeze(world.engagement, { 'a.cfg': CONFIG })
      const { json: other } = await lead.post('/engagements', { title: 'Other', client: '' })
      for (const path of [
        `/snapshots/${frozen.json.id}`,
        `/records/${frozen.json.records[0].id}`,
        `/devices/${frozen.json.records[0].deviceId}`,
      ]) {
        expect((await lead.get(e(path))).status, path).to.equal(200)
        expect((await lead.get(`/engagements/${other.id}${path}`)).status, path).to.equal(404)
      }
    })
  })

  describe('the outside', () => {
    it('answers to names of this machine only', async () => {
      const { request } = await import('node:http')
      const status = await new Promise<number>((resolve, reject) => {
        request(`${world.server.address}/api/standing`, { headers: { host: 'evil.example' } }, (response) =>
          resolve(response.statusCode ?? 0),
        )
          .on('error', reject)
          .end()
      })
      expect(status).to.equal(421)
    })

    it('sends a strict content security policy and no marks of its framework', async () => {
      const { headers } = await (await world.client()).get('/standing')
      expect(headers.get('content-security-policy'))
        .to.contain("default-src 'none'")
        .and.contain("script-src 'self'")
        .and.not.contain("script-src 'self' 'unsafe")
      expect(headers.get('x-powered-by')).to.equal(null)
      expect(headers.get('x-content-type-options')).to.equal('nosniff')
    })

    it('keeps an idle connection longer than those before it do: none is closed as it asks', async () => {
      const { headers } = await (await world.client()).get('/standing')
      expect(headers.get('keep-alive')).to.equal('timeout=75')
    })

    it('answers bad input with words, never with a trace', async () => {
      const lead = await world.client('lead')
      const answers = await Promise.all([
        lead.call('POST', e('/audits'), { snapshotId: 'x' }),
        lead.get(e('/audits/1/verdicts?limit=100000')),
        lead.call('PUT', e('/benchmarks/network-hardening'), { profile: 'level-1', values: { idle_limit: 'soon' } }),
        lead.get(e('/search?q=')),
        lead.get('/nowhere'),
        fetch(`${world.server.address}/api/sign-in`, {
          method: 'POST',
          body: '{',
          headers: { 'content-type': 'application/json' },
        }).then(async (r) => ({ status: r.status, json: await r.json() })),
      ])
      for (const { status, json } of answers) {
        expect(status).to.be.within(400, 422)
        expect(json.error)
          .to.be.a('string')
          .and.not.match(/\bat .*\.ts/)
      }
    })

    it('describes itself in OpenAPI', async () => {
      const { json } = await (await world.client('reader')).get('/openapi.json')
      expect(json.openapi).to.equal('3.1.0')
      expect(Object.values(json.paths as Record<string, object>).flatMap((path) => Object.keys(path))).to.have.length(
        ENDPOINTS.size,
      )
    })
  })

  describe('snapshots', () => {
    it('reads before it keeps, asks about equal names, and carries other devices over', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Carry', client: '' })
      const first = await lead.freeze(own.id, { 'a.cfg': CONFIG, 'b.cfg': 'hostname edge\n' })
      expect(first.json.records).to.have.length(2)
      const dropped = await lead.drop(own.id, {
        'new.cfg': 'hostname core\nno ip http server\n',
        'old.cfg': 'hostname core\n',
        'x.png': new Uint8Array([0x89, 0x50, 0x4e, 0x47]),
      })
      expect(dropped.json.sameName).to.deep.equal([{ name: 'core', paths: ['new.cfg', 'old.cfg'] }])
      const carriedAt = async (takenAt: string): Promise<unknown> =>
        (await lead.get(`/engagements/${own.id}/imports/${dropped.json.id}/carried?takenAt=${takenAt}`)).json
      expect(await carriedAt('2026-11-03T10:00:00Z')).to.deep.equal(['edge'])
      const unparsed = await lead.get(`/engagements/${own.id}/imports/${dropped.json.id}/unparsed?path=new.cfg`)
      expect(unparsed.json).to.deep.equal({ total: 0, lines: [] })
      expect((await lead.get(`/engagements/${own.id}/imports/${dropped.json.id}/unparsed?path=x`)).status).to.equal(404)
      const odd = await lead.drop(own.id, {
        'odd.cfg': 'hostname odd\nfrobnicate the widget\nip http server\nwibble secret 0 sparrowhawk\n',
      })
      const lines = (await lead.get(`/engagements/${own.id}/imports/${odd.json.id}/unparsed?path=odd.cfg`)).json.lines
      expect(lines[0]).to.deep.equal({ line: 2, text: 'frobnicate the widget' })
      expect(JSON.stringify(lines)).to.not.contain('sparrowhawk')
      // Before the first snapshot there is nothing to carry over.
      expect(await carriedAt('2026-10-01T10:00:00Z')).to.deep.equal([])
      expect(dropped.json.refused.map((r: { path: string }) => r.path)).to.include('x.png')
      const second = await lead.post(`/engagements/${own.id}/snapshots`, {
        intake: dropped.json.id,
        title: 'Second',
        takenAt: '2026-11-03T10:00:00Z',
        settled: [{ path: 'old.cfg', as: 'core-2' }],
      })
      expect(
        second.json.records.map((r: { device: string; carried: boolean; takenAt: string }) => [
          r.device,
          r.carried,
          r.takenAt.slice(0, 10),
        ]),
      ).to.deep.equal([
        ['core', false, '2026-11-03'],
        ['core-2', false, '2026-11-03'],
        ['edge', true, '2026-11-02'],
      ])
      expect(
        (
          await lead.post(`/engagements/${own.id}/snapshots`, {
            intake: dropped.json.id,
            title: 'Again',
            takenAt: '2026-11-03T10:00:00Z',
          })
        ).status,
      ).to.equal(410)
    })

    it('reads each device in its dialect into a model whose values have lines, and in another where a person names it', async () => {
      const lead = await world.client('lead')
      const own = (await lead.post('/engagements', { title: 'Dialects', client: 'C' })).json
      const frozen = await lead.freeze(own.id, {
        'fw.cfg':
          'set system host-name fw\nset system services telnet\nset snmp community sparrowhawk authorization read-only\n',
        'devices/gate/filters.txt': '*filter\n:INPUT DROP [0:0]\n-A INPUT -p tcp -m tcp --dport 22 -j ACCEPT\nCOMMIT\n',
        'devices/gate/state/routes.json': '[{"dst":"default","gateway":"192.0.2.1","dev":"eth0"}]',
      })
      const id = (name: string): number =>
        frozen.json.records.find((r: { device: string }) => r.device === name).deviceId
      const path = (name: string): string => `/engagements/${own.id}/devices/${id(name)}`
      const model = (await lead.get(`${path('fw')}/model`)).json
      expect([
        model.model.dialect,
        model.model.system.hostname,
        model.model.system.services.telnet.enabled,
      ]).to.deep.equal(['setlines', 'fw', true])
      expect(model.origins['system.services.telnet.enabled']).to.deep.equal({
        kind: 'line',
        record: String(model.record),
        lines: [{ from: 2, to: 2 }],
      })
      expect(JSON.stringify(model)).to.not.contain('sparrowhawk')
      expect(
        (await lead.get(`${path('gate')}/model`)).json.model.accessLists[0].entries[0].destinationPorts,
      ).to.deep.equal([[22, 22]])
      const state = (await lead.get(`${path('gate')}/state`)).json
      expect(state.state.routes[0].nextHops).to.deep.equal([
        { address: '192.0.2.1', interface: 'eth0', discard: false },
      ])
      expect(state.records[0]).to.deep.include({ kind: 'routes', form: 'ip -j route', unread: [] })
      expect((await lead.put(`${path('fw')}/dialect`, { dialect: 'indented' })).json).to.deep.equal({
        dialect: 'indented',
        records: 1,
      })
      expect((await lead.get(`${path('fw')}/model`)).json.model.system.hostname).to.equal(null)
      expect((await lead.put(`${path('fw')}/dialect`, { dialect: 'other' })).status).to.equal(422)
      expect((await lead.put(`${path('fw')}/dialect`, { dialect: 'setlines' })).status).to.equal(200)
    })

    it('refuses a time in the future, an empty drop and a path that leads out', async () => {
      const lead = await world.client('lead')
      expect(
        (await lead.freeze(world.engagement, { 'a.cfg': CONFIG }, { takenAt: '2999-01-01T00:00:00Z' })).status,
      ).to.equal(422)
      expect((await lead.freeze(world.engagement, { 'a.cfg': '' })).status).to.equal(422)
      const { json } = await lead.drop(world.engagement, {
        '../../etc/a.cfg': CONFIG,
        's.zip': zipSync({ '../x.cfg': Buffer.from(CONFIG) }),
      })
      expect(json.devices).to.have.length(0)
      expect(json.refused).to.have.length(2)
    })

    it('refuses an upload beyond the limit before taking it', async () => {
      const lead = await world.client('lead')
      const { request } = await import('node:http')
      const status = await new Promise<number>((resolve, reject) => {
        const sent = request(
          `${world.server.address}/api${e('/imports')}`,
          {
            method: 'POST',
            headers: {
              cookie: lead.cookie,
              'x-csrf-token': lead.csrf,
              'content-type': 'multipart/form-data; boundary=x',
              'content-length': 10_000_000_000,
            },
          },
          (response) => {
            resolve(response.statusCode ?? 0)
            sent.destroy()
          },
        )
        sent.on('error', reject)
        sent.flushHeaders()
      })
      expect(status).to.equal(413)
    })

    it('keeps a content once, sealed, and the bytes as they were', async () => {
      const lead = await world.client('lead')
      const bytes = Buffer.from('hostname latin\ninterface Vlan1\n description F\u00e4hre\n', 'latin1')
      const frozen = await lead.freeze(world.engagement, { 'latin.cfg': new Uint8Array(bytes) })
      await lead.freeze(world.engagement, { 'latin.cfg': new Uint8Array(bytes) })
      const { database, vault } = world.server.services
      const record = await database
        .getRepository(Records)
        .findOneByOrFail({ id: frozen.json.records.find((r: { device: string }) => r.device === 'latin').id })
      const contents = await database.getRepository(Contents).findBy({ sha256: record.sha256 })
      expect(contents).to.have.length(1)
      expect(contents[0]?.body.includes('hostname')).to.equal(false)
      expect(vault.unseal(contents[0]?.body ?? Buffer.alloc(0), record.sha256).equals(bytes)).to.equal(true)
      expect(() => vault.unseal(contents[0]?.body ?? Buffer.alloc(0), 'elsewhere')).to.throw()
      expect(() => new Vault(Buffer.alloc(32)).unseal(contents[0]?.body ?? Buffer.alloc(0), record.sha256)).to.throw()
    })
  })

  describe('audits', () => {
    it('judges, remembers what did not change, and gives the same answer as the headless command', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Audit', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, { 'a.cfg': CONFIG, 'b.cfg': 'hostname edge\nno ip http server\n' })
      const first = await lead.audit(own.id, frozen.json.id)
      expect(first.state, first.message).to.equal('done')
      const second = await lead.audit(own.id, frozen.json.id)
      const view = (await lead.get(`${base}/audits/${second.auditId}`)).json
      expect([view.computed, view.remembered]).to.deep.equal([0, 2])
      await lead.freeze(own.id, { 'b.cfg': 'hostname edge\nip http server\n' }, { takenAt: '2026-11-04T10:00:00Z' })
      // What carries a device over is judged at once.
      await lead.idle(own.id)
      const third = (await lead.get(`${base}/audits/${(await lead.get(`${base}/chronicle`)).json.audits.at(-1).id}`))
        .json
      expect([third.computed, third.remembered]).to.deep.equal([1, 1])
      const again = await lead.freeze(
        own.id,
        { 'a.cfg': CONFIG, 'b.cfg': 'hostname edge\nip http server\n' },
        { takenAt: '2026-11-05T10:00:00Z' },
      )
      const fourth = await lead.audit(own.id, again.json.id)
      const brought = (await lead.get(`${base}/audits/${fourth.auditId}`)).json
      expect([brought.computed, brought.remembered], 'the same contents as other records').to.deep.equal([0, 2])
      const evidence = JSON.parse((await lead.get(`${base}/audits/${fourth.auditId}/report.json`)).text)
      const records = new Set(evidence.records.map((record: { id: string }) => record.id))
      for (const verdict of evidence.verdicts)
        for (const { record } of verdict.exhibits)
          expect(records.has(record), `${verdict.rule} rests on a record of its own snapshot`).to.equal(true)
      const { auditSnapshot, fingerprintWithKey, maskWithKey, readBenchmark, readSnapshot } =
        await import('@jurybox/core')
      const { benchmarkTexts } = await import('@jurybox/content')
      const headless = auditSnapshot(
        readSnapshot([
          { path: 'a.cfg', bytes: Buffer.from(CONFIG) },
          { path: 'b.cfg', bytes: Buffer.from('hostname edge\nno ip http server\n') },
        ]),
        [{ benchmark: readBenchmark(benchmarkTexts()[0]?.text ?? ''), profile: null, values: {} }],
        { build: '', mask: maskWithKey(new Uint8Array(32)), fingerprint: fingerprintWithKey(new Uint8Array(32)) },
      )
      const report = JSON.parse((await lead.get(`${base}/audits/${first.auditId}/report.json`)).text)
      expect(report.counts).to.deep.equal(headless.counts)
      expect(
        report.verdicts.map(
          (v: { device: string; rule: string; outcome: string }) => `${v.device} ${v.rule} ${v.outcome}`,
        ),
      ).to.have.members(headless.verdicts.map((v) => `${v.device} ${v.rule} ${v.outcome}`))
    })

    it('a changed value is judged anew, and a wrong one is refused with its name', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Values', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, { 'a.cfg': 'hostname a\nntp server 10.0.0.1\n' })
      const outcome = async (): Promise<string> =>
        (
          await lead.get(
            `${base}/audits/${(await lead.audit(own.id, frozen.json.id)).auditId}/verdicts?rule=ntp-servers`,
          )
        ).json.verdicts[0].outcome
      expect(await outcome()).to.equal('unknown')
      expect(
        (
          await lead.call('PUT', `${base}/benchmarks/network-hardening`, {
            profile: 'level-1',
            values: { ntp_servers: '10.0.0.1' },
          })
        ).status,
      ).to.equal(204)
      expect(await outcome()).to.equal('pass')
      const refused = await lead.call('PUT', `${base}/benchmarks/network-hardening`, {
        profile: 'level-1',
        values: { bogons: '10.0.0.0/99' },
      })
      expect(refused.json.error).to.contain('bogons')
      expect(refused.json.fields.map(({ field }: { field: string }) => field)).to.deep.equal(['values.bogons'])
    })

    it('puts questions across devices to all of them, and judges again where an answer has changed', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Across', client: '' })
      const base = `/engagements/${own.id}`
      const at = (name: string, address: string): string =>
        `hostname ${name}\ninterface eth0\n ip address ${address} 255.255.255.0\n`
      const frozen = await lead.freeze(own.id, {
        'a.cfg': at('a', '10.0.0.1'),
        'b.cfg': at('b', '10.0.0.2'),
        'c.cfg': at('c', '10.0.0.3'),
      })
      const outcomes = async (snapshot: number): Promise<string[]> =>
        (
          await lead.get(
            `${base}/audits/${(await lead.audit(own.id, snapshot)).auditId}/verdicts?rule=addresses-unique`,
          )
        ).json.verdicts
          .map((v: { device: string; outcome: string }) => `${v.device} ${v.outcome}`)
          .sort()
      expect(await outcomes(frozen.json.id)).to.deep.equal(['a pass', 'b pass', 'c pass'])
      const changed = await lead.freeze(own.id, { 'b.cfg': at('b', '10.0.0.1') }, { takenAt: '2026-11-04T10:00:00Z' })
      await lead.idle(own.id)
      expect(await outcomes(changed.json.id), 'the device that did not change is in conflict now').to.deep.equal([
        'a fail',
        'b fail',
        'c pass',
      ])
      const named: { device: string; times: string }[] = await world.server.services.database.query(
        'SELECT d.name AS device, COUNT(DISTINCT j.judgement_id) AS times FROM audit_judgements j JOIN devices d ON d.id = j.device_id WHERE d.engagement_id = ? GROUP BY d.name ORDER BY d.name',
        [own.id],
      )
      // Two judgements in an audit: of itself, and across devices. Of two audits, b needed both anew, a the second, c
      // none.
      expect(named.map(({ device, times }) => [device, Number(times)])).to.deep.equal([
        ['a', 3],
        ['b', 4],
        ['c', 2],
      ])
      expect(await outcomes(frozen.json.id), 'as it was before, without a computation').to.deep.equal([
        'a pass',
        'b pass',
        'c pass',
      ])
    })

    it('holds values for the devices in a scope, and leaves out what is tailored away with its reason', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Fitting', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, {
        'a.cfg': 'hostname a\nntp server 10.0.0.1\n',
        'b.cfg': 'hostname b\nntp server 10.0.0.1\n',
      })
      const fit = (more: object) =>
        lead.put(`${base}/benchmarks/network-hardening`, {
          profile: 'level-1',
          values: { ntp_servers: '10.0.0.1' },
          ...more,
        })
      expect(
        (await fit({ overrides: [{ scope: 'device.name ==', title: 'Branch', values: {} }] })).status,
        'no expression',
      ).to.equal(422)
      const odd = { scope: 'device.name == "a"', title: 'Branch', values: { idle_limit: 'soon' } }
      expect((await fit({ overrides: [odd] })).json.fields[0].field).to.equal('overrides.0.values.idle_limit')
      expect(
        (await fit({ tailoring: [{ rule: 'no-such-rule', selected: false, reason: 'x' }] })).json.error,
      ).to.contain('no-such-rule')
      expect(
        (
          await fit({
            overrides: [{ scope: 'device.name == "b"', title: 'Branch', values: { ntp_servers: ['10.9.9.9'] } }],
            tailoring: [{ rule: 'http-server-off', selected: false, reason: 'A tool needs it until spring.' }],
          })
        ).status,
      ).to.equal(204)
      const given = fittingSchema.parse(
        parse((await lead.get(`${base}/benchmarks/network-hardening/fitting.yaml`)).text),
      )
      expect(given, 'as a file for headless audits').to.deep.include({
        benchmark: 'network-hardening',
        profile: 'level-1',
      })
      expect([given.overrides[0]?.title, given.tailoring[0]?.rule]).to.deep.equal(['Branch', 'http-server-off'])
      const { auditId } = await lead.audit(own.id, frozen.json.id)
      const verdicts = (await lead.get(`${base}/audits/${auditId}/verdicts?rule=ntp-servers`)).json.verdicts
      expect(verdicts.map((v: { device: string; outcome: string }) => [v.device, v.outcome]).sort()).to.deep.equal([
        ['a', 'pass'],
        ['b', 'fail'],
      ])
      const opened = (
        await lead.get(
          `${base}/audits/${auditId}/verdicts/${verdicts.find((v: { device: string }) => v.device === 'b').id}`,
        )
      ).json
      expect(opened.values.find((v: { name: string }) => v.name === 'ntp_servers')).to.include({
        value: '10.9.9.9',
        from: 'Branch',
      })
      const report = JSON.parse((await lead.get(`${base}/audits/${auditId}/report.json`)).text)
      expect(report.tailored).to.deep.equal([
        {
          benchmark: 'network-hardening',
          rule: 'http-server-off',
          what: 'left out',
          reason: 'A tool needs it until spring.',
          by: 'The lead',
        },
      ])
      expect(report.verdicts.some((v: { rule: string }) => v.rule === 'http-server-off')).to.equal(false)
    })

    it('shows waivers beside an outcome that stays, until they end', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Waivers', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, {
        'a.cfg': 'hostname a\nip http server\n',
        'b.cfg': 'hostname b\nip http server\n',
      })
      const { auditId } = await lead.audit(own.id, frozen.json.id)
      const waiver = {
        benchmark: 'network-hardening',
        rule: 'http-server-off',
        devices: ['a', 'nowhere'],
        reason: 'A tool needs it.',
        owner: 'Head of networks',
        expires: '2099-01-01T00:00:00Z',
      }
      expect((await lead.post(`${base}/waivers`, { ...waiver, expires: '2020-01-01T00:00:00Z' })).status).to.equal(422)
      expect((await lead.post(`${base}/waivers`, { ...waiver, rule: 'no-such-rule' })).status).to.equal(422)
      expect((await lead.post(`${base}/waivers`, waiver)).json.came).to.deep.equal([
        { device: 'a', what: 'waived' },
        { device: 'nowhere', what: 'no-such-device' },
      ])
      expect((await lead.post(`${base}/waivers`, waiver)).json.came[0].what).to.equal('already-waived')
      const rows = async () =>
        (await lead.get(`${base}/audits/${auditId}/verdicts?rule=http-server-off`)).json.verdicts
          .map((v: { device: string; outcome: string; waived: boolean }) => [v.device, v.outcome, v.waived])
          .sort()
      expect(await rows()).to.deep.equal([
        ['a', 'fail', true],
        ['b', 'fail', false],
      ])
      const report = JSON.parse((await lead.get(`${base}/audits/${auditId}/report.json`)).text)
      expect(report.counts.waived).to.equal(1)
      const [standing] = (await lead.get(`${base}/waivers`)).json
      expect((await lead.call('DELETE', `${base}/waivers/${standing.id}`)).status).to.equal(204)
      expect(await rows()).to.deep.equal([
        ['a', 'fail', false],
        ['b', 'fail', false],
      ])
      expect((await lead.get(`${base}/waivers`)).json, 'it stays on record').to.have.length(1)
    })

    it('tells what is new, still open and resolved since the audit before', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Since', client: '' })
      const base = `/engagements/${own.id}`
      const cellsOf = async (snapshot: number) => {
        const grid = (await lead.get(`${base}/audits/${(await lead.audit(own.id, snapshot)).auditId}/grid`)).json
        return {
          before: grid.before?.snapshot ?? null,
          since: Object.fromEntries(
            grid.cells.map((cell: { rule: string; since: string | null }) => [cell.rule, cell.since]),
          ),
        }
      }
      const first = await lead.freeze(
        own.id,
        { 'a.cfg': 'hostname a\nip http server\nno ip bootp server\nno ip source-route\n' },
        { title: 'First' },
      )
      expect(await cellsOf(first.json.id))
        .to.deep.include({ before: null })
        .and.nested.include({ 'since.http-server-off': null })
      const second = await lead.freeze(
        own.id,
        { 'a.cfg': 'hostname a\nno ip http server\nip bootp server\nno ip source-route\n' },
        { takenAt: '2026-11-04T10:00:00Z' },
      )
      const { before, since } = await cellsOf(second.json.id)
      expect(before).to.equal('First')
      expect(since).to.include({
        'http-server-off': 'resolved',
        'bootp-server-off': 'new',
        'source-route-off': null,
        'log-remote': 'open',
      })
      const last = (await lead.get(`${base}/chronicle`)).json.audits.at(-1).id
      const listed = async (kind: string): Promise<string[]> =>
        (await lead.get(`${base}/audits/${last}/verdicts?since=${kind}&limit=500`)).json.verdicts
          .map(({ rule }: { rule: string }) => rule)
          .sort()
      // The list says the same as the grid.
      for (const kind of ['new', 'open', 'resolved'])
        expect(await listed(kind), kind).to.deep.equal(
          Object.entries(since)
            .filter(([, is]) => is === kind)
            .map(([rule]) => rule)
            .sort(),
        )
      const scores = (await lead.get(`${base}/scores`)).json.audits
      expect(scores.map(({ snapshot }: { snapshot: string }) => snapshot)).to.deep.equal(['First', second.json.title])
      const report = JSON.parse((await lead.get(`${base}/audits/${last}/report.json`)).text)
      expect(scores[1].scores, 'as the report says').to.deep.equal(report.scores)
      expect((await lead.get(`${base}/scores`)).json.audits, 'as kept').to.deep.equal(scores)
    })

    it('tells what is to be changed, who did it, and gives it as a change log', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Remediation', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, {
        'a.cfg': 'hostname a\nip http server\nsnmp-server community sparrowhawk RO\n',
        'b.cfg': 'hostname b\nip http server\n',
      })
      const { auditId } = await lead.audit(own.id, frozen.json.id)
      const items = async (query = '') => (await lead.get(`${base}/audits/${auditId}/remediation${query}`)).json
      const http = (await items()).filter(({ rule }: { rule: string }) => rule === 'http-server-off')
      expect(http.map(({ device, there, type, done }: any) => [device, there, type, done])).to.deep.equal([
        ['a', ['2: ip http server'], ['no ip http server'], null],
        ['b', ['2: ip http server'], ['no ip http server'], null],
      ])
      expect((await lead.get(`${base}/audits/${auditId}/verdicts/${http[0].verdict}`)).json.verdict.rule).to.equal(
        'http-server-off',
      )
      const set = async (change: Record<string, unknown>) =>
        (await lead.put(`${base}/audits/${auditId}/findings`, { verdicts: [http[0].verdict], ...change })).json[0]
      expect((await set({ done: true, comment: 'window 7' })).done.by).to.equal('The lead')
      const only = await items(`?devices=${(await lead.get(`${base}/devices`)).json.devices[0].id}`)
      expect(only.every(({ device }: { device: string }) => device === 'a')).to.equal(true)
      expect(only.find(({ rule }: { rule: string }) => rule === 'http-server-off'))
        .to.deep.include({ comment: 'window 7' })
        .and.nested.include({ 'done.by': 'The lead' })
      const log = await lead.get(`${base}/audits/${auditId}/remediation.md`)
      expect(log.text)
        .to.contain('- [x] **')
        .and.contain('Done by The lead')
        .and.contain('no ip http server')
        .and.not.contain('sparrowhawk')
      expect((await lead.get(`${base}/audits/${auditId}/remediation.csv`)).text)
        .to.contain('http-server-off')
        .and.not.contain('sparrowhawk')
      expect((await lead.get(`${base}/audits/${auditId}/remediation.doc`)).status).to.equal(404)
      expect((await set({ done: false })).done).to.equal(null)
      expect(
        (await items()).find(({ rule, device }: any) => rule === 'http-server-off' && device === 'a').done,
      ).to.equal(null)
    })

    it('answers whether requirements had their reviews', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Reviews', client: '' })
      const base = `/engagements/${own.id}`
      const reviews = async () =>
        Object.fromEntries(
          (await lead.get(`${base}/reviews`)).json.map((one: { requirement: string; framework: string }) => [
            `${one.framework}:${one.requirement}`,
            one,
          ]),
        )
      const before = await reviews()
      expect(before['pci-dss-4.0.1:1.2.7']).to.include({
        answer: 'overdue',
        last: null,
        everyDays: 182,
        frameworkTitle: 'PCI DSS 4.0.1',
      })
      const question = (await lead.get(`${base}/attestations`)).json.find(({ references }: { references: string[] }) =>
        references.includes('pci-dss-4.0.1:1.2.7'),
      )
      const answer = { benchmark: question.benchmark, attestation: question.id, outcome: 'fail', note: 'Nobody did.' }
      expect((await lead.post(`${base}/attestations`, answer)).status).to.equal(204)
      expect((await reviews())['pci-dss-4.0.1:1.2.7'], 'an answer that says no').to.include({
        answer: 'overdue',
        last: null,
      })
      expect(
        (
          await lead.post(`${base}/attestations`, {
            benchmark: question.benchmark,
            attestation: question.id,
            outcome: 'pass',
            note: 'All rulesets were gone through.',
          })
        ).status,
      ).to.equal(204)
      expect((await reviews())['pci-dss-4.0.1:1.2.7'])
        .to.include({ answer: 'met' })
        .and.nested.include({ 'last.by': 'answer' })
    })

    it('an audit reviews nothing until a person confirms it', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Confirmed reviews', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, { 'a.cfg': 'hostname a\nip http server\n' })
      const { auditId } = await lead.audit(own.id, frozen.json.id)
      const review = async () =>
        (await lead.get(`${base}/reviews`)).json.find(
          (one: { requirement: string; framework: string }) =>
            one.framework === 'pci-dss-4.0.1' && one.requirement === '1.2.7',
        )
      expect(await review()).to.include({ answer: 'overdue', last: null })
      const confirmation = {
        framework: 'pci-dss-4.0.1',
        requirement: '1.2.7',
        audit: auditId,
        note: 'Gone through with the network desk.',
      }
      expect((await lead.post(`${base}/reviews`, { ...confirmation, requirement: '9.9.9' })).status).to.equal(422)
      expect((await lead.post(`${base}/reviews`, confirmation)).status).to.equal(204)
      expect(await review())
        .to.include({ answer: 'met' })
        .and.nested.include({ 'last.by': 'audit' })
    })

    it('keeps answers of people with name and end, and puts them into the report', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Answers', client: '' })
      const base = `/engagements/${own.id}`
      const answer = {
        benchmark: 'people-and-process',
        attestation: 'changes-approved',
        outcome: 'pass',
        note: 'Seen: the changes of the third quarter.',
      }
      expect((await lead.post(`${base}/attestations`, { ...answer, attestation: 'nothing' })).status).to.equal(422)
      expect((await lead.post(`${base}/attestations`, { ...answer, until: '2020-01-01T00:00:00Z' })).status).to.equal(
        422,
      )
      expect((await lead.post(`${base}/attestations`, answer)).status).to.equal(204)
      // What an answer rests on is kept with it, as it was, for this engagement alone.
      const form = new FormData()
      form.set('data', JSON.stringify({ paths: ['evidence/third quarter.txt'] }))
      form.append('files', new Blob(['approved: 41 of 41\r\n']), 'third quarter.txt')
      const [file] = (await lead.call('POST', `${base}/evidence`, form)).json
      expect(file).to.include({
        name: 'third quarter.txt',
        size: 20,
        sha256: createHash('sha256').update('approved: 41 of 41\r\n').digest('hex'),
      })
      expect(
        (await lead.post(`${base}/attestations`, { ...answer, files: [{ name: 'other', sha256: 'a'.repeat(64) }] }))
          .json.error,
      ).to.contain('was not uploaded')
      expect(
        (await lead.post(`${base}/attestations`, { ...answer, files: [{ name: file.name, sha256: file.sha256 }] }))
          .status,
      ).to.equal(204)
      const taken = await lead.get(`${base}/evidence/${file.sha256}`)
      expect(taken.text).to.equal('approved: 41 of 41\r\n')
      expect(taken.headers.get('content-disposition')).to.contain('attachment').and.contain('third%20quarter.txt')
      expect(
        (
          await lead.get(
            `/engagements/${(await lead.post('/engagements', { title: 'Elsewhere', client: '' })).json.id}/evidence/${file.sha256}`,
          )
        ).status,
      ).to.equal(404)
      const asked = (await lead.get(`${base}/attestations`)).json
      const given = asked.find((one: { id: string }) => one.id === 'changes-approved')
      expect(given.outcome).to.equal('pass')
      expect(given.answer).to.include({ by: 'The lead', note: answer.note })
      expect(asked.filter((one: { outcome: string }) => one.outcome === 'notchecked')).to.have.length(asked.length - 1)
      const frozen = await lead.freeze(own.id, { 'a.cfg': CONFIG })
      const { auditId } = await lead.audit(own.id, frozen.json.id, ['network-hardening', 'people-and-process'])
      const report = JSON.parse((await lead.get(`${base}/audits/${auditId}/report.json`)).text)
      expect(report.attested.find((one: { id: string }) => one.id === 'changes-approved')).to.include({
        outcome: 'pass',
        by: 'The lead',
      })
      expect((await lead.get(`${base}/audits/${auditId}/report.html`)).text)
        .to.contain('Seen: the changes of the third quarter.')
        .and.contain('Score and coverage')
      const formats = (await lead.get('/report-formats')).json.map(({ form }: { form: string }) => form)
      expect(formats.slice(0, 8)).to.deep.equal(['pdf', 'docx', 'xlsx', 'html', 'md', 'csv', 'json', 'sarif'])
      expect(formats.slice(8)).to.deep.equal([
        'oscal-results.json',
        'oscal-plan.json',
        'oscal-poam.json',
        'xccdf.xml',
        'grc.csv',
      ])
      for (const form of formats)
        expect((await lead.get(`${base}/audits/${auditId}/report.${form}`)).status, form).to.equal(200)
      const pdf = await fetch(`${world.server.address}/api${base}/audits/${auditId}/report.pdf`, {
        headers: { cookie: lead.cookie },
      })
      expect(new TextDecoder().decode((await pdf.arrayBuffer()).slice(0, 5))).to.equal('%PDF-')
    })

    it('tries, saves and publishes rules of one’s own, and audits judge by the version that was published', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Own rules', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, {
        'a.cfg': 'hostname a\nip domain name quay.example\nusername ada password 0 sparrowhawk\n',
        'b.cfg': 'hostname b\n',
      })
      const text = (outcome: string, example = 'pass', when = 'ip domain name <name>'): string =>
        `id: own-rules\ntitle: Own\nversion: 1.0.0\nstatement: s\nprofiles: [{ id: base, title: All }]\nrules:\n  - id: domain-named\n    title: t\n    statement: s\n    topic: Names\n    severity: low\n    profile: base\n    references: []\n    dialects: [indented]\n    decide:\n      - { id: named, when: '${when}', outcome: pass, note: n }\n      - { id: silent, outcome: ${outcome}, note: n }\n    examples: [{ name: named, config: "hostname a\\nip domain name x\\n", is: ${example} }]\n`
      const tried = await lead.post(`${base}/own-benchmarks/trial`, { text: text('fail'), snapshotId: frozen.json.id })
      expect(
        tried.json.rules[0].devices.map((one: { device: string; outcome: string }) => [one.device, one.outcome]),
      ).to.deep.equal([
        ['a', 'pass'],
        ['b', 'fail'],
      ])
      expect(tried.json.examples).to.deep.equal([{ rule: 'domain-named', name: 'named', wrong: [] }])
      const secrets = await lead.post(`${base}/own-benchmarks/trial`, {
        text: text('fail', 'pass', 'username <name> password 0 <word>'),
        snapshotId: frozen.json.id,
      })
      expect(secrets.status).to.equal(200)
      expect(secrets.text).to.not.contain('sparrowhawk')
      expect(
        (await lead.post(`${base}/own-benchmarks/trial`, { text: text('perhaps'), snapshotId: null })).json.wrong,
      ).to.contain('line 17')
      const save = (body: string) => lead.post(`${base}/own-benchmarks`, { text: body, why: 'A first go' })
      expect((await save(text('fail', 'fail'))).json.error, 'an example that does not hold').to.contain(
        '"domain-named", example "named"',
      )
      expect((await save(text('fail').replace('id: own-rules', 'id: network-hardening'))).status).to.equal(422)
      expect((await save(text('fail'))).json).to.deep.equal({ benchmark: 'own-rules', number: 1 })
      expect((await save(text('fail'))).json.error).to.contain('No changes since')
      expect((await save(text('unknown'))).json.number).to.equal(2)
      expect(
        (await lead.get(`${base}/benchmarks/own-rules`)).status,
        'not on the shelf before it is published',
      ).to.equal(404)
      expect((await lead.post(`${base}/own-benchmarks/own-rules/1/publish`)).status).to.equal(204)
      const first = await lead.audit(own.id, frozen.json.id, ['own-rules'])
      expect((await lead.post(`${base}/own-benchmarks/own-rules/2/publish`)).status).to.equal(204)
      const second = await lead.audit(own.id, frozen.json.id, ['own-rules'])
      const outcomesOf = async (audit: number): Promise<string[]> =>
        (await lead.get(`${base}/audits/${audit}/verdicts`)).json.verdicts
          .map((v: { device: string; outcome: string }) => `${v.device} ${v.outcome}`)
          .sort()
      expect(await outcomesOf(first.auditId)).to.deep.equal(['a pass', 'b fail'])
      expect(await outcomesOf(second.auditId)).to.deep.equal(['a pass', 'b unknown'])
      const { json: other } = await lead.post('/engagements', { title: 'Elsewhere', client: '' })
      expect(
        (await lead.get(`/engagements/${other.id}/benchmarks/own-rules`)).status,
        'no other engagement sees it',
      ).to.equal(404)
    })

    it('tries rules on some devices, at A beside B, and across devices, with devices that stay read', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Trials', client: '' })
      const base = `/engagements/${own.id}`
      const first = await lead.freeze(own.id, {
        'a.cfg': 'hostname a\nip domain name x.example\n',
        'b.cfg': 'hostname b\n',
        'c.cfg': 'hostname c\nip domain name x.example\n',
      })
      const second = await lead.freeze(
        own.id,
        { 'b.cfg': 'hostname b\nip domain name y.example\n' },
        { takenAt: '2026-11-04T10:00:00Z' },
      )
      const rule = (id: string, when: string): string =>
        `  - { id: ${id}, title: t, statement: s, topic: T, severity: low, profile: base, decide: [{ id: holds, when: ${when}, outcome: pass, note: n }, { id: not, outcome: fail, note: n }], remedy: { edits: [{ add: [ip domain name z.example] }] } }\n`
      const text = `id: own-rules\ntitle: Own\nversion: 1.0.0\nstatement: s\nprofiles: [{ id: base, title: All }]\nrules:\n${rule('named', 'ip domain name *')}${rule('one', '{ same: system.domainName }')}`
      const tried = async (more: object = {}) =>
        (
          await lead.post(`${base}/own-benchmarks/trial`, {
            text,
            snapshotId: second.json.id,
            besideId: first.json.id,
            ...more,
          })
        ).json
      const outcomes = (all: { outcome: string }[]): string[] => all.map(({ outcome }) => outcome)
      const whole = await tried()
      expect(
        whole.rules.map(({ id, devices, beside }: any) => [id, outcomes(devices), outcomes(beside)]),
      ).to.deep.equal([
        ['named', ['pass', 'pass', 'pass'], ['pass', 'fail', 'pass']],
        ['one', ['fail', 'fail', 'fail'], ['fail', 'fail', 'fail']],
      ])
      expect(whole.rules[1].remedies.map(({ device }: { device: string }) => device)).to.deep.equal(['a', 'b', 'c'])
      const [a, , c] = whole.rules[0].devices.map(({ deviceId }: { deviceId: number }) => deviceId)
      const some = await tried({ devices: [a, c], rules: ['one'] })
      expect(
        some.rules.map(({ id, devices }: any) => [id, outcomes(devices)]),
        'only those who were asked are compared',
      ).to.deep.equal([['one', ['pass', 'pass']]])
      const last = whole.rules[0].devices[1].line
      expect((await lead.get(`${base}/records/${last.record}`)).json.lines[last.from - 1]).to.contain('y.example')
    })

    it('cites lines without their secrets, takes what is pasted, and tells versions apart', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Citing', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, {
        'a.cfg':
          'hostname a\nsnmp-server community sparrowhawk RO\nline vty 0 4\n transport input ssh\nip route 10.9.0.0 255.255.0.0 Null0\n',
      })
      const recordId = frozen.json.records[0].id
      const cited = await lead.post(`${base}/own-benchmarks/cited`, { recordId, lines: [2, 4, 3] })
      expect(cited.text).to.not.contain('sparrowhawk')
      expect(cited.json.dialect).to.equal('indented')
      expect(cited.json.lines.map(({ line, blocks }: any) => [line, blocks.length])).to.deep.equal([
        [2, 0],
        [3, 0],
        [4, 1],
      ])
      const pasted = (text: string, line: number | null) =>
        lead.post(`${base}/own-benchmarks/pasted`, {
          text,
          dialect: 'indented',
          like: line === null ? null : { recordId, line },
        })
      expect((await pasted('10.0.0.0/8', 5)).json.condition).to.deep.equal({
        exactly: { of: 'ip route * * Null0', lines: ['ip route 10.0.0.0 255.0.0.0 Null0'] },
      })
      expect((await pasted('line vty 0 4\n transport input ssh\n', null)).json.condition).to.have.property('holds')
      expect((await pasted('ten', 5)).json.error).to.contain('"ten" is not a prefix')
      const text = (severity: string): string =>
        `id: own-rules\ntitle: Own\nversion: 1.0.0\nstatement: s\nprofiles: [{ id: base, title: All }]\nrules:\n  - { id: r, title: t, statement: s, topic: T, severity: ${severity}, profile: base, decide: [{ id: x, outcome: pass, note: n }] }\n`
      const differs = async (severity: string) =>
        (await lead.post(`${base}/own-benchmarks/differences`, { text: text(severity) })).json
      expect(await differs('low')).to.deep.equal({ wrong: null, against: null, differences: null })
      expect((await differs('perhaps')).wrong).to.contain('line 7')
      await lead.post(`${base}/own-benchmarks`, { text: text('low'), why: 'A first go' })
      const { against, differences } = await differs('high')
      expect(against).to.deep.equal({ benchmark: 'own-rules', number: 1 })
      expect(differences.parts).to.deep.equal([
        {
          kind: 'rule',
          id: 'r',
          title: 't',
          what: 'changed',
          fields: [{ field: 'severity', from: 'low', to: 'high' }],
        },
      ])
    })

    it('stops when asked, and shows nothing half-done', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Stop', client: '' })
      const base = `/engagements/${own.id}`
      const files = Object.fromEntries(
        Array.from({ length: 300 }, (_, i) => [
          `d${i}.cfg`,
          `hostname d${i}\n${'interface Vlan1\n ip address 10.0.0.1 255.0.0.0\n'.repeat(40)}`,
        ]),
      )
      const frozen = await lead.freeze(own.id, files)
      const { json: job } = await lead.post(`${base}/audits`, {
        snapshotId: frozen.json.id,
        choices: [{ benchmark: 'network-hardening' }],
      })
      expect((await lead.post(`${base}/jobs/${job.id}/stop`)).status).to.equal(204)
      let state = 'running'
      while (state === 'running') state = (await lead.get(`${base}/jobs`)).json[0].state
      expect(state).to.equal('stopped')
      expect((await lead.get(`${base}/chronicle`)).json.audits).to.deep.equal([])
      const again = await lead.post(`${base}/jobs/${job.id}/retry`)
      expect(again.json.state).to.equal('running')
    })

    it('tells progress as events', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Events', client: '' })
      const frozen = await lead.freeze(own.id, { 'a.cfg': CONFIG })
      const controller = new AbortController()
      const response = await fetch(`${world.server.address}/api/engagements/${own.id}/events`, {
        headers: { cookie: lead.cookie },
        signal: controller.signal,
      })
      const audit = lead.audit(own.id, frozen.json.id)
      const decoder = new TextDecoder()
      let heard = ''
      for await (const chunk of response.body ?? []) {
        heard += decoder.decode(chunk)
        if (heard.includes('"state":"done"')) break
      }
      controller.abort()
      await audit
      expect(heard).to.contain('event: job').and.contain('"state":"running"')
    })
  })

  describe('secrets', () => {
    it('appear nowhere but in a logged download by a lead or an engineer', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Secrets', client: '' })
      const base = `/engagements/${own.id}`
      const frozen = await lead.freeze(own.id, {
        'a.cfg': `${CONFIG}snmp-server community public RW\nusername ada password 0 sparrowhawk\n`,
      })
      const { auditId } = await lead.audit(own.id, frozen.json.id)
      const paths = [
        `/records/${frozen.json.records[0].id}`,
        `/snapshots/${frozen.json.id}`,
        `/devices/${frozen.json.records[0].deviceId}`,
        `/audits/${auditId}/verdicts?limit=500`,
        `/audits/${auditId}/preview`,
        `/activity`,
        ...['html', 'csv', 'json', 'sarif'].map((form) => `/audits/${auditId}/report.${form}`),
      ]
      for (const path of paths) {
        const { status, text } = await lead.get(`${base}${path}`)
        expect(status, path).to.equal(200)
        expect(text, path).to.not.contain('sparrowhawk')
      }
      const found = async (): Promise<any> => {
        const answer = await lead.get(`${base}/search?q=sparrowhawk`)
        return answer.status === 202 ? found() : answer.json
      }
      expect(await found()).to.deep.equal([])
      const verdicts = (await lead.get(`${base}/audits/${auditId}/verdicts?rule=snmp-no-default-community`)).json
        .verdicts
      expect((await lead.get(`${base}/audits/${auditId}/verdicts/${verdicts[0].id}`)).text)
        .to.contain('‹secret:')
        .and.not.contain('community public')
      const stored: Record<string, unknown>[] = await world.server.services.database.query('SELECT * FROM verdicts')
      // What is quoted lies sealed: no line of a record stands in clear.
      const kept = stored
        .map((row) =>
          Object.values(row)
            .map((value) => (Buffer.isBuffer(value) ? value.toString('latin1') : String(value)))
            .join(' '),
        )
        .join(' ')
      for (const words of ['sparrowhawk', 'snmp-server community', 'transport input telnet', 'ip http server'])
        expect(kept, words).to.not.contain(words)
      expect((await lead.get(`${base}/audits/${auditId}/commands.txt`)).text).to.contain(
        'no snmp-server community public RW',
      )
      const log = (await lead.get(`${base}/activity`)).json.entries.map((entry: { action: string }) => entry.action)
      expect(log).to.include('commands with secrets downloaded')
    })

    it('are masked in outputs of commands too', async () => {
      const lead = await world.client('lead')
      const { json: own } = await lead.post('/engagements', { title: 'Outputs', client: '' })
      const frozen = await lead.freeze(own.id, {
        'devices/core/config.txt': 'hostname core\n',
        'devices/core/state/version.txt': 'uptime 3 days\nsnmp-server community sparrowhawk RO\n',
      })
      const output = frozen.json.records.find((record: { path: string }) => record.path.endsWith('version.txt'))
      const { json } = await lead.get(`/engagements/${own.id}/records/${output.id}`)
      expect(json.lines[0]).to.equal('uptime 3 days')
      expect(json.lines[1]).to.match(/^snmp-server community ‹secret:\w+› RO$/)
    })

    it('PDF holds the report in the shipped fonts', async () => {
      const lead = await world.client('lead')
      const frozen = await lead.freeze(world.engagement, { 'pdf.cfg': CONFIG.replace('core', 'pdf') })
      const { auditId } = await lead.audit(world.engagement, frozen.json.id)
      const response = await fetch(`${world.server.address}/api${e(`/audits/${auditId}/report.pdf`)}`, {
        headers: { cookie: lead.cookie },
      })
      const bytes = Buffer.from(await response.arrayBuffer())
      expect(response.headers.get('content-type')).to.equal('application/pdf')
      expect(bytes.subarray(0, 5).toString()).to.equal('%PDF-')
      expect(bytes.includes('SourceSans3') && bytes.includes('JetBrainsMono')).to.equal(true)
    })
  })

  describe('the activity log', () => {
    it('is a chain that notices a change, and the database refuses one', async () => {
      const { activity, database } = world.server.services
      await Promise.all(
        Array.from({ length: 8 }, (_, i) =>
          activity.add({ userId: null, engagementId: null, action: `test ${i}`, detail: {} }),
        ),
      )
      expect(await activity.firstBreak()).to.equal(null)
      for (const statement of ["UPDATE activity SET action = 'x' LIMIT 1", 'DELETE FROM activity LIMIT 1']) {
        const refused = await database.query(statement).then(
          () => '',
          (error: Error) => error.message,
        )
        expect(refused).to.contain('command denied')
        expect(
          await world.asOwner((owner) =>
            owner.query(statement).then(
              () => '',
              (error: Error) => error.message,
            ),
          ),
        ).to.contain('append-only')
      }
      for (const statement of ['TRUNCATE TABLE activity', 'DROP TRIGGER activity_no_update', 'DROP TABLE jobs']) {
        expect(
          await database.query(statement).then(
            () => '',
            (error: Error) => error.message,
          ),
          statement,
        ).to.contain('command denied')
      }
      const some = await database.getRepository(Activities).findOneOrFail({ where: { action: 'test 3' } })
      await world.asOwner(async (owner) => {
        await owner.query('DROP TRIGGER activity_no_update')
        await owner.query("UPDATE activity SET action = 'forged' WHERE id = ?", [some.id])
        expect(await activity.firstBreak()).to.equal(some.id)
        await owner.query("UPDATE activity SET action = 'test 3' WHERE id = ?", [some.id])
        await owner.query(
          "CREATE TRIGGER activity_no_update BEFORE UPDATE ON activity FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the activity log is append-only'",
        )
      })
    })

    it('that was cut at its end, or emptied, shows by its head, which lies outside the database', async () => {
      const { activity } = world.server.services
      const entry = { userId: null, engagementId: null, action: 'the last', detail: {} }
      await activity.add(entry)
      // What the server does by itself must not write while the table is tampered with.
      const add = activity.add.bind(activity)
      let release = (): void => undefined
      const held = new Promise<void>((resolve) => (release = resolve))
      activity.add = (deed) => held.then(() => add(deed))
      const head = activity.anchor.read()
      await world.asOwner(async (owner) => {
        await owner.query('CREATE TABLE kept AS SELECT * FROM activity')
        await owner.query('DROP TRIGGER activity_no_delete')
        await owner.query('DELETE FROM activity WHERE id = ?', [head.id])
        expect(await activity.firstBreak()).to.equal(head.id)

        await add({ ...entry, action: 'after the cut' })
        const after = activity.anchor.read()
        expect(await activity.firstBreak(), 'an entry after the cut does not hide it').to.equal(after.id)

        await owner.query('TRUNCATE TABLE activity')
        await owner.query('INSERT INTO activity SELECT * FROM kept')
        writeFileSync(activity.anchor.file, 'forged')
        expect(await activity.firstBreak()).to.equal(head.id)
        await add({ ...entry, action: 'after a forged head' })
        expect(await activity.firstBreak(), 'nor does one after the head was forged').to.equal(head.id + 1)

        await owner.query('TRUNCATE TABLE activity')
        activity.anchor.write(head)
        expect(await activity.firstBreak()).to.equal(head.id)
        await owner.query('INSERT INTO activity SELECT * FROM kept')
        await owner.query('DROP TABLE kept')
        await owner.query(
          "CREATE TRIGGER activity_no_delete BEFORE DELETE ON activity FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the activity log is append-only'",
        )
      })
      release()
      activity.add = add
      expect(await activity.firstBreak()).to.equal(null)
    })
  })

  describe('events of long work', () => {
    it('are not kept for who has gone, however early', async () => {
      const reader = await world.client('reader')
      const { request } = await import('node:http')
      const { jobs } = world.server.services
      for (let i = 0; i < 60; i++) {
        await new Promise<void>((resolve) => {
          const sent = request(`${world.server.address}/api${e('/events')}`, {
            headers: { cookie: reader.cookie },
            agent: false,
          })
          sent.on('error', () => resolve())
          sent.on('close', () => resolve())
          sent.end()
          // Before, while and after the server finds out who asks.
          setTimeout(() => sent.destroy(), i % 12)
        })
      }
      for (let tries = 0; tries < 50 && jobs.listeners(world.engagement) > 0; tries++)
        await new Promise((resolve) => setTimeout(resolve, 100))
      expect(jobs.listeners(world.engagement)).to.equal(0)
    })
  })

  describe('a restart', () => {
    it('marks what was running as interrupted, and keeps everything else', async () => {
      const { database } = world.server.services
      const job = await database
        .getRepository(Jobs)
        .save({
          engagementId: world.engagement,
          kind: 'audit',
          state: 'running',
          done: 3,
          total: 9,
          message: '',
          params: {},
          createdBy: 1,
          createdAt: new Date(),
          finishedAt: null,
        })
      const before = await (await world.client('lead')).get(e('/snapshots'))
      world = await world.restart()
      const lead = await world.client('lead')
      expect(
        (await lead.get(e('/jobs?limit=100'))).json.find((one: { id: number }) => one.id === job.id).state,
      ).to.equal('interrupted')
      expect((await lead.get(e('/snapshots'))).json).to.deep.equal(before.json)
    })
  })
})

describe('the first start', function () {
  this.timeout(300_000)

  it('creates the first user with the one-time code, once', async () => {
    const { mkdtempSync, rmSync } = await import('node:fs')
    const { tmpdir } = await import('node:os')
    const folder = mkdtempSync(`${tmpdir()}/jurybox-first-`)
    const server = await startServer({
      dataFolder: folder,
      port: 0,
      webFolder: null,
      signInLimit: 4,
      logLevel: 'fatal',
    })
    try {
      const client = new Client(server.address)
      const body = (code: string) => ({
        code,
        user: { name: 'ada', fullName: 'Ada', password: PASSWORD },
        engagement: { title: 'E', client: '' },
      })
      expect((await client.get('/standing')).json.firstUserNeeded).to.equal(true)
      expect((await client.post('/first-user', body('00000-0000x'))).status).to.equal(403)
      const code = server.services.setupCode ?? ''
      expect(code).to.match(/^\d{5}-\d{5}$/)
      expect(
        (await client.post('/first-user', { ...body(code), user: { name: 'ada', fullName: 'Ada', password: 'short' } }))
          .status,
      ).to.equal(400)
      expect((await client.post('/first-user', body(code))).status).to.equal(200)
      expect((await new Client(server.address).post('/first-user', body(code))).status).to.equal(403)
      expect((await client.get('/session')).json.engagements[0].role).to.equal('lead')
      const statuses = []
      for (let i = 0; i < 5; i++)
        statuses.push((await new Client(server.address).post('/sign-in', { name: 'ada', password: 'wrong' })).status)
      expect(statuses.at(-1), 'guessing is slowed down').to.equal(429)
    } finally {
      await server.stop()
      rmSync(folder, { recursive: true, force: true })
    }
  })
})

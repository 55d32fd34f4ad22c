import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { ENDPOINTS } from '@jurybox/api'
import { Validator } from '@seriousme/openapi-schema-validator'
import { expect } from 'chai'
import { loadDemo } from '../src/demo.ts'
import { settingsOf } from '../src/operation/settings.ts'
import { startServer, type RunningServer } from '../src/server.ts'
import { Client } from './world.ts'

const SCENARIO = fileURLToPath(new URL('../../../scenario', import.meta.url))

/** Everything that the demo engagement can be asked for: its server refuses a response that is not as promised. */
describe('responses of the demo engagement', () => {
  let server: RunningServer
  let folder: string
  const lead = { client: new Client('') }
  const of: Record<string, string | number> = { engagement: 1 }
  /** Long questions are being answered for a while. */
  async function answered(path: string) {
    for (;;) {
      const response = await lead.client.get(path)
      if (response.status !== 202) return response
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
  }
  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-responses-'))
    server = await startServer({
      dataFolder: folder,
      port: 0,
      webFolder: null,
      logLevel: 'fatal',
      settings: settingsOf({ JURYBOX_CHECK_RESPONSES: '1' }),
    })
    await loadDemo(server.services, SCENARIO)
    lead.client = new Client(server.address)
    expect(await lead.client.signIn('lead', 'kittiwake-at-dawn')).to.equal(200)
    const list = async (path: string) => (await answered(`/engagements/1${path}`)).json
    const { audits, snapshots } = await list('/chronicle')
    const [audit, snapshot] = [audits.at(-1), snapshots.at(-1)]
    const { devices } = await list('/devices')
    const device = devices.find(({ name }: { name: string }) => name === 'qs-dist1')
    const { verdicts } = await list(`/audits/${audit.id}/verdicts?limit=1`)
    const states = (await list(`/devices/${device.id}/history`))[0].spells
    const [benchmark] = await list('/benchmarks')
    const lists = await list('/traffic/lists')
    const own = await list('/own-benchmarks')
    const side = { a: snapshots.at(-2).id, b: snapshot.id, deviceA: device.name, deviceB: device.name }
    const derived = await list('/references/derived?feature=ntp&dialect=indented')
    await lead.client.post('/engagements/1/references', derived.reference)
    const at = '2026-11-20T10:00:00Z'
    const planned = { title: 'W', beginsAt: at, endsAt: '2126-11-20T10:00:00Z', devices: [device.name] }
    const { json: window } = await lead.client.post('/engagements/1/windows', planned)
    const pair = { before: side.a, after: side.b }
    expect((await lead.client.put(`/engagements/1/windows/${window.id}/snapshots`, pair)).status).to.equal(204)
    const { json: staged } = await lead.client.drop(1, { 'new.cfg': 'hostname new\nfrobnicate the widget\n' })
    Object.assign(of, {
      audit: audit.id,
      benchmark: benchmark.id,
      device: device.id,
      format: 'md',
      import: staged.id,
      kind: 'running',
      record: states[0].record,
      other: states.at(-1).record,
      snapshot: snapshot.id,
      before: snapshots.at(-2).id,
      verdict: verdicts[0].id,
      reference: derived.reference.id,
      window: window.id,
      ownBenchmark: own[0]?.id ?? '',
      list: `${lists[0].device}|${lists[0].list}|${lists[0].family}`,
    })
  })
  after(async () => {
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  /** Queries of the endpoints that need one. */
  const queries: Record<string, () => Record<string, string>> = {
    listCarried: () => ({ takenAt: '2026-11-20T10:00:00Z' }),
    listUnparsed: () => ({ path: 'new.cfg' }),
    listViews: () => ({ sheet: 'verdicts' }),
    tryGroup: () => ({ kind: 'filter', text: 'interfaces.size() > 4' }),
    searchEstate: () => ({ q: 'ssh' }),
    askReach: () => ({ from: '10.40.10.0/24', to: '10.40.60.0/24' }),
    askSurvey: () => ({ to: '10.40.60.0/24' }),
    askTrace: () => ({ at: 'qs-dist1', src: '10.40.10.9', dst: '10.40.60.9', proto: 'tcp', dport: '443' }),
    compareAccessLists: () => ({ a: String(of['list']), b: String(of['list']) }),
    compareSides: () => ({ deviceA: 'qs-dist1', deviceB: 'qn-dist1' }),
    listSideTexts: () => ({ deviceA: 'qs-dist1', deviceB: 'qs-dist1', a: String(of['before']) }),
    runCheckSet: () => ({ set: 'upgrade' }),
    deriveReferences: () => ({ feature: 'ntp', dialect: 'indented' }),
    compareTraffic: () => ({ a: String(of['before']), b: String(of['snapshot']) }),
  }
  const tables = ['subnets', 'vlans', 'redundancy', 'versions', 'models', 'end-ports']

  for (const [name, endpoint] of ENDPOINTS) {
    if (endpoint.method !== 'get' || endpoint.file !== undefined || endpoint.events !== undefined) continue
    it(`${name} is as its contract says`, async function () {
      if (name === 'getOwnBenchmark' && of['ownBenchmark'] === '') {
        expect((await lead.client.get('/engagements/1/own-benchmarks/none/1')).status).to.equal(404)
        return
      }
      const values = {
        ...of,
        ...(name === 'getChangeFile' ? { kind: 'references' } : {}),
        ...(name === 'getOwnBenchmark' ? { benchmark: of['ownBenchmark'], number: 1 } : {}),
      } as Record<string, string | number>
      for (const table of endpoint.path.includes(':table') ? tables : ['']) {
        const path = endpoint.path.replace(/:(\w+)/g, (_, key: string) =>
          encodeURIComponent(String(key === 'table' ? table : values[key])),
        )
        const query = new URLSearchParams(queries[name]?.() ?? {}).toString()
        const { status, text } = await answered(query === '' ? path : `${path}?${query}`)
        expect(status, `${path}?${query}: ${text.slice(0, 1000)}`).to.equal(200)
      }
    })
  }

  it('the description of the API is a valid OpenAPI document', async () => {
    // OpenAPI Specification 3.1.1, https://spec.openapis.org/oas/v3.1.1.html, by its published JSON Schema.
    const { json } = await lead.client.get('/openapi.json')
    const { valid, errors } = await new Validator().validate(json)
    expect(valid, JSON.stringify(errors, null, 1)?.slice(0, 2000)).to.equal(true)
  })
})

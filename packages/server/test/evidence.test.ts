import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { readPack, verifyPackBytes, timestampRequest, writePack, type Manifest } from '@jurybox/core/evidence'
import { startTimeAuthority, type TimeAuthority } from '@jurybox/simulator'
import { expect } from 'chai'
import { loadDemo } from '../src/demo.ts'
import { EvidencePacks, SigningKeys } from '../src/evidence/entity.ts'
import { settingsOf } from '../src/operation/settings.ts'
import { startServer, type RunningServer } from '../src/server.ts'
import { rotateKey } from '../src/vault/rotation.ts'
import { Client } from './world.ts'

const SCENARIO = fileURLToPath(new URL('../../../scenario', import.meta.url))
const BASE = '/engagements/1'

/** Evidence of the demo, packed and signed by the server, and verified with nothing but the pack. */
describe('evidence packs of the server', function () {
  this.timeout(240_000)
  let server: RunningServer
  let authority: TimeAuthority
  let folder = ''
  let [lead, auditor, reader] = [] as unknown as [Client, Client, Client]
  let audit = 0

  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-evidence-'))
    authority = await startTimeAuthority()
    server = await startServer({
      dataFolder: folder,
      port: 0,
      webFolder: null,
      logLevel: 'fatal',
      settings: settingsOf({ JURYBOX_CHECK_RESPONSES: '1', JURYBOX_TIME_AUTHORITY: authority.url }),
    })
    await loadDemo(server.services, SCENARIO)
    const signedIn = async (name: string): Promise<Client> => {
      const client = new Client(server.address)
      expect(await client.signIn(name, 'kittiwake-at-dawn')).to.equal(200)
      return client
    }
    ;[lead, auditor, reader] = [await signedIn('lead'), await signedIn('auditor'), await signedIn('reader')]
    audit = (await lead.get(`${BASE}/chronicle`)).json.audits.at(-1).id
  })
  after(async () => {
    await server.stop()
    await authority.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  const list = async (client = lead): Promise<any> => (await client.get(`${BASE}/packs`)).json
  async function made(path = 'packs'): Promise<any> {
    const { status, json: job, text } = await lead.post(`${BASE}/${path}`, { audit })
    expect(status, text).to.equal(200)
    await lead.idle(1)
    const done = (await lead.get(`${BASE}/jobs`)).json.find(({ id }: { id: number }) => id === job.id)
    expect(done.state, done.message).to.equal('done')
    return (await list()).packs[0]
  }
  const downloaded = (path: string, client = lead): ReturnType<typeof downloadedFrom> =>
    downloadedFrom(`packs/${path}`, client)
  async function downloadedFrom(path: string, client = lead): Promise<{ status: number; bytes: Uint8Array }> {
    const response = await fetch(`${server.address}/api${BASE}/${path}`, { headers: { cookie: client.cookie } })
    return { status: response.status, bytes: new Uint8Array(await response.arrayBuffer()) }
  }
  const text = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes)

  let first: Uint8Array
  it('a pack of the demo verifies, and every verdict comes out again but those that rest on masked secrets', async () => {
    expect((await list()).key).to.equal(null)
    const pack = await made()
    ;({ bytes: first } = await downloaded(`${pack.id}/evidence.zip`, auditor))
    expect((await downloaded(`${pack.id}/evidence.zip`, reader)).status).to.equal(403)
    const { key } = await list()
    const { faults, signed, recomputed, manifest } = verifyPackBytes(first, { key: key.fingerprint })
    expect(faults).to.deep.equal([])
    expect(signed.map(({ by }) => by)).to.deep.equal(['Isolde Wren'])
    expect(manifest?.notReproduced.filter(({ why }) => why !== 'masked')).to.deep.equal([])
    expect(recomputed?.verdicts).to.be.greaterThan(1000)
    expect(recomputed?.equal).to.equal((recomputed?.verdicts ?? 0) - (recomputed?.notReproduced ?? 0))
    expect(pack.notReproduced).to.equal(recomputed?.notReproduced)
  })

  it('holds what came of the change windows of its snapshot', () => {
    const files = readPack(first) ?? new Map<string, Uint8Array>()
    const results = [...files.keys()].filter((path) => path.startsWith('windows/'))
    expect(results).to.have.length.above(0)
    const document = JSON.parse(text(files.get(results[0] ?? '')))
    expect(document).to.include({ schema: 1 })
    expect(document.title).to.match(/^Change window: /)
    expect(document.devices.length + document.checks.length).to.be.above(0)
  })

  it('holds no secret of a record, and says when each was captured', () => {
    const files = readPack(first) ?? new Map<string, Uint8Array>()
    const all = [...files].map(([, bytes]) => text(bytes)).join('\n')
    expect(all).to.contain('‹secret:')
    expect(all).not.to.contain('3058D3B17ABEFA037C')
    const records = JSON.parse(text(files.get('records.json')))
    expect(records.every(({ file }: { file: string }) => files.has(file))).to.equal(true)
    const activity = JSON.parse(text(files.get('activity.json')))
    expect(activity.map(({ action }: { action: string }) => action)).to.include('audit finished')
    expect(all, 'of other deeds of the audit log').not.to.contain('engagement opened')
  })

  it('with the secrets every verdict comes out again; readers do not get it', async () => {
    const pack = await made('packs/with-secrets')
    expect((await downloaded(`${pack.id}/evidence-with-secrets.zip`, reader)).status).to.equal(403)
    expect((await downloaded(`${pack.id}/evidence.zip`, auditor)).status).to.equal(422)
    const { bytes } = await downloaded(`${pack.id}/evidence-with-secrets.zip`)
    const { faults, recomputed, manifest } = verifyPackBytes(bytes, { previous: readPack(first) })
    expect(faults).to.deep.equal([])
    expect(recomputed?.equal).to.equal(recomputed?.verdicts)
    expect(manifest?.previous?.root).to.equal((await list()).packs[1].root)
  })

  it('a second person countersigns it, once, and not the one who made it', async () => {
    const { id, root } = (await list()).packs.at(-1)
    const sign = async (client: Client): Promise<number> =>
      (await client.post(`${BASE}/packs/${id}/countersignature`)).status
    expect(await sign(reader)).to.equal(403)
    expect(await sign(lead)).to.equal(422)
    expect(await sign(auditor)).to.equal(204)
    expect(await sign(auditor)).to.equal(409)
    const { bytes } = await downloaded(`${id}/evidence.zip`)
    const { faults, signed, manifest } = verifyPackBytes(bytes, { recompute: false })
    expect(faults).to.deep.equal([])
    expect(signed.map(({ by }) => by)).to.deep.equal(['Isolde Wren', 'Bram Teasel'])
    expect(manifest?.root).to.equal(root)
    const view = (await list(auditor)).packs.at(-1)
    expect([view.mayCountersign, view.countersigned[0].by]).to.deep.equal([false, 'Bram Teasel'])
  })

  it('what a signed pack cites cannot be deleted', async () => {
    const { json } = await lead.get(`${BASE}/audits/${audit}`)
    const { status, json: problem } = await lead.call('DELETE', `${BASE}/snapshots/${json.snapshot.id}`)
    expect([status, problem.error]).to.deep.equal([
      409,
      `A report of “${json.snapshot.title}” was downloaded, or its evidence signed, so the snapshot cannot be changed.`,
    ])
  })

  it('the report prints the key: as a fingerprint, as text and as a QR code', async () => {
    const { key } = await list()
    const { text: html } = await lead.get(`${BASE}/audits/${audit}/report.html`)
    expect(html)
      .to.contain(key.fingerprint)
      .and.contain(key.public)
      .and.match(/<div class="qr"><svg/)
  })

  it('a pack is time stamped, by the authority of the server or by hand, and no answer to something else is taken', async () => {
    const pack = (await list()).packs.find(({ masked }: { masked: boolean }) => masked)
    expect((await reader.post(`${BASE}/packs/${pack.id}/time-stamp`)).status).to.equal(403)
    const { bytes: request } = await downloadedFrom(`packs/${pack.id}/timestamp.tsq`)
    const uploaded = async (answer: Uint8Array): Promise<{ status: number; text: string }> => {
      const form = new FormData()
      form.set('data', JSON.stringify({ paths: ['a.tsr'] }))
      form.append('files', new Blob([new Uint8Array(answer)]), 'a.tsr')
      return lead.call('POST', `${BASE}/packs/${pack.id}/timestamp`, form)
    }
    const foreign = await authority.answer(timestampRequest(new Uint8Array([1]), new Uint8Array(8)))
    const refused = await uploaded(foreign)
    expect([refused.status, refused.text]).to.satisfy(
      ([status, words]: [number, string]) => status === 422 && words.includes('of another manifest'),
    )
    expect((await uploaded(await authority.answer(request))).status).to.equal(204)
    expect((await lead.post(`${BASE}/packs/${pack.id}/time-stamp`)).status).to.equal(409)
    const { bytes } = await downloaded(`${pack.id}/evidence.zip`)
    const { faults, stamped } = verifyPackBytes(bytes, { recompute: false })
    expect([faults, stamped?.authority]).to.deep.equal([[], 'O=Simulated, CN=Skerry Light Time'])
    const shown = (await list()).packs.find(({ id }: { id: number }) => id === pack.id)
    expect(shown.stamped.authority).to.equal('O=Simulated, CN=Skerry Light Time')
    const files = readPack(bytes) ?? new Map<string, Uint8Array>()
    const other = writePack(new Map([...files, ['timestamp.tsr', foreign]]))
    expect(verifyPackBytes(other, { recompute: false }).faults.map(({ code }) => code)).to.deep.equal([
      'timestamp-wrong',
    ])
    const alone = writePack(new Map([...files].filter(([path]) => path !== 'timestamp.tsr')))
    expect(verifyPackBytes(alone, { recompute: false }).faults.map(({ code }) => code)).to.deep.equal([
      'timestamp-wrong',
    ])
    const next = await made()
    expect((await lead.post(`${BASE}/packs/${next.id}/time-stamp`)).status).to.equal(204)
    expect((await list()).packs[0].stamped).to.not.equal(null)
  })

  it('the same key signs after the key of the vault was changed', async () => {
    const { key } = await list()
    await rotateKey(server.services.database, server.services.vault, folder, {})
    const pack = await made()
    const { bytes } = await downloaded(`${pack.id}/evidence.zip`)
    expect(verifyPackBytes(bytes, { key: key.fingerprint, recompute: false }).faults).to.deep.equal([])
    expect(await server.services.database.getRepository(SigningKeys).count()).to.equal(2)
  })

  it('two that are asked for at once follow each other', async () => {
    const before = (await list()).packs.length
    await Promise.all([lead.post(`${BASE}/packs`, { audit }), auditor.post(`${BASE}/packs`, { audit })])
    await lead.idle(1)
    const { packs } = await list()
    expect(packs).to.have.length(before + 2)
    const [last, one] = await Promise.all(
      [packs[0], packs[1]].map(async ({ id }) => readPack((await downloaded(`${id}/evidence.zip`)).bytes)),
    )
    const { faults } = verifyPackBytes(writePack(last ?? new Map()), { previous: one ?? null, recompute: false })
    expect(faults).to.deep.equal([])
  })

  it('a stopped pack is not kept', async () => {
    const before = await server.services.database.getRepository(EvidencePacks).count()
    const { json: job } = await lead.post(`${BASE}/packs`, { audit })
    await lead.post(`${BASE}/jobs/${job.id}/stop`)
    await lead.idle(1)
    const ended = (await lead.get(`${BASE}/jobs`)).json.find(({ id }: { id: number }) => id === job.id)
    expect(ended.state).to.equal('stopped')
    expect(await server.services.database.getRepository(EvidencePacks).count()).to.equal(before)
  })

  it('an audit that is not there has no evidence', async () => {
    expect((await lead.post(`${BASE}/packs`, { audit: 99_999 })).status).to.equal(404)
    expect((await downloaded('99999/evidence.zip')).status).to.equal(404)
  })

  it('what was signed names the audit log as it stood', () => {
    const manifest = JSON.parse(text(readPack(first)?.get('manifest.json'))) as Manifest
    expect(manifest.auditLog?.entry).to.be.greaterThan(0)
  })
})

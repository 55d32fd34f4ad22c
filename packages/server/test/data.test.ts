import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { createConnection } from 'mysql2/promise'
import papaparse from 'papaparse'
import { settingsOf } from '../src/operation/settings.ts'
import { startServer } from '../src/server.ts'
import { makeWorld, type Client, type World } from './world.ts'

const CONFIG = 'hostname quay\nip http server\nline vty 0 4\n transport input telnet\n'

/** The tables for other tools, by session, by token, and by SQL. */
describe('tables for other tools', function () {
  this.timeout(60_000)
  let world: World
  let [lead, reader] = [] as unknown as [Client, Client]
  let audit = 0
  let verdicts: { device: string; rule: string; outcome: string; references: string[] }[] = []
  const e = (path: string): string => `/engagements/${world.engagement}${path}`
  const rows = async (table: string, client = lead): Promise<any[]> => (await client.get(e(`/data/${table}`))).json
  const asked = async (
    table: string,
    token: string,
    engagement = world.engagement,
  ): Promise<{ status: number; text: string }> => {
    const response = await fetch(`${world.server.address}/api/engagements/${engagement}/data/${table}?format=csv`, {
      headers: { authorization: `Bearer ${token}` },
    })
    return { status: response.status, text: await response.text() }
  }

  before(async () => {
    world = await makeWorld()
    ;[lead, reader] = [await world.client('lead'), await world.client('reader')]
    const { id } = (await lead.freeze(world.engagement, { 'quay.cfg': CONFIG })).json
    audit = (await lead.audit(world.engagement, id)).auditId
    verdicts = (await lead.get(e(`/audits/${audit}/report.json`))).json.verdicts
  })
  after(async () => world.end())

  it('hold what the report holds', async () => {
    const brief = (all: any[]): string[] =>
      all.map(({ device, rule, outcome }) => `${device} ${rule} ${outcome}`).sort()
    expect(brief(await rows('verdicts'))).to.deep.equal(brief(verdicts))
    const isFinding = ({ outcome }: { outcome: string }): boolean => ['fail', 'unknown', 'error'].includes(outcome)
    expect(brief(await rows('findings', reader))).to.deep.equal(brief(verdicts.filter(isFinding)))
    expect((await rows('devices')).map(({ device, dialect }) => [device, dialect])).to.deep.equal([
      ['quay', 'indented'],
    ])
    const [trend] = await rows('trend')
    const count = (outcome: string): number => verdicts.filter((one) => one.outcome === outcome).length
    expect([Number(trend.fail), Number(trend.pass)]).to.deep.equal([count('fail'), count('pass')])
    const requirements = new Map(
      (await rows('requirements')).map((row) => [`${row.framework}:${row.requirement}`, row]),
    )
    const references = new Set(verdicts.flatMap((one) => one.references))
    expect([...requirements.keys()].sort()).to.deep.equal([...references].sort())
    for (const [reference, row] of requirements) {
      const own = verdicts.filter((one) => one.references.includes(reference))
      expect(Number(row.fail), reference).to.equal(own.filter(({ outcome }) => outcome === 'fail').length)
    }
    const csv = papaparse.parse((await lead.get(e(`/data/findings?format=csv&audit=${audit}`))).text, {
      header: true,
      skipEmptyLines: true,
    })
    expect(csv.data).to.have.length(verdicts.filter(isFinding).length)
    expect((await lead.get(e('/data/weather'))).status).to.equal(404)
    expect((await lead.get(e('/data/findings?audit=9999'))).json).to.deep.equal([])
  })

  it('a token reads its tables of its engagement, and nothing else', async () => {
    expect((await reader.post(e('/tokens'), { title: 'x', tables: ['findings'], days: 7 })).status).to.equal(403)
    const { status, json, text } = await lead.post(e('/tokens'), { title: 'Register', tables: ['findings'], days: 7 })
    expect(status, text).to.equal(200)
    const { token, view } = json
    const read = await asked('findings', token)
    expect(read.status).to.equal(200)
    expect(read.text.split('\r\n')[0]).to.contain('due_on')
    expect((await asked('verdicts', token)).status).to.equal(403)
    expect((await asked('findings', token, world.engagement + 1)).status).to.equal(401)
    expect((await asked('findings', `${token}x`)).status).to.equal(401)
    const elsewhere = await fetch(`${world.server.address}/api${e('/snapshots')}`, {
      headers: { authorization: `Bearer ${token}` },
    })
    expect(elsewhere.status).to.equal(401)
    const listed = await lead.get(e('/tokens'))
    expect(listed.json[0].usedAt).to.not.equal(null)
    expect(listed.text).to.not.contain(token)
    expect((await lead.call('DELETE', e(`/tokens/${view.id}`))).status).to.equal(204)
    expect((await asked('findings', token)).status).to.equal(401)
    expect((await lead.call('DELETE', e(`/tokens/${view.id}`))).status).to.equal(404)
  })

  it('a token ends with its time, and with the rights of whoever made it', async () => {
    const { token, view } = (await lead.post(e('/tokens'), { title: 'Short', tables: ['trend'], days: 1 })).json
    const { tokens, database } = world.server.services
    const later = new Date(Date.now() + 2 * 86_400_000)
    expect(await tokens.find(token, world.engagement)).to.not.equal(null)
    expect(await tokens.find(token, world.engagement, later)).to.equal(null)
    await database.query("UPDATE memberships SET role = 'reader' WHERE user_id = ?", [world.users.lead])
    expect((await asked('trend', token)).status).to.equal(401)
    await database.query("UPDATE memberships SET role = 'lead' WHERE user_id = ?", [world.users.lead])
    expect((await asked('trend', token)).status).to.equal(200)
    expect(view.begins).to.match(/^jurybox_.{4}$/)
  })
})

describe('the database account for other tools', function () {
  this.timeout(90_000)
  const folder = mkdtempSync(join(tmpdir(), 'jurybox-reader-'))
  after(() => rmSync(folder, { recursive: true, force: true }))
  const start = (reader?: string): ReturnType<typeof startServer> =>
    startServer({
      ...{ dataFolder: folder, port: 0, webFolder: null, logLevel: 'fatal' as const },
      settings: settingsOf(reader === undefined ? {} : { JURYBOX_READER_PASSWORD: reader }),
    })
  const connect = (password: string): ReturnType<typeof createConnection> =>
    createConnection({
      ...{ host: '127.0.0.1', user: 'jurybox_reader', password, database: 'jurybox' },
      port: Number(readFileSync(join(folder, 'mariadb', 'port'), 'utf8')),
    })
  /** What came of something: nothing, or a code of the database. */
  const codeOf = async (work: () => Promise<unknown>): Promise<string> => {
    try {
      await work()
      return 'done'
    } catch (error) {
      return (error as { code?: string }).code ?? String(error)
    }
  }

  it('reads the views and nothing else, and is there only where it was asked for', async () => {
    const password = 'gannets-on-the-ledge'
    const server = await start(password)
    const connection = await connect(password)
    for (const view of ['findings', 'verdicts', 'devices', 'requirements', 'trend'])
      expect(await codeOf(() => connection.query(`SELECT * FROM export_${view}`)), view).to.equal('done')
    for (const statement of [
      'SELECT * FROM users',
      'SELECT * FROM verdicts',
      'DELETE FROM export_devices',
      'SELECT * FROM mysql.user',
    ])
      expect(await codeOf(() => connection.query(statement)), statement).to.match(/DENIED/)
    await connection.end()
    await server.stop()
    const other = await start()
    expect(await codeOf(() => connect(password))).to.equal('ER_ACCESS_DENIED_ERROR')
    await other.stop()
  })

  it('a weak password is refused', () => {
    expect(() => settingsOf({ JURYBOX_READER_PASSWORD: "x' OR '1" })).to.throw('JURYBOX_READER_PASSWORD')
  })
})

import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { openDatabase } from '../src/db/data-source.ts'
import { startServer } from '../src/server.ts'
import { Client } from './world.ts'

describe('the log', function () {
  this.timeout(60_000)

  it('says what went wrong, and no secret that was on its way when it did', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'jurybox-log-'))
    const lines: string[] = []
    const server = await startServer({
      dataFolder: folder,
      port: 0,
      webFolder: null,
      logLevel: 'trace',
      logTo: { write: (line) => void lines.push(line) },
    })
    try {
      const { services } = server
      const lead = await services.createUser({ name: 'lead', fullName: 'Lead', password: 'a long enough password' })
      const { id } = await services.createEngagement({ title: 'E', client: '' }, lead)
      services.setupCode = null
      const client = new Client(server.address)
      expect(await client.signIn('lead', 'a long enough password')).to.equal(200)
      const dropped = await client.drop(id, { 'a.cfg': 'hostname a\nsnmp-server community sparrowhawk RO\n' })
      const owner = await openDatabase(server.mariadb.access)
      // What the requests below are written to is gone.
      for (const table of [
        'reach',
        'credentials',
        'alert_told',
        'alert_deliveries',
        'alerts',
        'snapshot_tags',
        'snapshot_records',
      ])
        await owner.query(`DROP TABLE ${table}`)
      await owner.destroy()
      const base = `/engagements/${id}`
      const answers = [
        await client.post(`${base}/credentials`, {
          title: 'A',
          user: 'u',
          password: 'heron-at-low-tide',
          privileged: 'heron-on-the-weir',
          snmp: { user: 'c', auth: 'dunlin-by-the-bank', privacy: 'dunlin-over-the-bank' },
        }),
        await client.post(`${base}/alerts`, {
          title: 'L',
          to: { channel: 'webhook', url: 'http://127.0.0.1:9/' },
          secret: 'plover-under-the-pier',
          kinds: ['new'],
          severity: 'high',
        }),
        await client.post(`${base}/snapshots`, {
          intake: dropped.json.id,
          title: 'S',
          takenAt: '2026-11-02T10:00:00Z',
        }),
      ]
      expect(answers.map(({ status }) => status)).to.deep.equal([500, 500, 500])
      expect(lines.filter((line) => line.includes("doesn't exist"))).to.have.length(3)
      for (const secret of [
        'heron-at-low-tide',
        'heron-on-the-weir',
        'dunlin',
        'plover-under-the-pier',
        'sparrowhawk',
        'a long enough password',
      ]) {
        expect(lines.join(''), secret).to.not.contain(secret)
        expect(answers.map(({ text }) => text).join(''), secret).to.not.contain(secret)
      }
    } finally {
      await server.stop()
      rmSync(folder, { recursive: true, force: true })
    }
  })
})

import { expect } from 'chai'
import { unzipSync } from 'fflate'
import { SECRETS } from '../../core/test/syntax/secret-positions.ts'
import { ENDPOINTS } from '@jurybox/api'
import { startServer } from '../src/server.ts'
import { makeWorld, type Client, type World } from './world.ts'

/** A secret in a place of its own: whoever finds it can tell from where it came. */
const marked = (dialect: string, place: number): string =>
  `zephyr${dialect.slice(0, 2)}${String(place).padStart(3, '0')}wing`

/** The lines of a table as one listing, each with a mark of its own where its plain-word secret stands. */
function listingOf(dialect: string): string {
  const rows = (SECRETS[dialect] ?? []).map((row, i) =>
    row.replaceAll('«gullwing»', marked(dialect, i)).replaceAll(/[«»]/g, ''),
  )
  if (dialect === 'indented')
    return rows.flatMap((row) => row.split(' > ').map((part, depth) => `${' '.repeat(depth)}${part}`)).join('\n')
  return rows.join('\n')
}

/** JSON of the data dialect with each member that holds a secret, beneath objects of their own. */
function dataListing(): string {
  const members = (SECRETS['data'] ?? []).filter((row) => /^"[\w-]+": "«gullwing»",?$/.test(row))
  const objects = members.map((row, i) => `{ ${row.replace(/,$/, '').replace('«gullwing»', marked('data', i))} }`)
  return `{\n"ietf-system:system": { "hostname": "delta", "x:others": [\n${objects.join(',\n')}\n] }\n}\n`
}

const MARK = /zephyr\w{2}\d{3}wing/g

describe('secrets of customers', function () {
  this.timeout(240_000)
  let world: World
  let lead: Client
  let base = ''
  const seen: string[] = []
  beforeEach(() => seen.splice(0))
  let audit = 0
  let snapshot: any = null
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
    base = `/engagements/${world.engagement}`
    const { json } = await lead.freeze(world.engagement, {
      'devices/alpha/config.txt': `hostname alpha\ninterface Vlan1\n ip address 192.0.2.1 255.255.255.0\n!\n${listingOf('indented')}\nend\n`,
      'devices/alpha/state/clock.txt': listingOf('none'),
      'devices/beta/config.txt': `set system host-name beta\n${listingOf('setlines')}\n`,
      'devices/delta/config.txt': dataListing(),
      'devices/gate/filters.txt': `*filter\n:INPUT DROP [0:0]\n-A INPUT -m comment --comment "password: ${marked('linux', 900)}" -j ACCEPT\nCOMMIT\n`,
      'devices/gate/files/rsyslog.conf': `action(type="omfwd" target="logs.example" password="${marked('linux', 901)}")\n`,
      'devices/gate/files/chrony.conf': `server 192.0.2.1 key 1\npassword ${marked('linux', 902)}\n`,
    })
    snapshot = json
    audit = (await lead.audit(world.engagement, snapshot.id)).auditId
  })
  after(async () => world.end())

  const hunt = (what: string, text: string): void => {
    const found = [...new Set(text.match(MARK) ?? [])]
    if (found.length > 0)
      seen.push(`${what}: ${found.slice(0, 8).join(' ')}${found.length > 8 ? ` and ${found.length - 8} more` : ''}`)
  }

  it('were taken in: the folder with real secrets, which is logged, holds them all', async () => {
    expect(snapshot.refused).to.deep.equal([])
    const bytes = new Uint8Array(
      await (
        await fetch(`${lead.address}/api${base}/snapshots/${snapshot.id}/folder.zip`, {
          headers: { cookie: lead.cookie },
        })
      ).arrayBuffer(),
    )
    const text = Object.values(unzipSync(bytes))
      .map((one) => new TextDecoder().decode(one))
      .join('\n')
    expect(new Set(text.match(MARK)).size).to.be.above(220)
  })

  it('stand in no answer of any route', async () => {
    const { json: verdicts } = await lead.get(`${base}/audits/${audit}/verdicts?limit=500`)
    const values: Record<string, readonly (string | number)[]> = {
      engagement: [world.engagement],
      audit: [audit],
      snapshot: [snapshot.id],
      other: [snapshot.records[0].id],
      device: [...new Set<number>(snapshot.records.map(({ deviceId }: any) => deviceId))],
      record: snapshot.records.map(({ id }: any) => id),
      verdict: verdicts.verdicts
        .filter(({ outcome }: any) => outcome === 'fail' || outcome === 'unknown')
        .map(({ id }: any) => id),
      table: ['interfaces', 'routes', 'users', 'services', 'addresses', 'software', 'neighbours', 'vlans'],
      format: ['html', 'csv', 'sarif', 'json', 'md'],
      benchmark: ['network-hardening'],
      number: [1],
    }
    let asked = 0
    for (const { method, path } of ENDPOINTS.values()) {
      if (method !== 'get' || /events|folder\.zip|commands\.txt|\.pdf/.test(path)) continue
      const addresses = [...path.matchAll(/:(\w+)/g)].reduce<string[]>(
        (all, [name, key = '']) =>
          all.flatMap((one) => (values[key] ?? []).map((value) => one.replace(name, String(value)))),
        [path],
      )
      for (const address of addresses) {
        const query = /search|groups\/try/.test(address) ? '?q=password&text=password&filter=true' : ''
        const bytes = Buffer.from(
          await (
            await fetch(`${lead.address}/api${address}${query}`, { headers: { cookie: lead.cookie } })
          ).arrayBuffer(),
        )
        asked++
        hunt(
          address,
          address.endsWith('.zip')
            ? Object.values(unzipSync(bytes))
                .map((one) => new TextDecoder().decode(one))
                .join('\n')
            : bytes.toString('utf8'),
        )
      }
    }
    expect(asked).to.be.above(150)
    expect(seen).to.deep.equal([])
  })

  it('stand nowhere in the database in clear', async () => {
    const { database } = world.server.services
    const tables: { name: string }[] = await database.query(
      "SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'",
    )
    expect(tables.length).to.be.above(20)
    for (const { name } of tables) {
      const rows: Record<string, unknown>[] = await database.query(`SELECT * FROM \`${name}\``)
      for (const row of rows)
        for (const [column, value] of Object.entries(row))
          hunt(`${name}.${column}`, Buffer.isBuffer(value) ? value.toString('latin1') : (JSON.stringify(value) ?? ''))
    }
    expect(seen).to.deep.equal([])
  })

  it('stand in no line of the log, also where reading them goes wrong', async () => {
    await world.server.stop()
    const lines: string[] = []
    const server = await startServer({
      dataFolder: world.folder,
      port: 0,
      webFolder: null,
      logLevel: 'trace',
      logTo: { write: (line) => void lines.push(line) },
    })
    const { Client: Someone } = await import('./world.ts')
    const again = new Someone(server.address)
    await again.signIn('lead')
    await again.audit(world.engagement, snapshot.id)
    await again.post(`${base}/own-benchmarks/pasted`, {
      text: `password ${marked('in', 999)}`,
      dialect: 'none',
      like: null,
    })
    await again.drop(world.engagement, {
      'broken.zip': new TextEncoder().encode(`PK\u0003\u0004 password ${marked('in', 998)}`),
    })
    await server.stop()
    hunt('log', lines.join('\n'))
    expect(seen).to.deep.equal([])
    world = await makeWorld(world.folder)
  })
})

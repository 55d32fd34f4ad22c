import { fileURLToPath } from 'node:url'
import { deskOf, simulate, type Desk } from '@jurybox/simulator'
import { connectDemo, loadDemo } from './demo.ts'
import { openDatabase } from './db/data-source.ts'
import { PrivateMariaDb } from './db/mariadb.ts'
import { startServer } from './server.ts'
import { rotateKey } from './vault/rotation.ts'

const root = fileURLToPath(new URL('../../../', import.meta.url))
const mode = process.argv[2] === 'demo' ? 'demo' : 'start'
const port = Number(process.env['JURYBOX_PORT'] ?? 4680)
const say = (text: string): void => void process.stdout.write(`${text}\n`)

// The demo keeps its data apart: one can be thrown away without touching the other.
const dataFolder = process.env['JURYBOX_DATA'] ?? `${root}.data/${mode === 'demo' ? 'demo' : 'own'}`
if (process.argv[2] === 'rotate-key') {
  const mariadb = await PrivateMariaDb.start(dataFolder)
  try {
    const database = await openDatabase(mariadb.access)
    say(`${await rotateKey(database, dataFolder, process.env)} contents, keys and credentials are sealed with the new key.`)
    await database.destroy()
  } finally {
    await mariadb.stop()
  }
  process.exit(0)
}
say('Starting the database …')
// Devices send from elsewhere: outside the demo the port is opened only where it is asked for.
const syslogPort = process.env['JURYBOX_SYSLOG_PORT']
const syslog = mode === 'demo' ? { port: 0, address: '127.0.0.1' } : syslogPort === undefined ? undefined : { port: Number(syslogPort), address: process.env['JURYBOX_SYSLOG_ADDRESS'] ?? '127.0.0.1' }
const server = await startServer({ dataFolder, port, webFolder: `${root}packages/web/dist`, ...(syslog ? { syslog } : {}) })

let network: Awaited<ReturnType<typeof simulate>> | null = null
let desk: Desk | null = null
let stopping = false
async function stop(): Promise<void> {
  if (stopping) return
  stopping = true
  say('\nStopping …')
  await Promise.all([network?.stop(), desk?.stop()])
  await server.stop()
  process.exit(0)
}
process.on('SIGINT', () => void stop())
process.on('SIGTERM', () => void stop())

if (mode === 'demo') {
  const { people, password } = await loadDemo(server.services, `${root}scenario`)
  network = await simulate(`${root}scenario/2026-11-16`, { settings: `${root}scenario`, snmp: true, spread: true, besides: `${root}scenario/besides` })
  network.tellAt({ host: '127.0.0.1', port: server.services.schedules.listener.port ?? 0 })
  desk = deskOf(network)
  await desk.listen()
  await connectDemo(server.services, network, desk)
  say(`\nJury Box is ready:  ${server.address}\n\nSign in as one of (password for all: ${password})`)
  for (const { name, role, fullName } of people) say(`  ${name.padEnd(10)} ${role.padEnd(9)} ${fullName}`)
  say(`\nThe desk of the demo network, with its mail, its tickets and its day:  ${desk.address}`)
} else {
  say(`\nJury Box is ready:  ${server.address}`)
  if (server.services.setupCode !== null) say(`\nThe first visit creates the first user. One-time code:  ${server.services.setupCode}`)
}
say('\nCtrl-C stops it.')

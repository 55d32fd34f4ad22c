import { fileURLToPath } from 'node:url'
import { deskOf, simulate, type Desk } from '@jurybox/simulator'
import { connectDemo, loadDemo } from './demo.ts'
import { openDatabase } from './db/data-source.ts'
import { backUp, exportOne, importOne, offline, restore } from './operation/keeping.ts'
import { settingsOf, type Settings } from './operation/settings.ts'
import { startServer } from './server.ts'
import { fittingVault, rotateKey } from './vault/rotation.ts'

const root = fileURLToPath(new URL('../../../', import.meta.url))
const say = (text: string): void => void process.stdout.write(`${text}\n`)

/** Runs until this is called: ends what was started, in order, and then the process. */
let stop: (status: number) => Promise<void> = async (status) => process.exit(status)
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => void stop(0))
// A fault of the program itself: nothing that was started outlives it.
process.on('uncaughtException', (error) => void failed(error))
process.on('unhandledRejection', (error) => void failed(error))

async function failed(error: unknown): Promise<void> {
  process.stderr.write(`${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`)
  await stop(70)
}

async function rotate(dataFolder: string): Promise<void> {
  await offline(dataFolder, 'rotate-key', async (mariadb) => {
    const database = await openDatabase(mariadb.access)
    say(
      `${await rotateKey(database, await fittingVault(database, dataFolder, process.env), dataFolder, process.env)} ` +
        'contents, keys and credentials re-encrypted with the new key.',
    )
    await database.destroy()
  })
}

async function keep(mode: 'backup' | 'restore', dataFolder: string, file: string | undefined): Promise<void> {
  if (file === undefined || file.startsWith('-')) throw new Error(`usage: ./jurybox ${mode} FILE`)
  if (mode === 'backup') {
    const { tables } = await backUp(dataFolder, file, process.env)
    say(
      `${file}: ${tables.reduce((sum, { rows }) => sum + rows, 0)} rows of ${tables.length} tables. It ` +
        'can only be decrypted with the key of this installation. Keep the key apart from it.',
    )
  } else {
    const {
      manifest: { tables },
      contents,
    } = await restore(dataFolder, file, process.env)
    say(
      `${dataFolder}: ${tables.reduce((sum, { rows }) => sum + rows, 0)} rows of ${tables.length} tables ` +
        `and ${contents} contents verified. Start with JURYBOX_DATA=${dataFolder} ./jurybox start`,
    )
  }
}

async function transfer(mode: 'export' | 'import', dataFolder: string, given: readonly string[]): Promise<void> {
  const [first, second] = given
  const usage = mode === 'export' ? 'export ENGAGEMENT-NUMBER FILE' : 'import FILE SIGN-IN-NAME-OF-ITS-LEAD'
  if (first === undefined || second === undefined) throw new Error(`usage: ./jurybox ${usage}`)
  if (mode === 'export') {
    const { key, rows } = await exportOne(dataFolder, Number(first), second, process.env)
    say(
      `${second}: ${rows['snapshots'] ?? 0} snapshots, ${rows['audits'] ?? 0} audits. It opens with ` +
        `JURYBOX_TRANSFER_KEY=${key}`,
    )
  } else {
    const { engagementId, rows } = await importOne(dataFolder, first, second, process.env)
    say(
      `Engagement ${engagementId}: ${rows['snapshots'] ?? 0} snapshots, ${rows['audits'] ?? 0} audits. ` +
        `${second} leads it.`,
    )
  }
}

async function serve(mode: 'demo' | 'start', settings: Settings, dataFolder: string): Promise<void> {
  say('Starting the database …')
  // Devices send from elsewhere: outside the demo the port is opened only where it is asked for.
  const syslog = mode === 'demo' ? { port: 0, address: '127.0.0.1' } : settings.syslog
  // The desk of the demo is on this machine.
  const own = mode === 'demo' ? { ...settings, alertTargets: [...settings.alertTargets, '127.0.0.1'] } : settings
  const server = await startServer({
    dataFolder,
    settings: own,
    command: mode,
    port: settings.port,
    logLevel: settings.logLevel,
    webFolder: `${root}packages/web/dist`,
    ...(syslog ? { syslog } : {}),
  })
  let network: Awaited<ReturnType<typeof simulate>> | null = null
  let desk: Desk | null = null
  let isStopping = false
  stop = async (status) => {
    if (isStopping) return
    isStopping = true
    say('\nStopping …')
    await Promise.all([network?.stop(), desk?.stop()])
    await server.stop()
    process.exit(status)
  }
  if (mode === 'demo') {
    const { people, password } = await loadDemo(server.services, `${root}scenario`)
    network = await simulate(`${root}scenario/2026-11-16`, {
      settings: `${root}scenario`,
      snmp: true,
      spread: true,
      besides: `${root}scenario/besides`,
    })
    network.tellAt({ host: '127.0.0.1', port: server.services.schedules.listener.port ?? 0 })
    desk = deskOf(network)
    await desk.listen()
    await connectDemo(server.services, network, desk)
    say(`\nJury Box is ready:  ${server.address}\n\nSign in as one of (password for all: ${password})`)
    for (const { name, role, fullName } of people) say(`  ${name.padEnd(10)} ${role.padEnd(9)} ${fullName}`)
    say(`\nSimulated mail server and ticket desk of the demo network:  ${desk.address}`)
  } else {
    say(`\nJury Box is ready:  ${settings.publicUrl?.origin ?? server.address}`)
    if (server.services.setupCode !== null)
      say(`\nOpen the address to create the first user. One-time code:  ${server.services.setupCode}`)
  }
  say('\nCtrl-C stops it.')
}

try {
  const [mode = 'start', ...commandLine] = process.argv.slice(2)
  const settings = settingsOf(process.env, commandLine)
  // The demo keeps its data apart: one can be thrown away without touching the other.
  const dataFolder = settings.dataFolder ?? `${root}.data/${mode === 'demo' ? 'demo' : 'own'}`
  if (mode === 'rotate-key') await rotate(dataFolder)
  else if (mode === 'backup' || mode === 'restore') await keep(mode, dataFolder, commandLine[0])
  else if (mode === 'export' || mode === 'import') await transfer(mode, dataFolder, commandLine)
  else await serve(mode === 'demo' ? 'demo' : 'start', settings, dataFolder)
} catch (error) {
  // What hinders the start is said in a sentence; where in the program it showed helps nobody.
  process.stderr.write(`jurybox: ${error instanceof Error ? error.message : String(error)}\n`)
  await stop(1)
}

import { createServer, type Server } from 'node:http'
import { randomInt } from 'node:crypto'
import { pino } from 'pino'
import { buildId } from '@jurybox/content'
import { openForWork } from './db/data-source.ts'
import { Users } from './auth/entity.ts'
import { PrivateMariaDb } from './db/mariadb.ts'
import { makeApp } from './http/app.ts'
import { poolFaults } from './jobs/pool.ts'
import { FreeSpace, RESERVE_MB } from './operation/availability.ts'
import { claimFolder } from './operation/folder.ts'
import { settingsOf, type Settings } from './operation/settings.ts'
import { ROUTES } from './routes.ts'
import { Services } from './services.ts'
import { fittingVault } from './vault/rotation.ts'

/** How long answers that are under way may take when the server stops. */
const FINISH_MS = 5000
/** Longer than proxies and clients keep an idle connection (60 s, common practice): it is they who close it. */
const KEEP_ALIVE_MS = 75_000

export interface ServerOptions {
  readonly dataFolder: string
  /** What holds the data folder, for whoever tries to work on it as well. */
  readonly command?: string
  readonly settings?: Settings
  readonly port: number
  readonly webFolder: string | null
  readonly signInLimit?: number
  readonly logLevel?: string
  /** Takes the lines of the log; the error output by default. */
  readonly logTo?: { write(line: string): void }
  /** Where syslog messages are listened for; nowhere by default. */
  readonly syslog?: { readonly port: number; readonly address: string }
}

export interface RunningServer {
  readonly address: string
  readonly services: Services
  readonly mariadb: PrivateMariaDb
  stop(): Promise<void>
}

/** Starts the database, brings its schema up to date, and listens on loopback. Whatever it started, `stop` stops. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const settings = options.settings ?? settingsOf({})
  const release = claimFolder(options.dataFolder, options.command ?? 'start')
  const log = pino(
    { level: options.logLevel ?? 'info', redact: ['password', 'cookie', 'authorization'] },
    options.logTo ?? pino.destination(2),
  )
  const mariadb = await startDatabase(options.dataFolder, release, settings.readerPassword)
  try {
    const database = await openForWork(mariadb)
    const services = new Services(
      database,
      await fittingVault(database, options.dataFolder, process.env),
      log,
      buildId(),
      settings,
      new FreeSpace(options.dataFolder),
    )
    mariadb.onChange = (state, detail) => {
      if (state === 'away') services.metrics.databaseRestarts.inc()
      log[state === 'away' ? 'error' : 'info']({ state, detail }, 'the database ended unasked and is started again')
    }
    const heardOfWorkers = (error: unknown): void => log.error({ error: String(error) }, 'a worker thread went wrong')
    poolFaults.on('fault', heardOfWorkers)
    await services.jobs.markInterrupted()
    await services.activity.open()
    await services.sealedVerdicts.sealOld()
    await services.benchmarks.register()
    services.readings.begin((error) => log.error({ error: String(error) }, 'records were not read again'))
    await services.schedules.open()
    await services.windows.open()
    if (options.syslog) await services.schedules.listener.open(options.syslog.port, options.syslog.address)
    await services.alerts.open()
    services.archive.open()
    services.evidence.open()
    if ((await services.database.getRepository(Users).count()) === 0) services.setupCode = setupCode()
    const app = makeApp(services, ROUTES, { webFolder: options.webFolder, signInLimit: options.signInLimit ?? 20 })
    const http = createServer({ keepAliveTimeout: KEEP_ALIVE_MS }, app)
    const port = await listen(http, options.port)
    return {
      address: `http://127.0.0.1:${port}`,
      services,
      mariadb,
      stop: async () => {
        services.closing.abort()
        await closed(http)
        await services.close()
        poolFaults.off('fault', heardOfWorkers)
        await mariadb.stop()
        release()
      },
    }
  } catch (error) {
    await mariadb.stop()
    release()
    throw error
  }
}

async function startDatabase(
  dataFolder: string,
  release: () => void,
  readerPassword: string | null,
): Promise<PrivateMariaDb> {
  try {
    return await PrivateMariaDb.start(dataFolder, undefined, readerPassword)
  } catch (error) {
    const isFull = (await new FreeSpace(dataFolder).mb()) < RESERVE_MB
    release()
    if (isFull) throw new Error(`The disk of ${dataFolder} is full. Free some space and start again. Nothing was lost.`)
    throw error
  }
}

/** Takes no new connection, lets answers that are under way finish, and then ends what is left. */
async function closed(http: Server): Promise<void> {
  http.keepAliveTimeout = 1
  const ended = new Promise<void>((resolve) => http.close(() => resolve()))
  http.closeIdleConnections()
  const timer = setTimeout(() => http.closeAllConnections(), FINISH_MS)
  await ended
  clearTimeout(timer)
}

/** Ten digits in two groups: short enough to type, one use, rate-limited. */
function setupCode(): string {
  const digits = Array.from({ length: 10 }, () => randomInt(10)).join('')
  return `${digits.slice(0, 5)}-${digits.slice(5)}`
}

function listen(http: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    http.once('error', (error: NodeJS.ErrnoException) =>
      reject(
        error.code === 'EADDRINUSE' ? new Error(`Port ${port} is in use. Choose another with JURYBOX_PORT`) : error,
      ),
    )
    http.listen(port, '127.0.0.1', () => {
      const address = http.address()
      resolve(typeof address === 'object' && address ? address.port : port)
    })
  })
}

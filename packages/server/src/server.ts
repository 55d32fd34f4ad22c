import { createServer, type Server } from 'node:http'
import { mkdirSync } from 'node:fs'
import { randomInt } from 'node:crypto'
import { pino } from 'pino'
import { buildId } from '@jurybox/content'
import { openDatabase } from './db/data-source.ts'
import { Users } from './db/entities.ts'
import { PrivateMariaDb } from './db/mariadb.ts'
import { makeApp } from './http/app.ts'
import { ROUTES } from './routes.ts'
import { Services } from './services.ts'
import { fittingVault } from './vault/rotation.ts'

export interface ServerOptions {
  readonly dataFolder: string
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
  stop(): Promise<void>
}

/** Starts the database, brings its schema up to date, and listens on loopback. Whatever it started, `stop` stops. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  mkdirSync(options.dataFolder, { recursive: true, mode: 0o700 })
  const log = pino({ level: options.logLevel ?? 'info', redact: ['password', 'cookie', 'authorization'] }, options.logTo ?? pino.destination(2))
  const mariadb = await PrivateMariaDb.start(options.dataFolder)
  try {
    const database = await openDatabase(mariadb.access)
    const services = new Services(database, await fittingVault(database, options.dataFolder, process.env), log, buildId())
    await services.jobs.markInterrupted()
    await services.benchmarks.register()
    services.readings.begin((error) => log.error({ error: String(error) }, 'records were not read again'))
    await services.schedules.open()
    if (options.syslog) await services.schedules.listener.open(options.syslog.port, options.syslog.address)
    await services.alerts.open()
    services.archive.open()
    if ((await services.database.getRepository(Users).count()) === 0) services.setupCode = setupCode()
    const app = makeApp(services, ROUTES, { webFolder: options.webFolder, signInLimit: options.signInLimit ?? 20 })
    const http = createServer(app)
    const port = await listen(http, options.port)
    return {
      address: `http://127.0.0.1:${port}`,
      services,
      stop: async () => {
        http.closeAllConnections()
        await new Promise<void>((resolve) => http.close(() => resolve()))
        await services.close()
        await mariadb.stop()
      },
    }
  } catch (error) {
    await mariadb.stop()
    throw error
  }
}

/** Ten digits in two groups: short enough to type, one use, rate-limited. */
function setupCode(): string {
  const digits = Array.from({ length: 10 }, () => randomInt(10)).join('')
  return `${digits.slice(0, 5)}-${digits.slice(5)}`
}

function listen(http: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    http.once('error', (error: NodeJS.ErrnoException) => reject(error.code === 'EADDRINUSE' ? new Error(`Port ${port} is taken; choose another with JURYBOX_PORT`) : error))
    http.listen(port, '127.0.0.1', () => {
      const address = http.address()
      resolve(typeof address === 'object' && address ? address.port : port)
    })
  })
}

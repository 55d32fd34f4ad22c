import { randomUUID } from 'node:crypto'
import type { Express, Request, RequestHandler, Response } from 'express'
import { pinoHttp } from 'pino-http'
import type { Services } from '../services.ts'
import { OUTAGE_WORDS, RESERVE_MB } from '../operation/availability.ts'
import { NOWHERE } from './problem.ts'

/** How long a question to the database may take before it counts as away. */
const PATIENCE_MS = 3000

/** For the operators of the server: whether it is alive, whether it can work, and its figures. */
export function serveOperation(app: Express, services: Services): void {
  app.get('/healthz', (_, response) => {
    response.json({ alive: true })
  })
  app.get('/readyz', async (_, response) => {
    const checks = await checksOf(services)
    const failed = Object.entries(checks).filter(([, { ok }]) => !ok)
    response.status(failed.length === 0 ? 200 : 503).json({ ready: failed.length === 0, checks })
  })
  app.get('/metrics', async (request, response) => {
    // A proxy passes on what comes from elsewhere: the figures are for this machine.
    if (request.get('x-forwarded-for') !== undefined) {
      response.status(404).json({ error: NOWHERE })
      return
    }
    response.type(services.metrics.registry.contentType).send(await services.metrics.registry.metrics())
  })
}

interface Check {
  readonly ok: boolean
  readonly reason?: string
}

async function checksOf({
  database,
  outside,
  space,
}: Services): Promise<Record<'database' | 'workers' | 'disk', Check>> {
  const within = async (work: Promise<unknown>, reason: string): Promise<Check> => {
    let timer: NodeJS.Timeout | undefined
    const late = new Promise<Check>(
      (resolve) => (timer = setTimeout(() => resolve({ ok: false, reason }), PATIENCE_MS)),
    )
    const done = work.then(
      (): Check => ({ ok: true }),
      (): Check => ({ ok: false, reason }),
    )
    return Promise.race([done, late]).finally(() => clearTimeout(timer))
  }
  const mb = await space.mb()
  return {
    database: await within(database.query('SELECT 1'), OUTAGE_WORDS['database-away']),
    workers: await within(outside.json(Buffer.from('{}')), 'No worker thread answers.'),
    disk: mb >= RESERVE_MB ? { ok: true } : { ok: false, reason: `${mb} MB are free; ${RESERVE_MB} are needed.` },
  }
}

/**
 * A line for each request: who, what, how it ended. No query and no body, which may hold what customers call their own.
 */
export function accessLog({ log, metrics }: Services): RequestHandler {
  const write = pinoHttp({
    logger: log,
    genReqId: () => randomUUID(),
    customLogLevel: (_, response, error) => (error || response.statusCode >= 500 ? 'warn' : 'debug'),
    quietReqLogger: true,
    serializers: {
      req: ({ id, method, url }: { id: string; method: string; url: string }) => ({
        id,
        method,
        path: url.split('?')[0],
      }),
      res: ({ statusCode }: { statusCode: number }) => ({ status: statusCode }),
      err: ({ message }: { message: string }) => ({ message }),
    },
  })
  return (request: Request, response: Response, next) => {
    write(request, response)
    response.setHeader('X-Request-Id', String(request.id))
    const began = process.hrtime.bigint()
    response.once('finish', () => {
      const route = typeof response.locals['route'] === 'string' ? response.locals['route'] : 'other'
      const seconds = Number(process.hrtime.bigint() - began) / 1e9
      metrics.requests.observe({ method: request.method, route, status: response.statusCode }, seconds)
    })
    next()
  }
}

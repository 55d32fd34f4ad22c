import type { Endpoint } from '@jurybox/api/endpoint'
import { randomBytes, timingSafeEqual } from 'node:crypto'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { parse as parseCookies } from 'cookie'
import express, { type NextFunction, type Request, type RequestHandler, type Response } from 'express'
import { rateLimit } from 'express-rate-limit'
import helmet from 'helmet'
import multer from 'multer'
import { LIMITS } from '@jurybox/core/snapshot'
import type { z } from 'zod'
import { paramsSchema } from '@jurybox/api/parameters'
import { may, type Role } from '@jurybox/api/roles'
import { Memberships } from '../engagements/entity.ts'
import type { Session } from '../auth/entity.ts'
import type { Services } from '../services.ts'
import { OUTAGE_WORDS, outageOf } from '../operation/availability.ts'
import { serveApiDocs } from './api-docs.ts'
import { accessLog, serveOperation } from './operation.ts'
import { NOWHERE, Problem } from './problem.ts'
import { invalid } from './invalid.ts'
import { ResponseMismatch, responseCheck } from './response-check.ts'
import type { Caller, Context, Route } from './route.ts'

export const COOKIE = 'jurybox_session'

/** Bytes that the body of a request may have, in JSON. */
export const BODY_LIMITS = { beforeSignIn: 4 * 1024, usual: 64 * 1024, large: 1024 * 1024 } as const

/** What a user may request whose password was set by another. */
const OPEN_BEFORE_CHANGE: ReadonlySet<string> = new Set(['/session', '/password', '/sign-out'])
/** How long a confirmed identity counts for dangerous actions. */
const FRESH_MS = 15 * 60_000

export interface AppOptions {
  /** Folder of the built interface; without it only /api answers. */
  readonly webFolder: string | null
  /** Guesses at passwords allowed per address in a quarter of an hour. */
  readonly signInLimit: number
}

/** The whole HTTP face: the interface at /, the routes below /api. */
export function makeApp(services: Services, routes: readonly Route[], options: AppOptions): express.Express {
  const app = express()
  app.disable('x-powered-by')
  const { publicUrl, trustedProxies } = services.settings
  // Without a proxy, forwarded addresses are not trusted.
  app.set('trust proxy', trustedProxies.length > 0 ? [...trustedProxies] : publicUrl ? 'loopback' : false)
  app.use(accessLog(services))
  app.use(checkHost(publicUrl))
  app.use((_, response, next) => {
    response.locals['nonce'] = randomBytes(16).toString('base64')
    next()
  })
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          scriptSrc: ["'self'"],
          // Vuetify writes its theme into a <style> at run time; style attributes are set by script and need no rule.
          styleSrc: ["'self'", (_, response) => `'nonce-${(response as Response).locals['nonce'] as string}'`],
          styleSrcAttr: ["'unsafe-inline'"],
          fontSrc: ["'self'"],
          imgSrc: ["'self'", 'data:'],
          connectSrc: ["'self'"],
          workerSrc: ["'self'"],
          frameSrc: ["'self'"],
          frameAncestors: ["'self'"],
          baseUri: ["'none'"],
          formAction: ["'self'"],
        },
      },
      frameguard: { action: 'sameorigin' },
      // On loopback by plain HTTP no browser is told otherwise.
      hsts: isSecure(services) && { maxAge: 365 * 24 * 3600, includeSubDomains: false },
      crossOriginEmbedderPolicy: false,
    }),
  )
  serveOperation(app, services)
  serveApiDocs(app)
  const api = express.Router()
  api.use((_, response, next) => {
    response.setHeader('Cache-Control', 'no-store')
    next()
  })
  const guesses = rateLimit({
    windowMs: 15 * 60_000,
    limit: options.signInLimit,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    skipSuccessfulRequests: true,
    message: { error: 'Too many attempts. Wait a quarter of an hour and try again.' },
  })
  const upload = multer({
    storage: multer.memoryStorage(),
    limits: { files: LIMITS.files, fileSize: LIMITS.fileBytes, fieldSize: 1024 * 1024, fields: 20 },
  }).array('files')
  for (const route of routes) {
    const { endpoint } = route
    const before: RequestHandler[] = [
      ...(endpoint.guessable ? [guesses] : []),
      identify(services, endpoint),
      ...(endpoint.upload ? [withinLimit, upload] : bodyOf(services, endpoint)),
    ]
    api[endpoint.method](endpoint.path, ...before, answer(services, route))
  }
  api.use(() => {
    throw new Problem(404, NOWHERE)
  })
  app.use('/api', api)
  if (options.webFolder !== null) serveInterface(app, options.webFolder)
  app.use(tellProblem(services))
  return app
}

/** A large body is taken apart by a worker: no request holds up the others. */
function bodyOf({ outside }: Services, { access, large }: Endpoint): RequestHandler[] {
  if (access === 'everyone') return [express.json({ limit: BODY_LIMITS.beforeSignIn })]
  if (large !== true) return [express.json({ limit: BODY_LIMITS.usual })]
  const parse: RequestHandler = async (request, _response, next) => {
    const { body } = request as { body: unknown }
    if (Buffer.isBuffer(body))
      request.body =
        body.length > BODY_LIMITS.usual ? await outside.json(body) : (JSON.parse(body.toString() || '{}') as unknown)
    next()
  }
  return [express.raw({ type: 'application/json', limit: BODY_LIMITS.large }), parse]
}

/** DNS rebinding: only names of this machine, and the public one where there is one, are answered. */
function checkHost(publicUrl: URL | null): RequestHandler {
  const known = ['127.0.0.1', 'localhost', '[::1]', ...(publicUrl ? [publicUrl.hostname] : [])]
  return (request, response, next) => {
    const host = (request.headers.host ?? '').replace(/:\d+$/, '').toLowerCase()
    if (known.includes(host)) next()
    else
      response
        .status(421)
        .json({ error: `This server only answers to ${known.filter((name) => name !== '[::1]').join(', ')}.` })
  }
}

/** Whether browsers reach the server by TLS. */
export function isSecure({ settings }: Pick<Services, 'settings'>): boolean {
  return settings.publicUrl?.protocol === 'https:'
}

interface Identified {
  caller: Caller | null
  engagementId: number
  role: Role
  params: Readonly<Record<string, unknown>>
}

/** Finds out who is asking and whether they may, before a body is read. */
function identify(services: Services, route: Endpoint): RequestHandler {
  const schema = paramsSchema(route.path)
  return async (request, response, next) => {
    const identified: Identified = { caller: null, engagementId: 0, role: 'reader', params: {} }
    response.locals['identified'] = identified
    response.locals['route'] = route.path
    // What makes room is never refused.
    if (route.method !== 'get' && route.method !== 'delete') await services.space.require()
    if (route.access === 'everyone') {
      next()
      return
    }
    const bearer = /^Bearer (\S+)$/.exec(request.headers.authorization ?? '')?.[1]
    if (route.token && bearer !== undefined) {
      const engagementId = Number(request.params['engagement']) || 0
      const known = await services.tokens.find(bearer, engagementId)
      if (!known) throw new Problem(401, 'The token is not known, has expired, or was revoked.')
      if (!known.tables.some((table) => table === request.params['table']))
        throw new Problem(403, `The token is for ${known.tables.join(', ')}.`)
      Object.assign(identified, { engagementId, params: { ...request.params } })
      next()
      return
    }
    const token = parseCookies(request.headers.cookie ?? '')[COOKIE]
    const known = token === undefined ? null : await services.sessions.find(token)
    if (!known || token === undefined) throw new Problem(401, 'Sign in first.')
    identified.caller = { ...known, token }
    if (route.method !== 'get' && !sameText(request.get('x-csrf-token') ?? '', known.session.csrf))
      throw new Problem(403, 'The request has no valid CSRF token. Reload the page and try again.')
    if (known.user.mustChange && !OPEN_BEFORE_CHANGE.has(route.path))
      throw new Problem(403, 'Change your one-time password first.', { code: 'password-change-needed' })
    if (route.access === 'administrator' && !known.user.isAdmin)
      throw new Problem(403, 'Only an administrator can do this.')
    // What RFC 9470 calls insufficient user authentication.
    if (route.fresh && !isFresh(known.session))
      throw new Problem(401, 'Confirm your identity with your password.', { code: 'confirm-identity' })
    const params = schema.safeParse(request.params)
    if (!params.success) throw new Problem(404, NOWHERE)
    identified.params = params.data
    if (route.access !== 'signed-in' && route.access !== 'administrator') {
      const engagementId = Number(request.params['engagement']) || 0
      const membership = await services.database
        .getRepository(Memberships)
        .findOneBy({ engagementId, userId: known.user.id })
      if (!membership) throw new Problem(404, 'There is no such engagement, or you are not a member of it.')
      if (!may(membership.role, route.access))
        throw new Problem(403, `Your role (${membership.role}) does not allow this.`)
      identified.engagementId = engagementId
      identified.role = membership.role
    }
    next()
  }
}

/** Whether its owner showed lately who they are. */
export function isFresh({ provedAt }: Session): boolean {
  return Date.now() - (provedAt?.getTime() ?? 0) <= FRESH_MS
}

/**
 * Files are held in memory while they are read: what they may come to in all is known before the first byte is taken.
 */
function withinLimit(request: Request, _: Response, next: NextFunction): void {
  const size = Number(request.get('content-length') ?? Number.NaN)
  if (Number.isNaN(size)) throw new Problem(411, 'The upload has no Content-Length.')
  if (size > LIMITS.totalBytes) throw new Problem(413, `The upload is larger than ${LIMITS.totalBytes} bytes in all.`)
  next()
}

function sameText(a: string, b: string): boolean {
  const [x, y] = [Buffer.from(a), Buffer.from(b)]
  return x.length === y.length && timingSafeEqual(x, y)
}

function answer(services: Services, { endpoint, handle }: Route): RequestHandler {
  const check = services.settings.checkResponses ? responseCheck(endpoint) : null
  return async (request, response) => {
    const { caller, engagementId, role, params } = response.locals['identified'] as Identified
    const body = endpoint.body
      ? parsed(endpoint.body, endpoint.upload ? await fields(services, request) : request.body, 'body')
      : undefined
    const query = endpoint.query ? parsed(endpoint.query, request.query, 'query') : undefined
    const gone = new AbortController()
    response.once('close', () => gone.abort())
    const handled = handle({
      services,
      request,
      response,
      // Routes open to everyone do not read the caller.
      caller: caller as Caller,
      engagementId,
      role,
      params,
      body,
      query,
      gone: gone.signal,
    } as Context)
    const result = await handled.catch((error: unknown) => {
      if (!gone.signal.aborted) throw error
      services.log.info({ path: request.path, error: String(error) }, 'whoever asked has gone')
    })
    // Who has gone is sent nothing.
    if (gone.signal.aborted) return
    check?.(result, response.headersSent)
    if (result !== undefined) response.json(result)
    else if (!response.headersSent) response.status(204).end()
  }
}

/** The text field of a multipart form holds JSON. */
async function fields({ outside }: Services, request: Request): Promise<unknown> {
  const text = (request.body as Record<string, unknown> | undefined)?.['data']
  if (typeof text !== 'string') return {}
  if (text.length > BODY_LIMITS.usual) return outside.json(Buffer.from(text))
  try {
    return JSON.parse(text) as unknown
  } catch {
    throw new Problem(400, 'The field "data" is not JSON.')
  }
}

function parsed(schema: z.ZodType, input: unknown, what: 'body' | 'query'): unknown {
  const result = schema.safeParse(input ?? {})
  if (result.success) return result.data
  throw invalid(result.error, what)
}

function tellProblem(services: Services): express.ErrorRequestHandler {
  return (error: unknown, request, response, _next) => {
    if (response.headersSent) {
      response.end()
      return
    }
    const outage = outageOf(error)
    if (outage) {
      services.log.warn({ path: request.path, outage }, 'a request was refused')
      response.status(503).setHeader('Retry-After', '5').json({ error: OUTAGE_WORDS[outage] })
    } else if (isTwin(error)) {
      response.status(409).json({ error: 'The name already exists. Reload the page and check.' })
    } else if (error instanceof Problem) {
      response.status(error.status).json({ error: error.message, ...error.detail })
    } else if (error instanceof URIError || statusOf(error) === 404) {
      response.status(404).json({ error: NOWHERE })
    } else if (error instanceof multer.MulterError) {
      response.status(413).json({ error: `The upload was refused: ${error.message}.` })
    } else if (
      error instanceof SyntaxError ||
      (error instanceof Error && 'type' in error && String(error.type).startsWith('entity.'))
    ) {
      response.status(400).json({ error: 'The request could not be read: expected JSON within the size limit.' })
    } else if (statusOf(error) === 400) {
      // Of a file whose address has a broken escape.
      response.status(404).json({ error: NOWHERE })
    } else if (error instanceof ResponseMismatch) {
      // Only where responses are checked: in tests and development.
      services.log.error({ path: request.path, error: error.message }, 'a response does not fit its contract')
      response.status(500).json({ error: error.message })
    } else {
      services.log.error(
        {
          path: request.path,
          error: error instanceof Error ? { message: error.message, stack: error.stack } : String(error),
        },
        'request failed',
      )
      response.status(500).json({ error: 'Internal error. The server log has the details.' })
    }
  }
}

function statusOf(error: unknown): unknown {
  return error instanceof Error && 'status' in error ? error.status : null
}

/** Two people made the same thing at once: the database kept the first. */
function isTwin(error: unknown): boolean {
  return error instanceof Error && 'code' in error && error.code === 'ER_DUP_ENTRY'
}

function serveInterface(app: express.Express, folder: string): void {
  const page = existsSync(join(folder, 'index.html'))
    ? readFileSync(join(folder, 'index.html'), 'utf8')
    : '<p>The interface is not built.</p>'
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }))
  app.use(express.static(folder, { index: false }))
  app.get('/*path', sendPage)
  app.get('/', sendPage)
  function sendPage(_: Request, response: Response): void {
    response.setHeader('Cache-Control', 'no-store')
    response.type('html').send(page.replaceAll('%NONCE%', response.locals['nonce'] as string))
  }
}

/**
 * Every route with bodies made after its own schema, by everyone; and every route of one engagement by those of
 * another.
 */
import { z } from 'zod'
import { ROLES } from '@jurybox/api/roles'
import { ENDPOINTS } from '@jurybox/api'
import type { Endpoint } from '@jurybox/api/endpoint'
import { Client, type World } from '../packages/server/test/world.ts'
import { IN_PATHS, bodyAfter, oneOf, type Random } from './hostile.ts'
import type { AttackReport } from './report.ts'

/** Longer than any question to an empty engagement takes. */
const PATIENCE_MS = 30_000

/** Sent as it is: some hostile numbers are no numbers of JavaScript. */
export async function send(
  client: Client,
  method: string,
  path: string,
  body: string | FormData | undefined,
): Promise<{ status: number; text: string; ms: number }> {
  const began = Date.now()
  const ask = (): Promise<Response> =>
    fetch(`${client.address}/api${path}`, {
      method,
      signal: AbortSignal.timeout(PATIENCE_MS),
      headers: {
        cookie: client.cookie,
        'x-csrf-token': client.csrf,
        ...(typeof body === 'string' ? { 'content-type': 'application/json' } : {}),
      },
      ...(body === undefined ? {} : { body }),
    })
  // A connection that is kept may be closed just as it is used again: then it is asked once more (RFC 9112, 9.3.1). A
  // server that has gone does not answer the second time either.
  const response = await ask().catch((error: unknown) => {
    const { cause } = error as { cause?: { code?: string } }
    if (cause?.code !== 'ECONNRESET') throw error
    return ask()
  })
  const text = response.headers.get('content-type')?.includes('event-stream') ? '' : await response.text()
  if (response.body && !response.bodyUsed) await response.body.cancel()
  return { status: response.status, text, ms: Date.now() - began }
}

/** Why an answer is none that a server may give; null for one that it may. */
function faultOf({ status, text }: { status: number; text: string }, secrets: readonly string[]): string | null {
  if (status >= 500 && status !== 503) return `answered ${status} ${text.slice(0, 120)}`
  if (/\n {4}at .*:\d+:\d+/.test(text)) return 'showed a stack'
  const secret = secrets.find((one) => text.includes(one))
  return secret === undefined ? null : `showed the secret ${secret}`
}

function schemaOf(route: Endpoint): Parameters<typeof bodyAfter>[0] {
  return route.body
    ? (z.toJSONSchema(route.body, { io: 'input', unrepresentable: 'any' }) as Parameters<typeof bodyAfter>[0])
    : { type: 'object', properties: {} }
}

function pathFor(route: Endpoint, engagement: number, random: Random): string {
  return route.path.replace(/:(\w+)/g, (_, name: string) =>
    name === 'engagement'
      ? String(engagement)
      : name === 'benchmark' && random() < 0.5
        ? 'network-hardening'
        : oneOf(random, IN_PATHS),
  )
}

function bodyFor(route: Endpoint, random: Random): string | FormData | undefined {
  if (route.method === 'get' || route.method === 'delete') return undefined
  const text = bodyAfter(schemaOf(route), random)
  if (!route.upload) return text
  const form = new FormData()
  form.set('data', text)
  for (let i = 0; i < Math.floor(random() * 4); i++)
    form.append(
      'files',
      new Blob([
        oneOf(random, [
          'hostname a\n',
          '',
          '\0\0\0',
          '<?xml version="1.0"?><a>',
          'PK\u0003\u0004',
          '{"a":',
          'x'.repeat(50_000),
        ]),
      ]),
      oneOf(random, ['a.cfg', '../b.cfg', 'c.zip', 'devices/a/config.txt', 'snapshot.yaml']),
    )
  return form
}

function queryFor(route: Endpoint, random: Random): string {
  if (!route.query || random() < 0.3) return ''
  const { properties = {} } = z.toJSONSchema(route.query, { io: 'input', unrepresentable: 'any' }) as {
    properties?: Record<string, object>
  }
  const query = new URLSearchParams()
  for (const name of Object.keys(properties))
    if (random() < 0.6)
      query.set(
        name,
        oneOf(random, [
          '1',
          '-1',
          '0',
          '1e400',
          '',
          'x',
          "' OR 1=1",
          '999999999999999999',
          '(a+)+$',
          'site == "a"',
          '‮',
          '10.0.0.1',
        ]),
      )
  return query.size > 0 ? `?${query}` : ''
}

const NOT_ASKED = new Set([
  '/sign-out',
  '/password',
  '/second-factor/begin',
  '/second-factor',
  '/sessions',
  '/installation/key',
  '/accounts/:account',
  '/accounts/:account/reset',
])

/** Bodies and queries made after the schema of every route, by everyone who may ask it and by some who may not. */
export async function fuzzRoutes(
  report: AttackReport,
  world: World,
  random: Random,
  rounds: number,
  secrets: readonly string[],
): Promise<void> {
  await report.part('bodies and queries of every route', async (tried) => {
    const clients = await Promise.all([...ROLES, 'founder'].map((name) => world.client(name)))
    for (let round = 0; round < rounds; round++) {
      for (const route of ENDPOINTS.values()) {
        if (route.path.endsWith('/events') || NOT_ASKED.has(route.path)) continue
        const client =
          route.access === 'everyone'
            ? new Client(world.server.address)
            : route.access === 'administrator'
              ? clients.at(-1)
              : oneOf(random, clients)
        if (!client) continue
        const method = route.method.toUpperCase()
        const path = pathFor(route, world.engagement, random) + queryFor(route, random)
        const body = bodyFor(route, random)
        const what = `${method} ${path.slice(0, 160)} ${typeof body === 'string' ? body.slice(0, 300) : ''}`
        try {
          tried(what, faultOf(await send(client, method, path, body), secrets))
        } catch (error) {
          tried(what, `no answer: ${String(error)}`)
        }
      }
    }
  })
}

/** Nobody reaches an engagement that they are no member of, by any route, nor what belongs to it through their own. */
export async function crossEngagements(report: AttackReport, world: World, secrets: readonly string[]): Promise<void> {
  await report.part('routes × roles × engagements', async (tried) => {
    const { services } = world.server
    const founder = await services.database.query<{ id: number }[]>("SELECT id FROM users WHERE name = 'founder'")
    const lead = { id: founder[0]?.id ?? 0 } as Parameters<typeof services.createEngagement>[1]
    const elsewhere = (await services.createEngagement({ title: 'Elsewhere', client: '' }, lead)).id
    const owner = await world.client('founder')
    const frozen = await owner.freeze(elsewhere, {
      'other.cfg': 'hostname other\nsnmp-server community zq-turnstone RO\nip http server\n',
    })
    const audit = await owner.audit(elsewhere, frozen.json.id)
    const { json: verdicts } = await owner.get(`/engagements/${elsewhere}/audits/${audit.auditId}/verdicts`)
    const ids: Record<string, number> = {
      snapshot: frozen.json.id,
      record: frozen.json.records[0].id,
      other: frozen.json.records[0].id,
      device: frozen.json.records[0].deviceId,
      audit: audit.auditId,
      verdict: verdicts.verdicts[0].id,
      user: lead.id,
    }
    for (const role of ROLES) {
      const client = await world.client(role)
      for (const route of ENDPOINTS.values()) {
        if (!route.path.includes(':engagement') || route.path.endsWith('/events')) continue
        const method = route.method.toUpperCase()
        const body = route.method === 'get' || route.method === 'delete' ? undefined : '{}'
        const concrete = (engagement: number): string =>
          route.path.replace(/:(\w+)/g, (_, name: string) =>
            name === 'engagement'
              ? String(engagement)
              : name === 'benchmark'
                ? 'network-hardening'
                : name === 'form'
                  ? 'json'
                  : String(ids[name] ?? 1),
          )
        const there = await send(client, method, concrete(elsewhere), body)
        tried(`${role} ${method} ${concrete(elsewhere)}`, there.status === 404 ? null : `answered ${there.status}`)
        // The numbers of what belongs elsewhere, in one's own engagement.
        if (!/:(?:snapshot|record|device|audit|verdict)\b/.test(route.path)) continue
        const own = await send(client, method, concrete(world.engagement), body)
        const shown = /\bother\b|turnstone/.test(own.text) ? `showed ${own.text.slice(0, 160)}` : faultOf(own, secrets)
        tried(
          `${role} ${method} ${concrete(world.engagement)}`,
          shown ??
            (own.status < 300 &&
            own.text.length > 2 &&
            !['[]', '{}'].includes(own.text) &&
            /"(?:device|lines|records|verdicts)":\s*[["][^\]]/.test(own.text)
              ? `answered ${own.text.slice(0, 160)}`
              : null),
        )
      }
    }
  })
}

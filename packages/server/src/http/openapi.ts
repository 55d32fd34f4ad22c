import type { Endpoint } from '@jurybox/api/endpoint'
import { PARAMETERS } from '@jurybox/api/parameters'
import { z } from 'zod'

type Json = Record<string, unknown>

/** The API described in OpenAPI 3.1, from the contract that checks it; `build` is the version. */
export function openApi(endpoints: ReadonlyMap<string, Endpoint>, build: string): Json {
  const paths: Record<string, Json> = {}
  const shared: Json = {}
  for (const [name, endpoint] of endpoints) {
    const path = `/api${endpoint.path.replace(/:(\w+)/g, '{$1}')}`
    paths[path] = { ...paths[path], [endpoint.method]: operationOf(name, endpoint, hoisted(name, shared)) }
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Jury Box',
      version: build,
      description:
        'Every request but a GET carries the CSRF token of its session in the header X-CSRF-Token. Times ' +
        'are UTC (RFC 3339); lines count from 1.',
    },
    servers: [{ url: '/' }],
    security: [{ session: [] }],
    paths,
    components: {
      securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'jurybox_session' } },
      schemas: {
        ...shared,
        Problem: jsonSchema(
          z.object({
            error: z.string().describe('What happened and what to do'),
            code: z.string().optional(),
            fields: z.array(z.object({ field: z.string(), message: z.string() })).optional(),
          }),
          'output',
        ),
        StillReading: jsonSchema(
          z.object({
            error: z.string(),
            reading: z.object({ done: z.number(), total: z.number(), of: z.string().optional() }),
          }),
          'output',
        ),
      },
    },
  }
}

/** Turns a schema into JSON Schema 2020-12, which OpenAPI 3.1 embeds. */
type ToJson = (schema: z.ZodType, io: 'input' | 'output') => Json

/** What a schema defines for itself moves to the shared components: in a larger document its references lead there. */
function hoisted(name: string, shared: Json): ToJson {
  return (schema, io) => {
    const { $defs, ...rest } = JSON.parse(
      JSON.stringify(jsonSchema(schema, io)).replaceAll('"#/$defs/', `"#/components/schemas/${name}.${io}.`),
    ) as Json
    for (const [key, value] of Object.entries($defs ?? {})) shared[`${name}.${io}.${key}`] = value
    return rest
  }
}

function operationOf(name: string, endpoint: Endpoint, toJson: ToJson): Json {
  const tag = endpoint.path.split('/').find((part) => part !== '' && part !== 'engagements' && !part.startsWith(':'))
  return {
    operationId: name,
    summary: endpoint.summary,
    description: `Access: ${endpoint.access}${endpoint.fresh ? '; identity confirmed within 15 minutes' : ''}`,
    tags: [(tag ?? 'engagements').split('.')[0]],
    ...(endpoint.access === 'everyone' ? { security: [] } : {}),
    parameters: [...inPath(endpoint.path), ...inQuery(endpoint, toJson)],
    ...(endpoint.body
      ? { requestBody: { required: true, content: bodyContent(endpoint, toJson(endpoint.body, 'input')) } }
      : {}),
    responses: responsesOf(endpoint, toJson),
  }
}

function inPath(path: string): Json[] {
  return [...path.matchAll(/:(\w+)/g)].map(([, name = '']) => ({
    name,
    in: 'path',
    required: true,
    schema: jsonSchema(PARAMETERS[name as keyof typeof PARAMETERS], 'output'),
  }))
}

function inQuery({ query }: Endpoint, toJson: ToJson): Json[] {
  if (!query) return []
  const { properties = {}, required = [] } = toJson(query, 'input') as {
    properties?: Record<string, Json>
    required?: string[]
  }
  return Object.entries(properties).map(([name, schema]) => ({
    name,
    in: 'query',
    required: required.includes(name),
    schema,
  }))
}

function bodyContent(endpoint: Endpoint, schema: Json): Json {
  return endpoint.upload
    ? {
        'multipart/form-data': {
          schema: {
            type: 'object',
            properties: { data: schema, files: { type: 'array', items: { type: 'string', format: 'binary' } } },
          },
          encoding: { data: { contentType: 'application/json' } },
        },
      }
    : { 'application/json': { schema } }
}

function responsesOf(endpoint: Endpoint, toJson: ToJson): Json {
  const problem = {
    description: 'What went wrong',
    content: { 'application/json': { schema: { $ref: '#/components/schemas/Problem' } } },
  }
  return {
    ...successOf(endpoint, toJson),
    ...(endpoint.method === 'get' && endpoint.response
      ? {
          202: {
            description: 'The answer is still being worked out; ask again',
            content: { 'application/json': { schema: { $ref: '#/components/schemas/StillReading' } } },
          },
        }
      : {}),
    '4XX': problem,
    '5XX': problem,
  }
}

function successOf({ response, file, events }: Endpoint, toJson: ToJson): Json {
  if (file !== undefined)
    return { 200: { description: 'The file', content: { [file]: { schema: { type: 'string', format: 'binary' } } } } }
  if (events)
    return {
      200: {
        description: `Events: ${Object.keys(events).join(', ')}`,
        content: {
          'text/event-stream': { schema: { oneOf: Object.values(events).map((one) => toJson(one, 'output')) } },
        },
      },
    }
  if (!response) return { 204: { description: 'Done; there is nothing to return' } }
  return { 200: { description: 'The result', content: { 'application/json': { schema: toJson(response, 'output') } } } }
}

function jsonSchema(schema: z.ZodType, io: 'input' | 'output'): Json {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: 'any', reused: 'inline' }) as Json
  return rest
}

import { z } from 'zod'
import type { Route } from './route.ts'

/** The API described in OpenAPI 3.1, from the schemas that check it. */
export function openApi(routes: readonly Route[]): object {
  const paths: Record<string, Record<string, object>> = {}
  for (const route of routes) {
    const path = `/api${route.path.replace(/:(\w+)/g, '{$1}')}`
    const inPath = [...route.path.matchAll(/:(\w+)/g)].map((found) => ({
      name: found[1],
      in: 'path',
      required: true,
      schema: { type: 'string' },
    }))
    const query = route.query
      ? (z.toJSONSchema(route.query, { io: 'input', unrepresentable: 'any' }) as {
          properties?: Record<string, object>
        })
      : {}
    const inQuery = Object.entries(query.properties ?? {}).map(([name, schema]) => ({
      name,
      in: 'query',
      required: false,
      schema,
    }))
    const body = route.body ? z.toJSONSchema(route.body, { io: 'input', unrepresentable: 'any' }) : null
    const content =
      body &&
      (route.upload
        ? {
            'multipart/form-data': {
              schema: {
                type: 'object',
                properties: {
                  data: { type: 'string', description: `JSON: ${JSON.stringify(body)}` },
                  files: { type: 'array', items: { type: 'string', format: 'binary' } },
                },
              },
            },
          }
        : { 'application/json': { schema: body } })
    paths[path] = {
      ...paths[path],
      [route.method]: {
        summary: route.summary,
        description: `Open to: ${route.access}`,
        parameters: [...inPath, ...inQuery],
        ...(content ? { requestBody: { required: true, content } } : {}),
        responses: {
          200: { description: 'As the summary says' },
          '4XX': {
            description: 'What went wrong',
            content: { 'application/json': { schema: { type: 'object', properties: { error: { type: 'string' } } } } },
          },
        },
      },
    }
  }
  return { openapi: '3.1.0', info: { title: 'Jury Box', version: '0.1.0' }, paths }
}

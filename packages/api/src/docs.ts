import { z } from 'zod'
import { endpoint } from './endpoint.ts'

/** The description of the API in OpenAPI 3.1. */
export const getOpenApi = endpoint({
  method: 'get',
  path: '/openapi.json',
  access: 'signed-in',
  summary: 'The description of the API in OpenAPI 3.1',
  response: z.record(z.string(), z.unknown()),
})

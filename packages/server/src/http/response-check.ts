import type { Endpoint } from '@jurybox/api/endpoint'
import { z } from 'zod'

/** A response that does not fit the schema of its endpoint: a fault of the server. */
export class ResponseMismatch extends Error {}

/**
 * Checks what an endpoint returns against its schema, as JSON carries it. For tests and development: it costs about as
 * much as making the response.
 */
export function responseCheck(endpoint: Endpoint): (result: unknown, isSent: boolean) => void {
  const where = `${endpoint.method.toUpperCase()} ${endpoint.path}`
  return (result, isSent) => {
    if (endpoint.file !== undefined || endpoint.events !== undefined) {
      if (!isSent) throw new ResponseMismatch(`${where} sends no file or stream`)
      return
    }
    if (!endpoint.response) {
      if (result !== undefined) throw new ResponseMismatch(`${where} returns something, its contract nothing`)
      return
    }
    const json: unknown = result === undefined ? undefined : JSON.parse(JSON.stringify(result))
    const fits = endpoint.response.safeParse(json)
    if (!fits.success) throw new ResponseMismatch(`${where} does not fit its contract:\n${z.prettifyError(fits.error)}`)
  }
}
